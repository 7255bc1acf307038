import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import { api, ask, Refused, whenSignedOut, type JobView, type Problem, type Schemas } from '@/api/client'
import type { LogEvent, WaitingEvent } from '@/core/core'
import { drafts, draftRefused, draftStored, inTurn, type Part } from '@/lib/drafts'
import { shopNow } from '@/lib/clock'
import { deviceId, newId } from '@/lib/id'
import { askToPersist, attempt, local, write, type WaitingRow } from '@/lib/local'
import { useSession } from './session'

/** Every field any of them has, with all it may be. */
type AllOf<U> = {
  [K in U extends unknown ? keyof U : never]: U extends Record<K, infer V>
    ? V
    : U extends Partial<Record<K, infer V>>
      ? V
      : never
}
/** Kinds that carry nothing are described as an object of anything: they add no field. */
type Named<U> = U extends unknown ? (string extends keyof U ? never : U) : never
/** What an event may carry; which fields belong to a kind is the core's to say. */
export type EventData = Partial<AllOf<Named<Schemas['ServerEventData']>>>
export type Event = Omit<Schemas['ServerEventIn'], 'data'> & { data: EventData }

/** What came of events: they as they were stored, how far the log goes, and the whole job where it was asked for. */
export interface Told {
  id: string
  head: number
  events: LogEvent[]
  view?: JobView
}

/** A job opened here waits as the first of its events, and is none of them. */
export const openKind = 'open' as Event['kind']
const opens = (w: WaitingRow) => w.event.kind === (openKind as string)

const firstPause = 2000
const longestPause = 60_000
/** How long a refusal stands at the least, ms: long enough to be read with wet gloves on. */
const readMS = 12_000
const atOnce = 100

/** What tabs of one browser tell each other. */
interface Broadcast {
  job: string
  said?: Told
}

const others = typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel('geminate.outbox')

/** Whether a call may go well another time: nothing was judged. */
export const later = (e: Refused) =>
  e.offline || e.status >= 500 || [401, 429].includes(e.status) || e.problem.code === 'problem.csrf'

/** How long another tab may hold the line, ms: one that was frozen with it in hand would hold it for ever. */
const patienceMS = 10_000

/** One sender among all tabs, where the browser can say so; without, the ids keep a second sending from counting. */
export class Line {
  private shutOut: number | null = null
  async alone(send: () => Promise<void>) {
    const locks = (navigator as { locks?: LockManager }).locks
    if (!locks) return send()
    const sent = await locks.request('geminate.send', { ifAvailable: true }, async (got) => {
      if (got) await send()
      return !!got
    })
    if (sent) this.shutOut = null
    else if (performance.now() - (this.shutOut ??= performance.now()) > patienceMS) await send()
  }
}

/** What the sender of one page holds beside what waits: made anew with each store, nothing of it is the module's. */
class Sender {
  readonly line = new Line()
  /** The sending under way; whoever asks for one meanwhile waits for this, and for what came in since. */
  running: Promise<void> | null = null
  again = false
  timer: ReturnType<typeof setTimeout> | undefined
  /** The server answers whole jobs alone. */
  wholeOnly = false
}

/**
 * Readings, ticks and strokes on their way to the server, by account and by job, in the browser's own database. Each
 * has an id made here, so that sending one twice counts once. Nothing leaves until the server has stored it or
 * refused it; one job's trouble holds up no other; nothing is sent under another's name.
 */
export const useOutbox = defineStore('outbox', {
  state: () => ({
    sender: markRaw(new Sender()),
    waiting: [] as WaitingRow[],
    offline: false,
    signedOut: false,
    refused: null as Problem | null,
    refusedAt: 0,
    /** Jobs the server could not take from, until when they rest and how long next time. */
    resting: {} as Record<string, { until: number; pause: number }>,
    /** Called with what came of events, sent from here or from another tab. */
    onStored: null as ((said: Told) => void | Promise<void>) | null,
    /** Called with the job as it is after an edit. */
    onEdited: null as ((job: JobView) => void | Promise<void>) | null,
    /** Whether whole jobs are to be answered: the core cannot follow the log. */
    wantsWhole: null as (() => boolean) | null,
    /** Called when an edit that waited clashes with someone else's. */
    onStale: null as ((job: string, problem: Problem) => void) | null,
    /** Called when what waits has changed, here or in another tab. */
    onChange: null as ((job: string) => void) | null,
  }),
  getters: {
    account: () => useSession().user?.id ?? '',
    mine(): WaitingRow[] {
      return this.waiting.filter((w) => w.account === this.account && !w.refused)
    },
    of(): (job: string) => Event[] {
      return (job) => this.mine.filter((w) => w.job === job && !opens(w)).map((w) => w.event as Event)
    },
  },
  actions: {
    /** Takes up what this and other tabs left. */
    async load() {
      const rows = await attempt(() => local.outbox.orderBy('n').toArray())
      if (rows) this.waiting = [...rows, ...this.onlyHere()]
      void askToPersist()
      whenSignedOut(() => (this.signedOut = !!this.account))
      if (others) others.onmessage = (e: MessageEvent<Broadcast>) => void this.reload(e.data)
    },
    /** What another tab of this browser says: of which job what waits has changed, and what was stored of it. */
    async reload({ job, said }: Broadcast) {
      // What is stored is known before it waits no longer: a count never goes back in between.
      if (said) await this.onStored?.(said)
      const rows = await attempt(() => local.outbox.orderBy('n').toArray())
      if (rows) this.waiting = [...rows, ...this.onlyHere()]
      if (!said) this.onChange?.(job)
    },
    /** What could not be kept in the browser's database lives as long as the page. */
    onlyHere(): WaitingRow[] {
      return this.waiting.filter((w) => w.n === undefined && w.unkept)
    },
    /** `base` is how far the log was seen here when it was told; with the device it says where it lies in the order of hands. */
    send(job: string, kind: Event['kind'], data: EventData, id = newId(), base = 0): string {
      const event = { id, kind, at: new Date(shopNow()).toISOString(), base, device: deviceId(), data } as WaitingEvent
      const row: WaitingRow = { account: this.account, job, event }
      this.waiting = [...this.waiting, row]
      this.onChange?.(job)
      void this.put(row)
      return event.id
    },
    async put(row: WaitingRow) {
      const n = await write(() => local.outbox.add(JSON.parse(JSON.stringify(row)) as WaitingRow))
      this.waiting = this.waiting.map((w) =>
        w.event.id === row.event.id ? { ...w, n, ...(n === undefined ? { unkept: true } : {}) } : w,
      )
      others?.postMessage({ job: row.job } satisfies Broadcast)
      await this.flush()
    },
    /** Takes entries in that waited elsewhere, in their order. */
    async takeIn(events: Pick<WaitingRow, 'job' | 'event'>[]) {
      const rows = events.map(({ job, event }): WaitingRow => ({ account: this.account, job, event }))
      for (const row of rows) {
        const n = await write(() => local.outbox.add(JSON.parse(JSON.stringify(row)) as WaitingRow))
        this.waiting = [...this.waiting, { ...row, n, ...(n === undefined ? { unkept: true } : {}) }]
      }
      for (const job of new Set(rows.map((r) => r.job))) {
        this.onChange?.(job)
        others?.postMessage({ job } satisfies Broadcast)
      }
      await this.flush()
    },
    /** Takes an event back that has not left yet. */
    async takeBack(id: string): Promise<boolean> {
      const row = this.mine.find((w) => w.event.id === id)
      if (!row || this.sender.running) return false
      await this.drop([row])
      this.onChange?.(row.job)
      return true
    },
    /** Sends what waits, each job's run of events in order; a job that cannot be taken now rests by itself. */
    flush(): Promise<void> {
      const s = this.sender
      if (!this.account) return Promise.resolve()
      if (s.running) s.again = true
      return (s.running ??= this.sendAll().finally(() => {
        s.running = null
        this.later() // whatever went wrong, what waits is tried again
      }))
    },
    async sendAll() {
      const s = this.sender
      clearTimeout(s.timer)
      do {
        s.again = false
        let on = true
        await s.line.alone(async () => {
          for (let job = this.next(); on && job; job = this.next()) {
            const of = this.mine.filter((w) => w.job === job)
            on = await this.post(job, of.slice(0, opens(of[0]!) ? 1 : atOnce))
          }
        })
        if (!on) return
      } while (s.again && this.next())
    },
    later() {
      const soonest = Math.min(...Object.values(this.resting).map((r) => r.until))
      if (this.mine.length && !this.signedOut)
        this.sender.timer = setTimeout(
          () => void this.flush(),
          Math.max(200, Number.isFinite(soonest) ? soonest - Date.now() : firstPause),
        )
    },
    /** Whether all of a job is stored, waiting a while for what is on its way. */
    async drained(job: string): Promise<boolean> {
      const patience = Date.now() + 10_000
      while (this.of(job).length && Date.now() < patience && !this.offline && !this.signedOut) {
        await this.flush()
        if (this.of(job).length) await new Promise((later) => setTimeout(later, 50))
      }
      return !this.of(job).length
    },
    next(): string | undefined {
      return this.mine.find((w) => (this.resting[w.job]?.until ?? 0) <= Date.now())?.job
    },
    rest(job: string) {
      const pause = Math.min(longestPause, (this.resting[job]?.pause ?? firstPause / 2) * 2)
      this.resting = { ...this.resting, [job]: { until: Date.now() + pause, pause } }
    },
    /** Whether it is worth going on with other jobs. */
    async post(job: string, batch: WaitingRow[]): Promise<boolean> {
      try {
        if (opens(batch[0]!)) {
          await this.sendOpening(batch[0]!)
          return true
        }
        await this.sendEdits(job)
        const said = await this.tell(job, batch)
        this.offline = this.signedOut = false
        this.putRight()
        delete this.resting[job]
        await this.onStored?.(said)
        await this.drop(batch, said)
        return true
      } catch (e) {
        if (!(e instanceof Refused)) throw e
        if (e.offline) {
          this.offline = true
          for (const w of this.mine)
            this.resting = { ...this.resting, [w.job]: { until: Date.now() + firstPause, pause: firstPause } }
          return false
        }
        this.offline = false
        if (e.status === 401 || e.problem.code === 'problem.csrf') {
          this.signedOut = true
          return false
        }
        if (e.problem.code === 'problem.stale') {
          // Someone else changed the same: what was done here waits until the person has said which stands.
          this.rest(job)
          this.onStale?.(job, e.problem)
          return true
        }
        if (e.status >= 500 || e.status === 429) {
          this.rest(job)
          return true
        }
        if (batch.length > 1) {
          // One of several is refused: send them singly, so that the good ones are not lost with it.
          for (const w of batch) if (!(await this.post(job, [w]))) return false
          return true
        }
        await this.drop(batch)
        this.refuse(e.problem)
        this.onChange?.(job)
        return true
      }
    },
    /** A job opened here is opened there, under the same id; told twice, it is opened once. */
    async sendOpening(w: WaitingRow) {
      const body = { ...(w.event.data as Schemas['ServerNewJob']), id: w.job, event_id: w.event.id }
      const view = await ask(api.POST('/api/jobs', { body }))
      this.offline = this.signedOut = false
      delete this.resting[w.job]
      await this.drop([w])
      await this.onEdited?.(view)
    },
    /** Whether the server has not heard of this job yet. */
    opening(job: string): boolean {
      return this.mine.some((w) => w.job === job && opens(w))
    },
    /** Events go up, they come back as they were stored; the whole job only where the core cannot follow its log. */
    async tell(job: string, batch: WaitingRow[]): Promise<Told> {
      const params = { path: { id: job } }
      const body = { events: batch.map((w) => w.event as Schemas['ServerEventIn']) }
      if (!this.sender.wholeOnly && !this.wantsWhole?.()) {
        try {
          return (await ask(api.POST('/api/jobs/{id}/log', { params, body }))) as unknown as Told
        } catch (e) {
          // A server that was put back to an older version knows the older way alone.
          if (!(e instanceof Refused && [404, 405].includes(e.status))) throw e
        }
      }
      const view = await ask(api.POST('/api/jobs/{id}/events', { params, body }))
      this.sender.wholeOnly ||= !this.wantsWhole?.()
      return { id: view.id, head: view.head, events: [], view }
    },
    /** Edits made while the server was away go out before what was done after them. */
    async sendEdits(job: string) {
      const params = { path: { id: job } }
      await this.sendEdit<Schemas['JobIntake']>(job, 'intake', (version, intake) =>
        ask(api.PUT('/api/jobs/{id}/intake', { params, body: { version, intake } })),
      )
      await this.sendEdit<Schemas['JobChoices']>(job, 'choices', (version, choices) =>
        ask(api.PUT('/api/jobs/{id}/choices', { params, body: { version, choices } })),
      )
    },
    sendEdit<T>(job: string, part: Part, put: (version: number, value: T) => Promise<JobView>) {
      return inTurn(part, job, () => this.sendEditNow(job, part, put))
    },
    async sendEditNow<T>(job: string, part: Part, put: (version: number, value: T) => Promise<JobView>) {
      const draft = drafts.get<T>(part, job)
      if (!draft?.said) return
      try {
        const view = await put(draft.base, draft.value)
        draftStored(part, job, draft.value, part === 'intake' ? view.intake_version : view.choices_version)
        await this.onEdited?.(view)
      } catch (e) {
        // Refused for what it is: told, and kept as a draft. The readings and strokes behind it are not lost with it.
        if (!(e instanceof Refused) || later(e) || e.problem.code === 'problem.stale') throw e
        draftRefused(part, job, draft.value, (now) => drafts.put(part, job, { ...now, said: false }))
        this.refuse(e.problem)
      }
    },
    /** What was refused is said over the page until it is closed, or until work goes on well after it could be read. */
    refuse(problem: Problem) {
      this.refused = problem
      this.refusedAt = performance.now()
    },
    putRight() {
      if (this.refused && performance.now() - this.refusedAt > readMS) this.refused = null
    },
    async drop(batch: WaitingRow[], said?: Told) {
      const gone = new Set(batch.map((w) => w.event.id))
      this.waiting = this.waiting.filter((w) => !gone.has(w.event.id))
      await attempt(async () => {
        const ids = (await local.outbox.toArray()).filter((w) => gone.has(w.event.id)).map((w) => w.n!)
        await local.outbox.bulkDelete(ids)
      })
      if (batch[0]) others?.postMessage(JSON.parse(JSON.stringify({ job: batch[0].job, said })) as Broadcast)
    },
  },
})
