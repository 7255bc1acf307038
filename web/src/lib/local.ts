import Dexie, { type Table } from 'dexie'
import { ref } from 'vue'
import type { JobView, Problem, Schemas, Unit } from '@/api/client'
import type { LogEvent, WaitingEvent } from '@/core/core'

/** A job as this account last saw it here, with its log as far as it was fetched. */
export interface KeptJob {
  account: string
  id: string
  view: JobView
  log: LogEvent[]
  shelf: Unit[]
  dress?: Schemas['JobDress'] | null
  seen: number
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
  constructor() {
    super('geminate')
    this.version(1).stores({ jobs: '[account+id], [account+seen]', outbox: '++n, account, job', kept: 'key' })
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

/** Keeps a job for later, and lets go of those not seen for longest. */
export async function keepJob(job: KeptJob) {
  await write(async () => {
    await local.jobs.put(JSON.parse(JSON.stringify(job)) as KeptJob)
    const old = local.jobs.where('[account+seen]').between([job.account, 0], [job.account, Infinity])
    const count = await old.count()
    if (count > most)
      await local.jobs.bulkDelete((await old.limit(count - most).toArray()).map((j) => [j.account, j.id]))
  })
}

export async function keep(key: string, value: unknown) {
  await write(() => local.kept.put({ key, value: JSON.parse(JSON.stringify(value)) }))
}

export async function kept<T>(key: string): Promise<T | undefined> {
  return (await attempt(() => local.kept.get(key)))?.value as T | undefined
}
