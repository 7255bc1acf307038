import Dexie, { type Table } from 'dexie'
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

const most = 40

/** Keeps a job for later, and lets go of those not seen for longest. */
export async function keepJob(job: KeptJob) {
  await attempt(async () => {
    await local.jobs.put(JSON.parse(JSON.stringify(job)) as KeptJob)
    const old = local.jobs.where('[account+seen]').between([job.account, 0], [job.account, Infinity])
    const count = await old.count()
    if (count > most)
      await local.jobs.bulkDelete((await old.limit(count - most).toArray()).map((j) => [j.account, j.id]))
  })
}

export async function keep(key: string, value: unknown) {
  await attempt(() => local.kept.put({ key, value: JSON.parse(JSON.stringify(value)) }))
}

export async function kept<T>(key: string): Promise<T | undefined> {
  return (await attempt(() => local.kept.get(key)))?.value as T | undefined
}
