<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import StepWait from '@/components/replace/StepWait.vue'
import RoutineWheels from './RoutineWheels.vue'
import WaterAsk from './WaterAsk.vue'
import { bleedStepName, type BleedView } from '@/lib/bleeding'
import { t } from '@/lib/words'

/** A step of the bleed that is no wheel: the reservoir, the tool's routine, codes. */
const props = defineProps<{ view: BleedView }>()
const emit = defineEmits<{ drawn: []; filled: []; ticked: [string, string[], string?] }>()
const step = computed(() => props.view.steps.find((s) => s.id === props.view.now))
const codes = ref('')
const list = computed(() =>
  codes.value
    .split(/[,;\n]+/)
    .map((s) => s.trim())
    .filter(Boolean),
)
function done() {
  const id = props.view.now
  if (id === 'drain' || id === 'drain_after') emit('drawn')
  else if (id === 'fill') emit('filled')
  else emit('ticked', id, list.value)
  codes.value = ''
}
</script>

<template>
  <div v-if="step" class="now" :data-testid="'bleed-step-' + step.id">
    <strong class="what">{{ bleedStepName(step.id) }}</strong>
    <p v-if="step.id === 'drain'" class="small">{{ t('ui.drain_note') }}</p>
    <WaterAsk v-if="step.id === 'drain'" :view="view" phase="diagnose" />
    <RoutineWheels
      v-if="step.id === 'modulator_routine'"
      :view="view"
      @wheel="(id) => emit('ticked', step!.id, [], id)"
    />
    <StepWait v-if="step.wait" :clock="step.wait as never" />
    <NInput
      v-if="step.id.startsWith('codes')"
      v-model:value="codes"
      :placeholder="t('ui.codes_come_back')"
      :input-props="{ 'aria-label': t('ui.codes_come_back') }"
    />
    <button type="button" class="tap main" data-testid="bleed-step-done" @click="done">
      {{
        t(
          step.id === 'drain' || step.id === 'drain_after'
            ? 'ui.drawn_off'
            : step.id === 'fill'
              ? 'ui.refilled'
              : step.id === 'modulator_routine'
                ? 'ui.routine_all'
                : 'ui.step_ticked',
        )
      }}
    </button>
  </div>
</template>

<style scoped>
.now {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 16px;
  border-left: 6px double var(--ink);
  padding: 6px 12px;
  margin-bottom: 10px;
}
.what {
  font-size: 20px;
  flex: 1 1 260px;
}
p {
  flex: 1 1 100%;
  margin: 0;
  order: 9;
}
</style>
