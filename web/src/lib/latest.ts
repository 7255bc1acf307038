import { computed, onScopeDispose, shallowRef, watch, type ComputedRef } from 'vue'

/** How long what was put stands before the job is believed again: it was refused, or somebody else changed it. */
const patienceMs = 3000

/**
 * A value as it was put last, until the job says it too. Two taps quicker than the core answers must not build on the
 * same old value: the first would be lost.
 */
export function useLatest<T>(said: () => T, put: (v: T) => void): { now: ComputedRef<T>; set: (v: T) => void } {
  const mine = shallowRef<{ v: T } | null>(null)
  let waits: ReturnType<typeof setTimeout> | undefined
  const believe = () => {
    clearTimeout(waits)
    mine.value = null
  }
  watch(said, (v) => {
    if (mine.value && JSON.stringify(v ?? null) === JSON.stringify(mine.value.v ?? null)) believe()
  })
  onScopeDispose(() => clearTimeout(waits))
  return {
    now: computed(() => (mine.value ? mine.value.v : said())),
    set: (v) => {
      clearTimeout(waits)
      mine.value = { v }
      waits = setTimeout(believe, patienceMs)
      put(v)
    },
  }
}
