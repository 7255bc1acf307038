import { useIntervalFn, useLocalStorage, useVibrate } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { answer } from '@/core/answer'
import { newId } from '@/lib/id'
import { tone } from '@/lib/ring'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

export type CallView = Schemas['ServerCallView']
type Calling = Schemas['BleedCalling']
type CallIn = Partial<Schemas['BleedCallIn']>
export type Word = CallView['may'][number]

/** Says a call in the browser's own voice where there is one and it was not turned off; else a tone, and the hand feels it. */
function useSpeech() {
  const spoken = useLocalStorage('geminate.spoken', true)
  const { vibrate, isSupported } = useVibrate({ pattern: [200, 80, 200] })
  /** Each call is its own pitch, so that one knows it without a word. */
  const pitch: Record<string, number> = { pump: 440, hold: 550, open: 880, closed: 330, stop: 1320 }
  function speak(at: string, word: string) {
    if (isSupported.value) vibrate()
    if (!spoken.value) return
    if ('speechSynthesis' in window && window.speechSynthesis.getVoices().length) {
      window.speechSynthesis.cancel()
      window.speechSynthesis.speak(new SpeechSynthesisUtterance(word))
    } else tone(pitch[at] ?? 660, at === 'stop' ? 0.8 : 0.25)
  }
  return { spoken, speak }
}

/** A stream of calls, opened again when it breaks. */
function useCallStream(path: string, heard: (v: CallView) => void) {
  let source: EventSource | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  function open() {
    clearTimeout(timer)
    source?.close()
    if (typeof EventSource === 'undefined') return
    source = new EventSource(path)
    source.addEventListener('call', (e) => heard(JSON.parse((e as MessageEvent).data as string) as CallView))
    source.onerror = () => {
      if (source?.readyState === EventSource.CLOSED) timer = setTimeout(open, 2000)
    }
  }
  onMounted(open)
  onBeforeUnmount(() => {
    clearTimeout(timer)
    source?.close()
  })
}

const signMS = 1000

/**
 * One side of the calls. A sign goes to and fro every second: what has not been heard for three is told, and nobody waits for
 * a word that is not coming. One tap is one word, however it bounces; a tap that did nothing says so.
 */
function useSide(who: 'bleeder' | 'seat', post: (body: CallIn) => Promise<CallView>, live: string) {
  const view = ref<CallView | null>(null)
  const note = ref('')
  const { spoken, speak } = useSpeech()
  let tapped = -Infinity
  let heardAt = performance.now()
  const now = ref(heardAt)
  /** Whether the last word or sign came through; whether the shop's server was heard of lately; and whether the other one was. */
  const failed = ref(false)
  const apart = computed(() => failed.value || now.value - heardAt > 1000 * (view.value?.silent_s ?? 0))
  const shout = computed(() => !!view.value && (apart.value || view.value.other === 'gone'))
  let said = ''
  function take(v: CallView, heard = true) {
    if (heard) now.value = heardAt = performance.now()
    const was = view.value
    if (was && v.calling.id === was.calling.id && v.calling.n < was.calling.n) return
    view.value = v
    const key = `${v.calling.id}-${v.calling.n}`
    if (!was || key === said || (v.calling.n === was.calling.n && v.calling.id === was.calling.id)) return
    said = key
    note.value = ''
    // What the other one said; and for one alone, what is to be called out.
    if (v.calling.by !== who || v.alone) speak(v.calling.at, t('call.' + v.calling.at, { n: v.pumps }))
  }
  /** Whether a tap counts: not a bounce of the one before. */
  function counts(e?: Event) {
    const at = e?.timeStamp ?? performance.now()
    if (at - tapped < 1000 * (view.value?.least_gap_s ?? 0)) return false
    tapped = at
    return true
  }
  /** Sends what was said; the note says where it did nothing. */
  async function send(body: CallIn) {
    const n = view.value?.calling.n
    const v = await post(body).catch((e: unknown) => {
      failed.value = e instanceof Refused && e.offline
      throw e
    })
    failed.value = false
    take(v)
    if (body.word && v.calling.n === n) note.value = 'ui.call_too_late'
    return v
  }
  const sign = useIntervalFn(() => (now.value = performance.now()), signMS / 4)
  onBeforeUnmount(() => sign.pause())
  useCallStream(live, take)
  return { view, note, spoken, apart, shout, take, counts, send }
}

/**
 * The calls at the bleeder. The server keeps them for both screens; without one the core here goes on alone, one screen
 * read aloud, and the two are made one when it is heard again.
 */
export function useCalls(
  at: () => { wheel: string; method: string },
  ended: (outcome: 'opening' | 'lost', id: string) => void,
) {
  const id = useJob().job!.id
  const side = useSide(
    'bleeder',
    (body) => ask(api.POST('/api/jobs/{id}/call', { params: { path: { id } }, body: { after: 0, ...body } })),
    `/api/jobs/${id}/call/live`,
  )
  const { view, note, counts, send, take } = side
  /** Where this screen stands when it went on alone. */
  let alone: Calling | null = null
  let busy = false
  const told = new Set<string>()
  watch(view, (v) => {
    if (!v || (v.outcome !== 'opening' && v.outcome !== 'lost')) return
    // By how many openings there were: a switch turned on or a sign makes a later view of the same opening, and none of its own.
    const key = `call-${v.calling.id}-${v.calling.openings}-${v.calling.lost_openings}`
    if (told.has(key)) return
    told.add(key)
    ended(v.outcome, key)
  })
  async function onward(body: CallIn) {
    if (alone) return goAlone(body)
    try {
      await send(body)
    } catch (e) {
      if (!(e instanceof Refused)) return
      if (e.offline) return goAlone(body)
      note.value = e.problem.code
    }
  }
  async function goAlone(body: CallIn) {
    try {
      const ask = { ...body, after: 0, id: newId(), calling: view.value?.calling, now: new Date().toISOString() }
      const v = await answer(id, 'call', ask, () => Promise.reject(new Error('no server')))
      alone = v.calling
      take({ ...v, other: 'gone', vehicle: '' }, false)
    } catch {
      note.value = 'problem.not_said_now'
    }
  }
  /** The sign that this screen is there, and what it did alone. */
  async function signOn() {
    if (busy || !view.value) return
    busy = true
    try {
      const mine = alone
      const v = await send(mine ? { merge: mine } : {})
      if (mine && alone === mine) alone = null
      take(v)
    } catch (e) {
      if (e instanceof Refused && !e.offline) alone = null // not taken: what the server keeps holds
    } finally {
      busy = false
    }
  }
  const say = (word: Word, e?: Event, more: CallIn = {}) => {
    if (word !== 'stop' && !counts(e)) return
    void onward({ word, after: view.value?.calling.n ?? 0, ...more })
  }
  /** Begins at another wheel; where another screen has begun there it goes on with that one. */
  async function begin() {
    const { wheel, method } = at()
    try {
      if (!alone) view.value = await ask(api.GET('/api/jobs/{id}/call', { params: { path: { id } } }))
    } catch {
      /* alone */
    }
    const c = view.value?.calling
    if (!c || c.wheel !== wheel || c.pump === (method === 'hold_hard')) {
      await onward({ begin: wheel, with: method as never })
    }
  }
  watch(
    () => at().wheel + at().method,
    () => void begin(),
    { immediate: true },
  )
  const signs = useIntervalFn(() => void signOn(), signMS)
  onBeforeUnmount(() => signs.pause())
  /** What one tap says: the first of what may be said that goes on. */
  const next = computed(() => view.value?.may.find((w) => !['stop', 'lifted', 'fill'].includes(w)))
  return { ...side, say, next }
}

/** The calls in the seat, with a pass. */
export function useSeat(pass: string) {
  const problem = ref('')
  const side = useSide(
    'seat',
    (body) => ask(api.POST('/api/calls/{pass}', { params: { path: { pass } }, body: { after: 0, ...body } })),
    `/api/calls/${pass}/live`,
  )
  const { view, note, counts, send } = side
  /** A stop, or a foot that came up, that was not heard yet is said until it is. */
  const stopping = ref(false)
  let lifted = false
  let busy = false
  async function sent(body: CallIn) {
    try {
      await send(body)
      problem.value = ''
      if (body.word === 'stop') stopping.value = false
      if (body.word === 'lifted') lifted = false
    } catch (e) {
      if (!(e instanceof Refused)) return
      if (e.problem.code === 'problem.pass') problem.value = e.problem.code
      else if (body.word) note.value = e.offline ? 'ui.call_not_sent' : e.problem.code
      if (!e.offline && body.word === 'stop') stopping.value = false
      if (body.word === 'lifted') lifted = e.offline
    }
  }
  const say = (word: Word, e?: Event) => {
    if (word === 'stop') stopping.value = true
    else if (word !== 'lifted' && !counts(e)) return
    void sent({ word, after: view.value?.calling.n ?? 0 })
  }
  const signs = useIntervalFn(
    async () => {
      if (busy) return
      busy = true
      await sent(stopping.value ? { word: 'stop' } : lifted ? { word: 'lifted', late: true } : {})
      busy = false
    },
    signMS,
    { immediateCallback: true },
  )
  onBeforeUnmount(() => signs.pause())
  const auto = (on: boolean) => void sent({ auto: on })
  return { ...side, say, auto, problem, stopping }
}
