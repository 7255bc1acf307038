import { api, ask, Refused, type JobView, type Schemas } from '@/api/client'
import { core } from '@/core/core'
import { newId } from '@/lib/id'
import { keepEvents, keepJob } from '@/lib/local'
import { openKind, useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

export type NewJob = Pick<
  Schemas['ServerNewJob'],
  | 'vehicle'
  | 'plate'
  | 'customer'
  | 'complaint'
  | 'pattern'
  | 'practice'
  | 'for_day'
  | 'have_ready'
  | 'system'
  | 'practice_seed'
  | 'practice_hardness'
>

/**
 * Opens a job. Where the server cannot be reached it is opened here, by the same core and under an id made here, and the
 * server opens it under that id when it can be reached again.
 */
export async function openJob(job: NewJob): Promise<{ id: string }> {
  const id = newId()
  const event_id = newId()
  const body = { ...job, id, event_id }
  try {
    return await ask(api.POST('/api/jobs', { body }))
  } catch (e) {
    if (!(e instanceof Refused) || !(e.offline || e.status >= 500)) throw e
    return await here(id, event_id, job)
  }
}

async function here(id: string, event_id: string, job: NewJob): Promise<JobView> {
  const user = useSession().user!
  const by = { id: user.id, name: user.display, role: user.role }
  const { view, event } = await core.open(id, event_id, by, job)
  await keepJob({ account: user.id, id, view, shelf: [], dress: null, seen: Date.now() })
  await keepEvents(user.id, id, [event])
  useOutbox().send(id, openKind, job as never, event_id)
  return view
}
