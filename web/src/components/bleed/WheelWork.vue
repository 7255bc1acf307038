<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import AheadLine from './AheadLine.vue'
import BigCount from '@/components/BigCount.vue'
import Fig from '@/components/Fig.vue'
import NumField from '@/components/NumField.vue'
import type { BleedView } from '@/lib/bleeding'
import { t } from '@/lib/words'

/** The work at one wheel: the count, or what went through; after each opening clear or bubbles. */
const props = defineProps<{ view: BleedView; at: string; waiting: number; blocked: boolean; called: boolean }>()
const emit = defineEmits<{ stroke: [number?]; moved: [number]; together: []; seen: [boolean] }>()
const wheel = computed(() => props.view.wheels[props.at]!)
const counts = computed(() => props.view.entry?.counts ?? 'openings')
const strokes = computed(() => ['openings', 'strokes'].includes(counts.value))
/** Counted aloud and told at once: no more than the wheel still needs before its looks, and than the level bears. */
const many = computed(() => (props.at === props.view.current ? props.view.count_aloud : 0))
const volume = ref<number | null>(null)
/** What one pot or syringe may move now: a part of it where the reservoir bears no more. */
const container = computed(() => (props.view.entry?.container_cm3 ? props.view.ahead.step_cm3 : 0))
const whole = computed(() => props.view.entry?.container_cm3 ?? 0)
const part = computed(() => container.value > 0 && container.value < whole.value - 0.5)
/** More than the reservoir bears is a fact as well, but nothing told by a slip: it is asked once more. */
const sure = ref(false)
const tooMuch = computed(() => props.view.ahead.cm3 >= 0 && (volume.value ?? 0) > props.view.ahead.cm3 + 0.5)
watch(volume, () => (sure.value = false))
function moved(cm3: number | null, typed = false) {
  if (!cm3) return
  if (typed && tooMuch.value && !sure.value) {
    sure.value = true
    return
  }
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
    <button
      v-if="strokes && !called"
      type="button"
      class="tap"
      :disabled="blocked || !many"
      data-testid="stroke-many"
      @click="emit('stroke', many)"
    >
      {{ many ? t('ui.strokes_counted', { n: many }) : t('ui.strokes_one_by_one') }}
    </button>
    <div v-else-if="counts === 'steps'" class="row">
      <button
        type="button"
        class="tap main big"
        data-testid="tool-through"
        :disabled="blocked"
        @click="emit('moved', at === view.current ? view.ahead.step_cm3 : Math.max(1, wheel.left_cm3))"
      >
        {{ t('ui.tool_through', { id: at }) }}
      </button>
    </div>
    <div v-else class="row">
      <button
        v-if="whole"
        type="button"
        class="tap main big"
        :disabled="blocked || !container"
        data-testid="container"
        @click="moved(container)"
      >
        {{
          t(
            (counts === 'syringes' ? 'ui.syringe_' : 'ui.pot_') +
              (part ? 'part' : counts === 'syringes' ? 'in' : 'full'),
          )
        }}
        (<Fig name="cm3" :value="container || whole" />)
      </button>
      <button
        v-if="view.together"
        type="button"
        class="tap main big"
        :disabled="blocked"
        data-testid="together"
        @click="emit('together')"
      >
        {{ t('ui.together_ran', { n: Math.max(1, Math.round(view.together.minutes)) }) }}
      </button>
      <NumField v-model="volume" name="cm3" bound="bleed.moved_cm3" :label="t('ui.moved_cm3')" testid="moved" />
      <button
        type="button"
        class="tap"
        :disabled="!volume || blocked"
        data-testid="moved-store"
        @click="moved(volume, true)"
      >
        {{ t(sure ? 'ui.moved_sure' : 'ui.add') }}
      </button>
      <strong class="fig"
        ><Fig name="cm3" :value="wheel.cm3" /> / <Fig name="cm3" :value="wheel.cm3 + wheel.left_cm3"
      /></strong>
      <p v-if="tooMuch" class="problem small" role="alert" data-testid="too-much">
        {{ t(view.ahead.up ? 'ui.moved_over' : 'ui.moved_dry') }}
      </p>
    </div>
    <p v-if="strokes" class="small range" data-testid="range">
      {{ t(wheel.certain ? 'ui.certain_left' : 'ui.looks_left', { n: wheel.certain }) }}
    </p>
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
      <AheadLine v-if="!blocked" :view="view" />
      <span v-if="view.purpose !== 'air'"
        >{{ t('ui.old_here') }} <strong data-testid="old-here">{{ Math.round(wheel.old * 100) }} %</strong></span
      >
      <span v-if="wheel.round > 1">{{ t('ui.round', { n: wheel.round }) }}</span>
      <span v-if="wheel.lost">{{ t('ui.openings_lost', { n: wheel.lost }) }}</span>
    </p>
    <section v-if="wheel.not_clear?.length" class="caution" data-testid="not-clear">
      <strong>{{ t('ui.not_clear') }}</strong>
      <ol>
        <li v-for="c in wheel.not_clear" :key="c">{{ t('not_clear.' + c) }}</li>
      </ol>
    </section>
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
.range {
  margin: 0;
  min-height: 1.4em;
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
