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
  <div class="field" data-testid="joint-side">
    <JointDrawing
      v-if="store.system && shown.view"
      :system="store.system"
      :off="shown.view.off"
      :lit="step?.parts ?? []"
      :present="shown.view.plan.present"
      :lines="shown.view.plan.lines"
    />
    <p v-if="step" class="small">{{ stepName(step) }}</p>
    <p class="small">{{ t('caution.safety') }}</p>
  </div>
</template>
