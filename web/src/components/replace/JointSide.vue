<script setup lang="ts">
import { computed } from 'vue'
import JointDrawing from './JointDrawing.vue'
import { stepName } from '@/lib/plan'
import { useReplaceShown } from '@/lib/shown'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** The joint beside the plan. */
const store = useJob()
const shown = useReplaceShown()
const step = computed(() => shown.view?.plan.steps.find((s) => s.id === shown.hand))
</script>

<template>
  <div class="field joint" data-testid="joint-side">
    <JointDrawing
      v-if="store.system && shown.view"
      :system="store.system"
      :off="shown.view.off"
      :started="shown.view.started"
      :lit="step?.parts ?? []"
      :present="shown.view.plan.present"
      :lines="shown.view.plan.lines"
    />
    <div>
      <p v-if="step" class="small">{{ stepName(step) }}</p>
      <p class="small">{{ t('caution.safety') }}</p>
    </div>
  </div>
</template>

<style scoped>
/* On a tablet the drawing stands beside its words, so that the step in hand stays in view. */
@media (max-width: 1000px) {
  .joint {
    display: grid;
    grid-template-columns: minmax(0, 330px) 1fr;
    gap: 14px;
    align-items: center;
    padding: 6px 14px;
  }
}
@media (max-width: 560px) {
  .joint {
    grid-template-columns: 1fr;
  }
}
</style>
