import { Refused, type Unit } from '@/api/client'
import { later, useOutbox } from '@/stores/outbox'
import { core, coreUp, Late, NoCore, type Answers } from './core'

/**
 * Asks the core about a job as it is shown here; where it cannot run, is slow, or cannot follow the job, the server is asked.
 * While the core is still starting, and nothing waits that the server does not know, whichever answers first is drawn. Where
 * no server can be reached a slow core is waited for: nobody else has the answer.
 */
export async function answer<K extends keyof Answers>(
  id: string,
  what: K,
  input: unknown,
  server: () => Promise<unknown>,
  shelf: Unit[] = [],
): Promise<Answers[K]> {
  try {
    const asked = core.ask(id, what, input, shelf)
    if (coreUp() || useOutbox().of(id).length) return await asked
    return await Promise.any([asked, server() as Promise<Answers[K]>]).catch(() => asked)
  } catch (e) {
    const notHere = e instanceof Refused && e.problem.code === 'problem.not_found'
    if (!(e instanceof NoCore || notHere)) throw e
    // What waits to be sent is known here alone.
    if (e instanceof Late && useOutbox().of(id).length) return (await e.coming) as Answers[K]
    try {
      return (await server()) as Answers[K]
    } catch (gone) {
      if (e instanceof Late && gone instanceof Refused && later(gone)) return (await e.coming) as Answers[K]
      throw gone
    }
  }
}
