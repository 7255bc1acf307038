import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Refused } from '@/api/client'
import { useOutbox } from '@/stores/outbox'
import { answer } from './answer'
import { core, Late, NoCore } from './core'

/** A worker that answers when the test says so. */
class SlowWorker {
  static last: SlowWorker
  onmessage: ((e: { data: unknown }) => void) | null = null
  asked: { n: number }[] = []
  constructor() {
    SlowWorker.last = this
  }
  postMessage(m: { n: number }) {
    this.asked.push(m)
  }
  says(ok: unknown) {
    this.onmessage!({ data: { n: this.asked.at(-1)!.n, out: JSON.stringify({ ok }) } })
  }
}
vi.stubGlobal('Worker', SlowWorker)

const away = async () => {
  throw new Refused(0, { code: 'problem.network' })
}

describe('a core that is slow to answer', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    vi.useFakeTimers()
  })
  afterEach(() => vi.useRealTimers())
  const late = async () => vi.advanceTimersByTimeAsync(10_500)

  it('is waited for where no server can be reached', async () => {
    const said = answer('j', 'diagnose', undefined, away)
    await late()
    SlowWorker.last.says({ faults: ['late'] })
    expect(await said).toEqual({ faults: ['late'] })
  })

  it('gives way to a server that is there', async () => {
    const said = answer('j', 'diagnose', undefined, async () => ({ faults: ['server'] }))
    await late()
    expect(await said).toEqual({ faults: ['server'] })
  })

  it('gives way to nobody while something waits that only it knows', async () => {
    const outbox = useOutbox()
    outbox.waiting = [{ account: outbox.account, job: 'j', event: { id: 'e' } }] as never
    const server = vi.fn(async () => ({ faults: ['without what waits'] }))
    const said = answer('j', 'diagnose', undefined, server)
    await late()
    SlowWorker.last.says({ faults: ['with it'] })
    expect(await said).toEqual({ faults: ['with it'] })
    expect(server).not.toHaveBeenCalled()
  })

  it('says that it is late, and still hands on what comes', async () => {
    const said = core.ask('j', 'bleed').catch((e: unknown) => e)
    await late()
    const e = (await said) as Late
    expect(e).toBeInstanceOf(NoCore)
    SlowWorker.last.says({ wheels: {} })
    expect(await e.coming).toEqual({ wheels: {} })
  })

  it('that is broken is not waited for', async () => {
    const said = answer('j', 'diagnose', undefined, away).catch((e: unknown) => e)
    await vi.advanceTimersByTimeAsync(0)
    const w = SlowWorker.last
    w.onmessage!({ data: { n: w.asked.at(-1)!.n, broken: 'gone' } })
    expect(await said).toBeInstanceOf(Refused)
  })
})
