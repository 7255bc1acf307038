import { useJob } from '@/stores/job'
import { computed } from 'vue'

/** Where a finished station leads: to the one of the work that has something left, else to Verify. */
export function useOnward(here: 'replace' | 'bleed') {
  const store = useJob()
  return computed(() => {
    const other = here === 'bleed' ? 'replace' : 'bleed'
    const left = store.status?.stations.find((s) => s.id === other)?.left ?? 0
    return left > 0 ? other : 'verify'
  })
}
