import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { useOutbox } from './outbox'

const answer = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })

async function sentIds(call: unknown[]): Promise<string[]> {
  const body = JSON.parse(await (call[0] as Request).clone().text())
  return body.events.map((e: { id: string }) => e.id)
}

describe('outbox', () => {
  beforeEach(() => {
    localStorage.clear()
    setActivePinia(createPinia())
    vi.useFakeTimers()
  })

  it('keeps a stroke over a lost connection and sends the same id again', async () => {
    const seen: string[][] = []
    let up = false
    vi.stubGlobal('fetch', async (...call: unknown[]) => {
      seen.push(await sentIds(call))
      if (!up) throw new TypeError('down')
      return answer(200, { id: 'j' })
    })
    const box = useOutbox()
    const id = box.send('j', 'bleed_stroke', { wheel: 'RR' })
    await vi.advanceTimersByTimeAsync(10)
    expect(box.offline).toBe(true)
    expect(JSON.parse(localStorage.getItem('geminate.outbox')!)).toHaveLength(1)
    up = true
    await vi.advanceTimersByTimeAsync(2500)
    expect(box.waiting).toHaveLength(0)
    expect(box.offline).toBe(false)
    expect(seen.every((ids) => ids[0] === id)).toBe(true)
  })

  it('takes up what an earlier page left', () => {
    localStorage.setItem('geminate.outbox', JSON.stringify([{ job: 'j', event: { id: 'x', kind: 'refill' } }]))
    setActivePinia(createPinia())
    expect(useOutbox().of('j')).toHaveLength(1)
  })

  it('lets go of what the server refuses, says so, and keeps the rest', async () => {
    vi.stubGlobal('fetch', async (...call: unknown[]) => {
      const ids = await sentIds(call)
      return ids.includes('bad') ? answer(422, { code: 'problem.faults' }) : answer(200, { id: 'j' })
    })
    const box = useOutbox()
    const stored = vi.fn()
    box.onStored = stored
    box.waiting = [
      { job: 'j', event: { id: 'bad', kind: 'note', at: '', data: {} as never } },
      { job: 'j', event: { id: 'good', kind: 'note', at: '', data: {} as never } },
    ]
    await box.flush()
    expect(box.waiting).toHaveLength(0)
    expect(box.refused?.code).toBe('problem.faults')
    expect(stored).toHaveBeenCalledTimes(1)
  })

  it('waits while signed out', async () => {
    vi.stubGlobal('fetch', async () => answer(401, { code: 'problem.signed_out' }))
    const box = useOutbox()
    box.send('j', 'refill', {})
    await vi.advanceTimersByTimeAsync(10)
    expect(box.waiting).toHaveLength(1)
  })
})
