import { useLocalStorage, type RemovableRef } from '@vueuse/core'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** What is half typed at a station, kept on this device for this person and job until it is stored. */
export function useKept<T>(name: string, empty: T): RemovableRef<T> {
  const key = `geminate.kept.${useSession().user?.id ?? ''}.${useJob().job?.id ?? ''}.${name}`
  return useLocalStorage(key, empty, { writeDefaults: false })
}
