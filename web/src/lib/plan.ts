import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useChoices } from '@/lib/choices'
import { t } from '@/lib/words'

/** What a step says: a step of the technician's own says it itself. */
export const stepName = (s: Schemas['PlanStep']) => s.own || t('step.' + s.id)

/** What is known and decided about the joint. */
export function useJoint() {
  const { choices, set } = useChoices()
  const joint = computed<Schemas['JobJointSetup']>(() => choices.value.joint ?? {})
  return { joint, set: (change: Schemas['JobJointSetup']) => set({ joint: { ...joint.value, ...change } }) }
}
