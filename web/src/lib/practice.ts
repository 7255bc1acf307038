import { reactive } from 'vue'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import { core, Late, NoCore } from '@/core/core'
import { ownPractice, type OwnPractice } from './practiceown'
import { hear } from './sounds'
import { useJob } from '@/stores/job'
import { useOutbox } from '@/stores/outbox'

export type Act = Schemas['ProvingAct']
export type PracticeView = Schemas['PracticeView']

/** The practice vehicle of the job that is open; null where it has none. */
export const bay = reactive({
  job: '',
  view: null as PracticeView | null,
  seen: null as Schemas['ProvingSeen'] | null,
  problem: null as Problem | null,
  busy: false,
  /** Free practice, as it can go on here alone. */
  own: null as OwnPractice | null,
})

/**
 * One thing after the other: what is looked up by itself (where the plan has changed, when the server is back) does not take the
 * buttons away from a hand, and what the hand does meanwhile is done after it.
 */
let before: Promise<unknown> = Promise.resolve()
function inTurn<T>(what: () => Promise<T>): Promise<T> {
  const done = before.then(what)
  before = done.catch(() => {})
  return done
}

async function answered(what: () => Promise<PracticeView>): Promise<boolean> {
  const job = bay.job
  try {
    const v = await what().catch((e) => {
      if (!(e instanceof Late)) throw e
      return e.coming as Promise<PracticeView>
    })
    if (bay.job !== job) return false // another vehicle is looked at by now
    bay.view = v
    bay.problem = null
    if (v.seen) {
      bay.seen = v.seen
      hear(v.seen.sounds ?? [])
    }
    return true
  } catch (e) {
    if (e instanceof NoCore) bay.problem = { code: 'problem.network' } as Problem
    else if (e instanceof Refused) bay.problem = e.problem
    else throw e
    return false
  }
}

const path = () => ({ params: { path: { id: bay.job } } })
const gone = () => bay.problem?.code === 'problem.network' || (bay.problem?.code ?? '').startsWith('problem.server')

/** Whether this job's vehicle stands here alone for now: the server has not heard of it, or not of all that was done. */
const alone = () => !!bay.own && (bay.own.ahead || useOutbox().opening(bay.job))

/** Tells the server what was done here alone, where it can be reached and knows all that was told. */
export const bring = (): Promise<boolean> => inTurn(bringNow)

async function bringNow(): Promise<boolean> {
  if (!bay.own?.ahead || useOutbox().opening(bay.job) || useOutbox().offline) return false
  if (!(await useOutbox().drained(bay.job))) return false
  const body = plain(bay.own)
  const ok = await answered(() => ask(api.POST('/api/practice/{id}/brought', { ...path(), body })))
  if (!ok && gone()) return false
  // Refused: another screen went on with it, and that is how it stands.
  if (!ok) await look()
  else takeOwn()
  return true
}

/** Keeps what it takes to go on without the server. */
function takeOwn() {
  const own = bay.view?.own
  bay.own = own ? { ...own, ahead: false, started: bay.own?.started ?? new Date().toISOString() } : null
  if (bay.own) void ownPractice.keep(bay.job, bay.own)
}

async function look(): Promise<boolean> {
  const ok = await answered(() => ask(api.GET('/api/practice/{id}', path())))
  if (ok) takeOwn()
  return ok
}

const here = (a?: Act) => answered(() => core.practise(bay.job, plain(bay.own!), a))
const plain = ({ pattern, hardness, seed, did }: OwnPractice) => ({ pattern, hardness, seed, did })

/** Looks which vehicle belongs to a job. One from before there were any has none. */
export async function approach(job: string, practice: boolean) {
  if (bay.job !== job) Object.assign(bay, { job, view: null, seen: null, problem: null, own: null })
  if (practice) await inTurn(() => approachNow(job))
}

async function approachNow(job: string) {
  if (bay.job !== job) return
  bay.own ??= (await ownPractice.of(job)) ?? null
  if (bay.own?.ahead && (await bringNow())) return
  if (!alone() && (await look())) return
  if (bay.own && (alone() || gone())) return void (await here())
  if (bay.problem?.code === 'problem.not_found') bay.problem = null
}

/** Asks anew what hands can do, where the plan has changed. */
export const refresh = () => approach(bay.job, !!bay.view)

/** Does one thing to the vehicle. Where another screen did something meanwhile, that is looked at first. */
export async function act(a: Act) {
  if (!bay.view || bay.busy) return
  bay.busy = true
  await inTurn(() => actNow(a)).finally(() => (bay.busy = false))
}

async function actNow(a: Act) {
  if (!bay.view) return
  if (bay.own?.ahead) await bringNow()
  const after = bay.view.stands.acts
  if (!alone()) {
    const ok = await answered(() => ask(api.POST('/api/practice/{id}/acts', { ...path(), body: { after, act: a } })))
    if (ok) return keepDone(false)
    if (bay.problem?.code === 'problem.practice_other') return void (await approachNow(bay.job))
    if (!bay.own || !gone()) return
  }
  if (await here(a)) keepDone(true)
}

/** An act is kept beside the others, so that it can be done again here. */
function keepDone(ahead: boolean) {
  const done = bay.view?.done
  if (!bay.own || !done) return
  bay.own = { ...bay.own, did: [...bay.own.did, done], ahead: bay.own.ahead || ahead }
  void ownPractice.keep(bay.job, bay.own)
}

/** What an exercise came to: by the server; of one that stands here alone by the core here, until the server can be told. */
export async function endOf(job: string): Promise<Schemas['PracticeResult']> {
  await approach(job, true).catch(() => {})
  const own = bay.own
  const ended = () => ask(api.POST('/api/practice/{id}/end', { params: { path: { id: job } } }))
  if (!own) return ended()
  if (!alone()) {
    try {
      const r = await ended()
      void ownPractice.drop(job)
      return r
    } catch (e) {
      if (!(e instanceof Refused) || !(e.offline || e.status >= 500)) throw e
    }
  }
  if (useJob().stored?.id !== job) await useJob().load(job)
  const r = await core.practised(job, plain(own))
  bay.own = { ...own, ahead: true, ended: true }
  await ownPractice.keep(job, bay.own)
  return r
}

/** Brings what was worked away from the server, once it can be reached: called where the exercises are listed. */
export async function bringAll() {
  for (const { job, own } of await ownPractice.all()) {
    if (!own.ahead && !own.ended) continue
    Object.assign(bay, { job, view: null, seen: null, problem: null, own })
    if (await bring()) {
      if (own.ended) {
        await ask(api.POST('/api/practice/{id}/end', path())).catch(() => {})
        await ownPractice.drop(job)
      }
    }
  }
}
