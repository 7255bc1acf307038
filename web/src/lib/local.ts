import Dexie, { type Table } from 'dexie'
import { ref } from 'vue'
import type { JobView, Problem, Schemas, Unit } from '@/api/client'
import type { LogEvent, WaitingEvent } from '@/core/core'

/** A job as the server last answered it whole; what was heard since is in the log kept beside it. */
export interface KeptJob {
  account: string
  id: string
  view: JobView
  /** The log of a job kept before events had a table of their own. */
  log?: LogEvent[]
  shelf: Unit[]
  dress?: Schemas['JobDress'] | null
  seen: number
}

/** One event of a job's log, as it was heard. */
interface KeptEvent {
  account: string
  job: string
  seq: number
  event: LogEvent
}

/** One event on its way to the server, in the order it happened. */
export interface WaitingRow {
  n?: number
  account: string
  job: string
  event: WaitingEvent
  refused?: Problem
  /** It could not be kept: it lives as long as the page. */
  unkept?: boolean
}

/** The browser's own database: what is here belongs to the account it was entered under. */
class Local extends Dexie {
  jobs!: Table<KeptJob, [string, string]>
  outbox!: Table<WaitingRow, number>
  kept!: Table<{ key: string; value: unknown }, string>
  log!: Table<KeptEvent, [string, string, number]>
  constructor() {
    super('geminate')
    this.version(1).stores({ jobs: '[account+id], [account+seen]', outbox: '++n, account, job', kept: 'key' })
    this.version(2).stores({ log: '[account+job+seq]' })
  }
}

export const local = new Local()

/** Without a database of its own (a private window that has none) the page still works: nothing then outlives it. */
export async function attempt<T>(what: () => Promise<T>): Promise<T | undefined> {
  try {
    return await what()
  } catch {
    return undefined
  }
}

/** The last thing that was to be kept here could not be: storage is full, switched off or was taken away. */
export const keepsNothing = ref(false)

/** A write to this browser's database. That it failed is told at once, on every page, until one goes well again. */
export async function write<T>(what: () => Promise<T>): Promise<T | undefined> {
  try {
    const out = await what()
    keepsNothing.value = false
    return out
  } catch (e) {
    console.error(e)
    keepsNothing.value = true
    return undefined
  }
}

/** Asks the browser not to clear what is kept here when it runs short of room. */
export async function askToPersist() {
  await navigator.storage?.persist?.().catch(() => false)
}

const most = 40

/** All events kept of a job. */
const logOf = (account: string, job: string) =>
  local.log.where('[account+job+seq]').between([account, job, 0], [account, job, Infinity])

/** Keeps a job for later, and lets go of those not seen for longest. */
export async function keepJob(job: KeptJob) {
  await write(async () => {
    await local.jobs.put(JSON.parse(JSON.stringify(job)) as KeptJob)
    const old = local.jobs.where('[account+seen]').between([job.account, 0], [job.account, Infinity])
    const count = await old.count()
    if (count <= most) return
    for (const j of await old.limit(count - most).toArray()) {
      await logOf(j.account, j.id).delete()
      await local.jobs.delete([j.account, j.id])
    }
  })
}

/** Appends to a job's kept log; what is there already is not written again. */
export async function keepEvents(account: string, job: string, events: LogEvent[]) {
  if (!events.length) return
  const rows = events.map((event) => ({ account, job, seq: event.seq, event }))
  await write(() => local.log.bulkPut(JSON.parse(JSON.stringify(rows)) as KeptEvent[]))
}

/** A job as it was kept here, with its log. */
export async function keptJob(account: string, id: string): Promise<{ job: KeptJob; log: LogEvent[] } | undefined> {
  return attempt(async () => {
    const job = await local.jobs.get([account, id])
    if (!job) throw new Error('not kept')
    const log = (await logOf(account, id).toArray()).map((r) => r.event)
    return { job, log: [...(job.log ?? []), ...log] }
  })
}

export async function keep(key: string, value: unknown) {
  await write(() => local.kept.put({ key, value: JSON.parse(JSON.stringify(value)) }))
}

export async function kept<T>(key: string): Promise<T | undefined> {
  return (await attempt(() => local.kept.get(key)))?.value as T | undefined
}
