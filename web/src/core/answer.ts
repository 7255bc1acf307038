import { Refused, type Unit } from '@/api/client'
import { core, NoCore, type Answers } from './core'

/** Asks the core about a job as it is shown here; where it cannot run, or cannot follow the job, the server is asked. */
export async function answer<K extends keyof Answers>(
  id: string,
  what: K,
  input: unknown,
  server: () => Promise<unknown>,
  shelf: Unit[] = [],
): Promise<Answers[K]> {
  try {
    return await core.ask(id, what, input, shelf)
  } catch (e) {
    const notHere = e instanceof Refused && e.problem.code === 'problem.not_found'
    if (!(e instanceof NoCore || notHere)) throw e
    return (await server()) as Answers[K]
  }
}
