import { drafts, type Draft, type Part } from '@/lib/drafts'
import type { WaitingRow } from '@/lib/local'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

/** What waits on a device, saved as a file by hand: for a tablet that keeps nothing, or never gets a line again. */
interface WaitingFile {
  format: typeof format
  account: string
  name: string
  saved_at: string
  events: Pick<WaitingRow, 'job' | 'event'>[]
  edits: { job: string; part: Part; draft: Draft<unknown> }[]
}

const format = 'geminate.waiting/1'
const parts: Part[] = ['intake', 'choices']

/** Why a file of what waits cannot be taken: the key of its words. */
export class NotTaken extends Error {}

/** All that waits of the person signed in. */
export function waitingFile(): WaitingFile {
  const outbox = useOutbox()
  const user = useSession().user
  const jobs = [...new Set(outbox.mine.map((w) => w.job))]
  return {
    format,
    account: user?.id ?? '',
    name: user?.display ?? '',
    saved_at: new Date().toISOString(),
    events: outbox.mine.map(({ job, event }) => ({ job, event })),
    edits: jobs.flatMap((job) =>
      parts.flatMap((part) => {
        const draft = drafts.get<unknown>(part, job)
        return draft?.said ? [{ job, part, draft }] : []
      }),
    ),
  }
}

/** Saves it where the person says. */
export function saveWaiting() {
  const url = URL.createObjectURL(new Blob([JSON.stringify(waitingFile())], { type: 'application/json' }))
  const a = document.createElement('a')
  a.href = url
  a.download = `geminate-waiting-${new Date().toISOString().slice(0, 16).replace(/[:T]/g, '-')}.json`
  a.click()
  setTimeout(() => URL.revokeObjectURL(url), 10_000)
}

export const isWaiting = (file: unknown): file is WaitingFile =>
  typeof file === 'object' && file !== null && (file as WaitingFile).format === format

/**
 * Takes such a file in: each entry waits here now under its own id, so that what was sent meanwhile counts once. It is
 * sent under nobody else's name. Gives how many were new here.
 */
export async function bringWaiting(file: WaitingFile): Promise<number> {
  const outbox = useOutbox()
  if (file.account !== useSession().user?.id) throw new NotTaken('ui.waiting_other')
  const events = file.events
  if (
    !Array.isArray(events) ||
    !Array.isArray(file.edits) ||
    events.some((e) => !e?.job || !e.event?.id || !e.event.kind)
  )
    throw new NotTaken('ui.waiting_broken')
  for (const { job, part, draft } of file.edits) if (!drafts.get(part, job)) drafts.put(part, job, draft)
  const here = new Set(outbox.waiting.map((w) => w.event.id))
  const fresh = events.filter((e) => !here.has(e.event.id))
  await outbox.takeIn(fresh)
  return fresh.length
}
