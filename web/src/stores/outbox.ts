import { defineStore } from 'pinia'
import { api, ask, Refused, type JobView, type Problem, type Schemas } from '@/api/client'
import { newId } from '@/lib/id'

type AllOf<U> = (U extends unknown ? (x: U) => void : never) extends (x: infer I) => void ? I : never
/** What an event may carry; which fields belong to a kind is the core's to say. */
export type EventData = Partial<AllOf<Schemas['ServerEventData']>>
export type Event = Omit<Schemas['ServerEventIn'], 'data'> & { data: EventData }

interface Waiting {
  job: string
  event: Event
}

const key = 'geminate.outbox'

function stored(): Waiting[] {
  try {
    return JSON.parse(localStorage.getItem(key) ?? '[]')
  } catch {
    return []
  }
}

let running = false
let timer: ReturnType<typeof setTimeout> | undefined

/**
 * Readings, ticks and strokes on their way to the server. Each has an id made here, so that sending
 * one twice counts once. Nothing leaves this list until the server has stored it or refused it.
 */
export const useOutbox = defineStore('outbox', {
  state: () => ({
    waiting: stored(),
    offline: false,
    refused: null as Problem | null,
    /** Called with each job the server answers with. */
    onStored: null as ((job: JobView) => void) | null,
  }),
  getters: {
    of: (s) => (job: string) => s.waiting.filter((w) => w.job === job).map((w) => w.event),
  },
  actions: {
    keep() {
      localStorage.setItem(key, JSON.stringify(this.waiting))
    },
    send(job: string, kind: Event['kind'], data: EventData): string {
      const event = { id: newId(), kind, at: new Date().toISOString(), data } as Event
      this.waiting.push({ job, event })
      this.keep()
      void this.flush()
      return event.id
    },
    /** Sends what waits, oldest first, one job's run of events at a time. */
    async flush() {
      if (running) return
      running = true
      clearTimeout(timer)
      try {
        while (this.waiting.length > 0) {
          const job = this.waiting[0].job
          const batch = this.waiting.filter((w) => w.job === job).slice(0, 100)
          if (!(await this.post(job, batch))) return
        }
      } finally {
        running = false
      }
    },
    async post(job: string, batch: Waiting[]): Promise<boolean> {
      const path = { params: { path: { id: job } } }
      try {
        const body = { events: batch.map((w) => w.event as Schemas['ServerEventIn']) }
        const view = await ask(api.POST('/api/jobs/{id}/events', { ...path, body }))
        this.drop(batch)
        this.offline = false
        this.onStored?.(view)
        return true
      } catch (e) {
        if (!(e instanceof Refused)) throw e
        const later = e.offline || e.status >= 500 || e.status === 401 || e.status === 403
        if (!later && batch.length > 1) {
          // One of several is refused: send them singly, so that the good ones are not lost with it.
          for (const w of batch) if (!(await this.post(job, [w]))) return false
          return true
        }
        if (!later) {
          this.drop(batch)
          this.refused = e.problem
          return true
        }
        this.offline = true
        timer = setTimeout(() => void this.flush(), 2000)
        return false
      }
    },
    drop(batch: Waiting[]) {
      const gone = new Set(batch.map((w) => w.event.id))
      this.waiting = this.waiting.filter((w) => !gone.has(w.event.id))
      this.keep()
    },
  },
})
