<script setup lang="ts">
import { computed } from 'vue'
import NumField from '@/components/NumField.vue'
import StateMark from '@/components/StateMark.vue'
import { methodName, type BleedView } from '@/lib/bleeding'
import { useChoices } from '@/lib/choices'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Every way to bleed: the best for these hands, tools and temperature first, and of the others why not. */
const props = defineProps<{ view: BleedView }>()
const store = useJob()
const { choices, set } = useChoices()
type Bleed = typeof choices.value.bleed
const bleed = (change: Partial<Bleed>) => void set({ bleed: { ...choices.value.bleed, ...change } })
const mover = computed(() => props.view.entry?.mover ?? 'foot')
function pick(o: BleedView['offers'][number]) {
  bleed({ method: o.id, ...(o.usual_kpa ? { drive_kpa: o.usual_kpa } : {}) })
}
</script>

<template>
  <ul class="offers">
    <li v-for="o in view.offers" :key="o.id">
      <button
        type="button"
        class="tap way"
        :class="{ unfit: !o.fit }"
        :aria-pressed="view.method === o.id"
        :disabled="!o.possible && view.method !== o.id"
        :data-testid="'method-' + o.id"
        @click="pick(o)"
      >
        <StateMark :state="o.fit ? 'ok' : 'failed'" />
        <strong>{{ methodName(o.id, store.isTrailer) }}</strong>
        <span v-if="o.fit && o.minutes" class="fig">{{ Math.round(o.minutes) }} min</span>
        <span v-if="o.why" class="small">{{ t(o.why) }}</span>
      </button>
    </li>
  </ul>
  <div class="cols gap">
    <NumField
      v-if="mover === 'foot'"
      :model-value="choices.bleed.stroke_mm"
      name="mm"
      bound="bleed.stroke_mm"
      :label="t('ui.stroke_used')"
      @update:model-value="(v) => v && bleed({ stroke_mm: v })"
    />
    <NumField
      v-else-if="mover === 'head'"
      :model-value="choices.bleed.head_mm"
      name="mm"
      bound="bleed.head_mm"
      :label="t('ui.head')"
      @update:model-value="(v) => v != null && bleed({ head_mm: v })"
    />
    <NumField
      v-else-if="mover !== 'tool'"
      :model-value="choices.bleed.drive_kpa"
      name="kpa"
      bound="bleed.drive_kpa"
      :label="t('ui.pressure_used')"
      @update:model-value="(v) => v && bleed({ drive_kpa: v })"
    />
    <NumField
      :model-value="choices.bleed.temperature_c"
      name="c"
      bound="bleed.temperature_c"
      :label="t('field.ambient.temperature_c')"
      @update:model-value="(v) => v != null && bleed({ temperature_c: v })"
    />
  </div>
  <button
    type="button"
    class="tap gap"
    :aria-pressed="!!choices.bleed.feed_bottle"
    @click="bleed({ feed_bottle: !choices.bleed.feed_bottle })"
  >
    {{ t('ui.feed_bottle') }}
  </button>
</template>

<style scoped>
.offers {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.way {
  width: 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: center;
  justify-content: flex-start;
  text-align: left;
}
.unfit strong {
  color: var(--ink-2);
}
.gap {
  margin-top: 10px;
}
</style>
