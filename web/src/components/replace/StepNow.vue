<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue'
import type { EventData } from '@/stores/outbox'
import type { Schemas } from '@/api/client'
import RodGauge from './RodGauge.vue'
import RodMeasures from './RodMeasures.vue'
import ProveNoVoltage from './ProveNoVoltage.vue'
import StepPhotos from './StepPhotos.vue'
import StepMore from './StepMore.vue'
import StepWait from './StepWait.vue'
import StepTell from './StepTell.vue'
import TorqueEntry from './TorqueEntry.vue'
import { useKeys } from '@/lib/keys'
import Said from '@/components/terms/Said.vue'
import { stepName } from '@/lib/plan'
import { t } from '@/lib/words'

/** The step in hand: what to do, with what, mind what; one tap or the space bar ticks it. */
const props = defineProps<{
  step: Schemas['PlanStep']
  number: number
  of: number
  tick: Schemas['JobTick'] | undefined
  blocked: string[]
  /** Points of new and old that nobody measured on both. */
  unmeasured: string[]
  mayBeAbsent: boolean
  limits: Schemas['JobJointLimits']
  touchable: Schemas['PlanTouches'][]
  /** It was chosen here, or came next by what was done here: then the space bar ticks it. */
  chosen: boolean
  /** Its count is still made at the bench. */
  toBench?: boolean
  /** Somebody else moved the page on to it just now. */
  moved: boolean
}>()
const emit = defineEmits<{ tick: [EventData] }>()
/** A step with a figure is ticked by its figure. */
const told = computed(() => [
  'close.bleed',
  'strip.look_in_booster',
  'prepare.compare_on_bench',
  ...(props.toBench ? ['fit.bench_bled'] : []),
])
const plain = computed(() => !props.step.torque && !props.step.measure && !told.value.includes(props.step.id))
const free = computed(() => props.blocked.length === 0)
/** A step that moved under the thumb takes no tap for a moment: the one under way was meant for another. */
const startled = ref(props.moved)
const calm = setTimeout(() => (startled.value = false), 1200)
onBeforeUnmount(() => clearTimeout(calm))
const onDone = (e: KeyboardEvent) => (e.target as HTMLElement | null)?.dataset?.testid === 'tick-' + props.step.id
useKeys({
  ' ': (e) => (props.chosen || onDone(e)) && plain.value && free.value && !startled.value && emit('tick', {}),
})
</script>

<template>
  <section class="field now" :data-testid="'step-' + step.id">
    <p class="small">{{ t('ui.step_in_hand') }} · {{ number }} / {{ of }} · {{ t('phase.' + step.phase) }}</p>
    <h2><Said :text="stepName(step)" /></h2>
    <p v-if="step.tools.length">{{ step.tools.map((x) => t('tool.' + x)).join(' · ') }}</p>
    <p v-for="c in step.cautions" :key="c" class="caution"><Said :text="t('caution.' + c)" /></p>
    <p v-if="step.single_use?.length" class="small">
      {{ t('ui.new_parts') }} {{ step.single_use.map((x) => t('item.' + x)).join(', ') }}
    </p>
    <p v-if="step.why" class="small" data-testid="ask-why">{{ t(step.why) }}</p>
    <p v-if="!free" class="problem">{{ t('ui.first') }} {{ blocked.map((b) => t('step.' + b)).join('; ') }}</p>
    <StepWait v-if="step.wait" :clock="step.wait as never" />
    <template v-if="free">
      <TorqueEntry
        v-if="step.torque"
        :id="step.id"
        :key="step.id"
        :torque="step.torque"
        @tick="(e) => emit('tick', e)"
      />
      <RodGauge
        v-if="step.measure === 'pushrod'"
        :last="tick?.rod"
        :done="false"
        :limits="limits"
        @tick="(rod) => emit('tick', { rod })"
      />
      <RodMeasures
        v-else-if="step.measure === 'rod_touch' || step.measure === 'rod_compare'"
        :kind="step.measure"
        :limits="limits"
        @tick="(e) => emit('tick', e)"
      />
      <StepTell
        v-else-if="told.includes(step.id)"
        :id="step.id"
        :unmeasured="unmeasured"
        :chosen="chosen"
        @tick="(e) => emit('tick', e)"
      />
      <ProveNoVoltage v-else-if="step.measure === 'volts'" :most="limits.volts_most" @tick="(e) => emit('tick', e)" />
      <button
        v-if="plain"
        type="button"
        class="tap main big"
        data-stroke
        :disabled="startled"
        :data-testid="'tick-' + step.id"
        :aria-label="`${t('ui.step_done')}: ${stepName(step)}`"
        @click="emit('tick', {})"
      >
        {{ t('ui.step_done') }}
      </button>
    </template>
    <StepPhotos :step="step.id" :name="stepName(step)" />
    <StepMore :step="step" :may-be-absent="mayBeAbsent" :touchable="touchable" @tick="(e) => emit('tick', e)" />
  </section>
</template>

<style scoped>
.now {
  border: 2.5px solid var(--ink);
  display: grid;
  gap: 8px;
}
h2 {
  font-size: 27px;
  line-height: 1.2;
}
p {
  margin: 0;
}
.big {
  min-height: 68px;
  font-size: 21px;
  justify-self: stretch;
}
</style>
