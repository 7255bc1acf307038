import { useDebounceFn } from '@vueuse/core'
import { computed, effectScope, ref, watch } from 'vue'
import { drafts, draftRefused, draftStored, inTurn } from './drafts'
import { useJob, type Choices } from '@/stores/job'

/** The choices that other work hangs on. */
const decides: (keyof Choices)[] = ['scope', 'unit', 'booster', 'joint']

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
  let saving = false
  async function saveLatest() {
    if (!mine.value || saving) return
    saving = true
    await inTurn('choices', id, saveNow).catch(() => {})
    saving = false
    if (store.unreached) return void setTimeout(saveLatest, 2000)
    if (drafts.get('choices', id)) return void saveLatest() // edited meanwhile
    mine.value = null
    await store.show()
  }
  // The version the edit began from is the draft's: one that comes in meanwhile must not make it look fresh, and the
  // outbox may have stored a part of it before its own readings.
  async function saveNow() {
    const draft = drafts.get<Choices>('choices', id)
    if (!draft) return
    if (await store.saveChoices(draft.value, draft.base)) {
      draftStored('choices', id, draft.value, store.seen.choices)
    } else if (store.conflict?.part === 'choices') {
      drafts.drop('choices', id) // put to the person, with all that was typed
    } else if (!store.unreached) {
      draftRefused('choices', id, draft.value, () => drafts.drop('choices', id)) // said so
    }
  }
  const push = useDebounceFn(saveLatest, 200)
  /** What a change of unit, scope or school would ask for again is shown before it counts. */
  function set(change: Partial<Choices>): Promise<unknown> {
    if (!decides.some((k) => k in change) || !store.worked()) return put(change)
    return store.mind({ ...choices.value, ...change }).then((go) => (go ? put(change) : undefined))
  }
  function put(change: Partial<Choices>) {
    const base = drafts.get('choices', id)?.base ?? store.seen.choices
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
