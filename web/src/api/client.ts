import createClient from 'openapi-fetch'
import { heardTime } from '@/lib/clock'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type JobView = Schemas['JobView']
export type Problem = Schemas['ServerProblem']
export type System = Schemas['SystemSystem']
export type Unit = Schemas['MatchUnit']

function csrf(): string {
  return /(?:^|; )geminate_csrf=([^;]+)/.exec(document.cookie)?.[1] ?? ''
}

/**
 * How long an answer may take: nobody waits for a call with a foot on the pedal, a stroke on its way is tried again soon, a
 * file brought in may be long.
 */
const patienceMS = (url: string) =>
  /\/calls?(\/[^/]+)?$/.test(url) ? 2500 : url.endsWith('/events') ? 10_000 : url.endsWith('/import') ? 120_000 : 30_000

export const api = createClient<paths>({
  baseUrl: window.location.origin,
  // Looked up at each call, not held: tests put their own in its place. A line that is dead without saying so would
  // hold a call for ever, and with it all that waits behind it: it is given up, and what is sent again counts once.
  fetch: (request) => globalThis.fetch(request, { signal: AbortSignal.timeout(patienceMS(request.url)) }),
})

let signedOut = () => {}
/** Called when the server answers that nobody is signed in here any more: signed out elsewhere, or the account was closed. */
export function whenSignedOut(what: () => void) {
  signedOut = what
}

const sent = new Map<string, number>()

api.use({
  onRequest({ request, id }) {
    sent.set(id, performance.now())
    if (request.method !== 'GET') request.headers.set('X-Csrf-Token', csrf())
    return request
  },
  async onResponse({ response, id }) {
    // A wrong password is answered 401 as well, and puts nobody out: what the answer says is what counts.
    if (response.status === 401) {
      const said = (await response
        .clone()
        .json()
        .catch(() => null)) as Problem | null
      if (said?.code === 'problem.signed_out') signedOut()
    }
    heardTime(response.headers.get('Geminate-Now'), sent.get(id) ?? NaN)
    sent.delete(id)
  },
  onError({ id }) {
    sent.delete(id)
  },
})

/** What a refused or failed call comes to: the server's Problem, or that it was not reached. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly problem: Problem,
  ) {
    super(problem.code)
  }
  get offline() {
    return this.status === 0
  }
}

/** Unwraps an openapi-fetch answer, throwing Refused for anything but data. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer
  try {
    answer = await call
  } catch {
    throw new Refused(0, { code: 'problem.network' })
  }
  if (answer.response.ok) return answer.data as T
  const body = answer.error as Problem | undefined
  throw new Refused(
    answer.response.status,
    body && typeof body === 'object' && 'code' in body ? body : { code: 'problem.server' },
  )
}
