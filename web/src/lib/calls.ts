import { useLocalStorage } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { answer } from '@/core/answer'
import { newId } from '@/lib/id'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

export type CallView = Schemas['ServerCallView']
type Word = CallView['may'][number]

/** Speaks a call in the browser's own voice, where there is one and it was not turned off. */
export function useSpeech() {
  const spoken = useLocalStorage('geminate.spoken', true)
  function speak(word: string) {
    if (!spoken.value || !('speechSynthesis' in window)) return
    window.speechSynthesis.cancel()
    window.speechSynthesis.speak(new SpeechSynthesisUtterance(word))
  }
  return { spoken, speak }
}

/** A stream of calls, opened again when it breaks. */
export function useCallStream(path: () => string, heard: (v: CallView) => void) {
  let source: EventSource | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  function open() {
    clearTimeout(timer)
    source?.close()
    if (typeof EventSource === 'undefined') return
    source = new EventSource(path())
    source.addEventListener('call', (e) => heard(JSON.parse((e as MessageEvent).data as string) as CallView))
    source.onerror = () => {
      if (source?.readyState === EventSource.CLOSED) timer = setTimeout(open, 3000)
    }
  }
  onMounted(open)
  onBeforeUnmount(() => {
    clearTimeout(timer)
    source?.close()
  })
}

/**
 * The calls at the bleeder. The server keeps them for both screens; without one the core here goes on alone, one screen
 * read aloud.
 */
export function useCalls(
  at: () => { wheel: string; method: string },
  ended: (outcome: 'opening' | 'lost', id: string) => void,
) {
  const store = useJob()
  const id = store.job!.id
  const view = ref<CallView | null>(null)
  const { spoken, speak } = useSpeech()
  let told = -1
  function take(v: CallView) {
    const was = view.value
    if (was && v.calling.n < was.calling.n && was.calling.wheel === v.calling.wheel) return
    view.value = v
    if (!was || v.calling.n === told || v.calling.n === was.calling.n) return
    told = v.calling.n
    if (v.calling.by === 'bleeder') speak(t('call.' + v.calling.at, { n: v.pumps }))
    if (v.outcome === 'opening' || v.outcome === 'lost') ended(v.outcome, `call-${v.calling.id}-${v.calling.n}`)
  }
  async function send(body: Schemas['BleedCallIn']) {
    try {
      take(await ask(api.POST('/api/jobs/{id}/call', { params: { path: { id } }, body })))
    } catch (e) {
      if (!(e instanceof Refused) || !e.offline) return
      const alone = { ...body, id: newId(), calling: view.value?.calling }
      take({ ...(await answer(id, 'call', alone, () => Promise.reject(e))), helper: false, vehicle: '' })
    }
  }
  const say = (word: Word | string) => send({ word: word as Word, after: view.value?.calling.n ?? 0 })
  /** Begins at another wheel; where another screen has begun there it goes on with that one. */
  async function begin() {
    const { wheel, method } = at()
    try {
      view.value = await ask(api.GET('/api/jobs/{id}/call', { params: { path: { id } } }))
    } catch {
      view.value = null
    }
    const c = view.value?.calling
    if (!c || c.wheel !== wheel || c.pump === (method === 'hold_hard')) {
      await send({ begin: wheel, with: method as never, after: 0 })
    }
  }
  watch(
    () => at().wheel + at().method,
    () => void begin(),
    { immediate: true },
  )
  useCallStream(() => `/api/jobs/${id}/call/live`, take)
  /** What one tap says: the first of what may be said that goes on. */
  const next = computed(() => view.value?.may.find((w) => !['stop', 'lifted', 'fill'].includes(w)))
  return { view, say, next, spoken }
}
