<script setup lang="ts">
import { computed, ref } from 'vue'
import BigCount from '@/components/BigCount.vue'
import Fig from '@/components/Fig.vue'
import NumField from '@/components/NumField.vue'
import type { BleedView } from '@/lib/bleeding'
import { t } from '@/lib/words'

/** The work at one wheel: the count, or what went through; after each opening clear or bubbles. */
const props = defineProps<{ view: BleedView; at: string; waiting: number; blocked: boolean; called: boolean }>()
const emit = defineEmits<{ stroke: []; moved: [number]; seen: [boolean] }>()
const wheel = computed(() => props.view.wheels[props.at]!)
const counts = computed(() => props.view.entry?.counts ?? 'openings')
const strokes = computed(() => ['openings', 'strokes'].includes(counts.value))
const volume = ref<number | null>(null)
const container = computed(() => props.view.entry?.container_cm3 ?? 0)
function moved(cm3: number | null) {
  if (!cm3) return
  emit('moved', cm3)
  volume.value = null
}
</script>

<template>
  <div class="work">
    <p v-if="strokes && called" class="fig slim">
      <strong data-testid="count">{{ wheel.strokes }}</strong>
      {{ t('ui.of', { n: Math.max(wheel.needed, wheel.strokes) }) }}
    </p>
    <BigCount
      v-else-if="strokes"
      :count="wheel.strokes"
      :of="Math.max(wheel.needed, wheel.strokes)"
      :label="t(blocked ? 'ui.stroke_blocked' : 'ui.stroke_space')"
      :disabled="blocked"
      :waiting="waiting"
      :gap="view.least_gap_s"
      @stroke="emit('stroke')"
    />
    <div v-else-if="counts === 'steps'" class="row">
      <button
        type="button"
        class="tap main big"
        data-testid="tool-through"
        @click="emit('moved', Math.max(1, wheel.left_cm3))"
      >
        {{ t('ui.tool_through', { id: at }) }}
      </button>
    </div>
    <div v-else class="row">
      <button
        v-if="container"
        type="button"
        class="tap main big"
        :disabled="blocked"
        data-testid="container"
        @click="moved(container)"
      >
        {{ t(counts === 'syringes' ? 'ui.syringe_in' : 'ui.pot_full') }} (<Fig name="cm3" :value="container" />)
      </button>
      <NumField v-model="volume" name="cm3" :label="t('ui.moved_cm3')" :min="0" :max="1000" testid="moved" />
      <button type="button" class="tap" :disabled="!volume || blocked" data-testid="moved-store" @click="moved(volume)">
        {{ t('ui.add') }}
      </button>
      <strong class="fig"
        ><Fig name="cm3" :value="wheel.cm3" /> / <Fig name="cm3" :value="wheel.cm3 + wheel.left_cm3"
      /></strong>
    </div>
    <div class="row seen">
      <button
        type="button"
        class="tap"
        :class="{ main: wheel.enough }"
        :disabled="!wheel.enough"
        data-testid="clear"
        @click="emit('seen', true)"
      >
        {{ t('ui.runs_clear') }}
      </button>
      <button type="button" class="tap" data-testid="bubbles" :disabled="!wheel.cm3" @click="emit('seen', false)">
        {{ t('ui.bubbles') }}
      </button>
      <span v-if="wheel.clear_of > 1" class="fig" data-testid="clear-row">{{
        t('ui.clear_row', { n: wheel.clear_row, of: wheel.clear_of })
      }}</span>
    </div>
    <p class="meter fig">
      <span>{{ t('ui.level') }} <Fig name="cm3" :value="view.level_cm3" /></span>
      <span v-if="view.refill_in_strokes > 0" data-testid="refill-in">{{
        t('ui.next_fill', { n: view.refill_in_strokes })
      }}</span>
      <span v-if="view.purpose !== 'air'"
        >{{ t('ui.old_here') }} <strong data-testid="old-here">{{ Math.round(wheel.old * 100) }} %</strong></span
      >
      <span v-if="wheel.round > 1">{{ t('ui.round', { n: wheel.round }) }}</span>
      <span v-if="wheel.lost">{{ t('ui.openings_lost', { n: wheel.lost }) }}</span>
    </p>
  </div>
</template>

<style scoped>
.work {
  display: grid;
  gap: 10px;
}
.big {
  min-height: 96px;
  font-size: 24px;
  flex: 1 1 260px;
}
.slim {
  font-size: 26px;
  margin: 0;
}
.seen .tap {
  min-height: 60px;
  font-size: 19px;
}
.meter {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  margin: 0;
  font-size: 18px;
}
</style>
