import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useJob, type Choices } from '@/stores/job'

/**
 * The job's choices, edited here and stored a moment later. While something is unsaved it wins over
 * what the server last said; a clash with someone else's edit is put to the person.
 */
export function useChoices() {
  const store = useJob()
  const key = 'geminate.choices.' + store.job!.id
  const kept = localStorage.getItem(key)
  const mine = ref<Choices | null>(kept ? JSON.parse(kept) : null)
  const choices = computed<Choices>(() => mine.value ?? store.job!.choices)
  const push = useDebounceFn(async () => {
    const now = mine.value
    if (!now) return
    const ok = await store.saveChoices(now).catch(() => false)
    if (mine.value === now && (ok || store.problem?.code !== 'problem.network')) {
      mine.value = null
      localStorage.removeItem(key)
    }
    if (store.problem?.code === 'problem.network') setTimeout(push, 2000)
  }, 200)
  function set(change: Partial<Choices>) {
    mine.value = { ...choices.value, ...change }
    localStorage.setItem(key, JSON.stringify(mine.value))
    return push()
  }
  watch(
    () => store.job?.id,
    () => (mine.value = null),
  )
  if (mine.value) void push()
  return { choices, set }
}
