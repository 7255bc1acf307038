import type { Unit } from '@/api/client'
import { core, NoCore, type Answers } from './core'

/** Asks the core about a job as it is shown here; a browser in which it cannot run asks the server. */
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
    if (!(e instanceof NoCore)) throw e
    return (await server()) as Answers[K]
  }
}
