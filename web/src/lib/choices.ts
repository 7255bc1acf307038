import { useDebounceFn } from '@vueuse/core'
import { computed, effectScope, ref, watch } from 'vue'
import { drafts } from './drafts'
import { useJob, type Choices } from '@/stores/job'

/**
 * The job's choices, edited here and stored a moment later. While something is unsaved it wins over
 * what the server last said; a clash with someone else's edit is put to the person. Every part of a
 * station edits the same copy: two copies would each store the other's fields as they were.
 */
export function useChoices() {
  const store = useJob()
  const have = editors.get(store)
  if (have?.id === store.job!.id) return have.editor
  // Outside any component: the part of the page that came first may be the first to go.
  const editor = effectScope(true).run(makeEditor)!
  editors.set(store, { id: store.job!.id, editor })
  return editor
}

type Editor = ReturnType<typeof makeEditor>
const editors = new WeakMap<object, { id: string; editor: Editor }>()

function makeEditor() {
  const store = useJob()
  const id = store.job!.id
  const kept = drafts.get<Choices>('choices', id)
  const mine = ref<Choices | null>(kept?.value ?? null)
  const choices = computed<Choices>(() => mine.value ?? store.job!.choices)
  // The version the edit began from: one that comes in meanwhile must not make it look fresh.
  let base = kept?.base ?? 0
  let saving = false
  // One at a time: a second save under the first one's version would look like someone else's edit.
  async function saveLatest() {
    const now = mine.value
    if (!now || saving) return
    saving = true
    const stored = await store.saveChoices(now, base || undefined).catch(() => false)
    saving = false
    if (stored) base = store.stored?.choices_version ?? 0
    const offline = store.unreached
    if (mine.value !== now) return void saveLatest()
    if (offline) return void setTimeout(saveLatest, 2000)
    mine.value = null // stored, or refused and said so, or put to the person as a conflict
    drafts.drop('choices', id)
    await store.show()
  }
  const push = useDebounceFn(saveLatest, 200)
  function set(change: Partial<Choices>) {
    if (!mine.value) base = (store.stored ?? store.job)!.choices_version
    mine.value = { ...choices.value, ...change }
    drafts.put('choices', id, { base, value: mine.value, said: true })
    void store.show()
    return push()
  }
  watch(
    () => store.job?.id,
    () => {
      mine.value = null
      editors.delete(store)
    },
  )
  if (mine.value) void push()
  return { choices, set }
}
