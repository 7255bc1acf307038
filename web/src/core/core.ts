import type { paths } from '@/api/schema'
import { shopNow } from '@/lib/clock'
import { Refused, type JobView, type Problem, type Schemas, type Unit } from '@/api/client'

/** What the API answers at a job's address of this name: the core answers the same to the same name. */
type At<K extends string> =
  paths extends Record<`/api/jobs/{id}/${K}`, infer P> ? JSONOf<P, 'get'> | JSONOf<P, 'post'> : never
type JSONOf<P, M extends string> =
  P extends Record<M, { responses: { 200: { content: { 'application/json': infer A } } } }> ? A : never
type Names<P> = P extends `/api/jobs/{id}/${infer K}` ? K : never

/** What the core answers of a job, by the name it has in the API. */
export type Answers = { [K in Exclude<Names<keyof paths>, 'call' | 'log'>]: At<K> } & {
  call: Omit<Schemas['ServerCallView'], 'other' | 'vehicle'>
}

export interface LogEvent {
  id: string
  seq: number
}

export interface WaitingEvent {
  id: string
  kind: string
  at: string
  base?: number
  device?: string
  data: unknown
}

export interface Shown {
  view: JobView
  refused: { id: string; problem: Problem }[]
  /** The versions of the parts as the server has them: what an edit of what is shown begins from. */
  intake_version: number
  choices_version: number
}

/** What the server says of a job: a whole view, events of its log, or both. */
export interface News {
  id: string
  view?: JobView
  events?: LogEvent[]
  dress?: Schemas['JobDress'] | null
}

/** What a picture comes to, with the edges it was worked out from. */
export type OnPhoto = Schemas['PhotoMeasured'] & { seen?: Schemas['PhotoSeen'] | null }

/** How far a job is known to the core. */
export interface Known {
  /** The seq of the last event folded. */
  head: number
  /** All that came was shown already, just so. */
  same: boolean
  /** Events are missing after `have` before it can go on. */
  short: boolean
  have: number
  /** The server folds by newer rules than this page's core. */
  newer: boolean
}

type Answer = { ok?: unknown; problem?: Problem }

/** Makes the worker; tests put their own in its place. */
const home = {
  worker: (): Worker | null =>
    typeof Worker === 'undefined'
      ? null
      : new Worker(new URL('./worker.ts', import.meta.url), { type: 'module', name: 'core' }),
}

const lateMS = 10_000
/** The end of an exercise is worked out beside the engine's own way on the same vehicle: that takes seconds. */
const endMS = 120_000

let worker: Worker | null | undefined
let up = false
/** Whether the core has answered yet: until then the server's own answers are drawn. */
export const coreUp = () => up
let count = 0
const open = new Map<number, { done: (a: Answer) => void; failed: (e: unknown) => void }>()

/** The core could not be started here: this browser then shows what the server says, and nothing before it. */
export class NoCore extends Error {}

function start(): Worker | null {
  if (worker !== undefined) return worker
  try {
    worker = home.worker()
  } catch {
    worker = null
  }
  if (!worker) return null
  worker.onmessage = (e: MessageEvent<{ n: number; out?: string; broken?: string }>) => {
    const w = open.get(e.data.n)
    open.delete(e.data.n)
    up = true
    // When it could first be asked is worth knowing on a slow tablet.
    if (e.data.n === 1) performance.mark?.('core-ready')
    if (e.data.broken !== undefined) w?.failed(new NoCore(e.data.broken))
    else w?.done(JSON.parse(e.data.out!) as Answer)
  }
  worker.onerror = () => {
    worker = null
    for (const w of open.values()) w.failed(new NoCore())
    open.clear()
  }
  return worker
}

/** The core is slow to answer, on a busy tablet or while it starts: the server may be asked; where it is away this is still coming. */
export class Late<T = unknown> extends NoCore {
  constructor(readonly coming: Promise<T>) {
    super('late')
  }
}

async function call<T>(method: string, input: unknown, patienceMS = lateMS): Promise<T> {
  const w = start()
  if (!w) throw new NoCore()
  const answered = new Promise<Answer>((done, failed) => {
    const n = ++count
    open.set(n, { done, failed })
    w.postMessage({ n, method, input: JSON.stringify(input) })
  }).then((a) => {
    if (a.problem) throw new Refused(422, a.problem)
    return a.ok as T
  })
  answered.catch(() => {}) // whoever waits hears it; after its time nobody may
  // A worker that never answers (its code did not arrive) must not hold the page.
  let late: ReturnType<typeof setTimeout> | undefined
  const patience = new Promise<never>((_, failed) => {
    late = setTimeout(() => failed(new Late(answered)), patienceMS)
  })
  return Promise.race([answered, patience]).finally(() => clearTimeout(late))
}

/** The job's rules, here in the browser. */
export const core = {
  /** Takes what the server says of a job and of its log; what it has already is not sent again. */
  confirm: (news: News) => call<Known>('confirm', news),
  /** The job with what waits to be sent. */
  show: (
    id: string,
    by: { id: string; name: string; role: string },
    events: WaitingEvent[],
    edits: { part: string; value: unknown }[] = [],
  ) => call<Shown>('show', { id, by, events, edits, now: new Date(shopNow()).toISOString() }),
  /** Opens a job here, where the server cannot be reached, under ids made here. */
  open: (id: string, event_id: string, by: { id: string; name: string; role: string }, job: Schemas['ServerNewJob']) =>
    call<{ view: JobView; event: LogEvent }>('open', { id, event_id, by, job, now: new Date(shopNow()).toISOString() }),
  /** The vehicle of free practice, worked here: how it stands, or what an act gives. */
  practise: (id: string, own: Schemas['PracticeOwn'], act?: Schemas['ProvingAct']) =>
    call<Schemas['PracticeView']>('practise', { id, ...own, ...(act && { act }) }),
  /** What it came to. */
  practised: (id: string, own: Schemas['PracticeOwn']) =>
    call<Schemas['PracticeResult']>('practise', { id, ...own, end: true }, endMS),
  /** The strokes of a travel that have come up again after a moment, and up to when. */
  strokes: (travel: { s: number; v: number }[], after_s: number) =>
    call<{ n: number; up_to_s: number }>('strokes', { travel, after_s }),
  /** A picture's brightness, kept for the taps on it. */
  picture: (p: { wide_px: number; high_px: number; luma: string }) => call<object>('picture', p),
  /** What was tapped on it: edges near the taps, and the figures. */
  tap: (ask: Schemas['PhotoAsk']) => call<OnPhoto>('tap', { ask }),
  /** A tool in the pocket, of no job. */
  tilt: (given: Schemas['MotionTiltIn']) => call<Schemas['MotionTilt']>('pocket', { tool: 'tilt', in: given }),
  travel: (given: Schemas['MotionTravelIn']) =>
    call<Schemas['MotionTravelled']>('pocket', { tool: 'travel', in: given }),
  ask: <K extends keyof Answers>(id: string, what: K, input?: unknown, shelf: Unit[] = []) =>
    call<Answers[K]>('ask', { id, what, in: input ?? null, shelf, now: new Date(shopNow()).toISOString() }),
}
