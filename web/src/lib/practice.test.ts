import { beforeEach, describe, expect, it, vi } from 'vitest'

const told: string[] = []
const answers: { path: string; done: (v: unknown) => void }[] = []
vi.mock('@/api/client', () => {
  const call = (method: string) => (path: string) => {
    told.push(`${method} ${path}`)
    return new Promise((done) => answers.push({ path, done }))
  }
  return { api: { GET: call('GET'), POST: call('POST') }, ask: (p: unknown) => p, Refused: class extends Error {} }
})
vi.mock('@/stores/outbox', () => ({ useOutbox: () => ({ opening: () => false, offline: false, drained: () => true }) }))
vi.mock('@/stores/job', () => ({ useJob: () => ({}) }))
vi.mock('./practiceown', () => ({ ownPractice: { of: () => undefined, keep: () => {}, drop: () => {} } }))
vi.mock('./sounds', () => ({ hear: () => {} }))
const { act, approach, bay, refresh } = await import('./practice')

const view = (acts: number, seen?: object) => ({ stands: { acts }, seen })
const settle = () => new Promise((r) => setTimeout(r))
async function answer(v: unknown) {
  await vi.waitFor(() => expect(answers.length).toBeGreaterThan(0))
  answers.shift()!.done(v)
  await settle()
}

describe('the practice vehicle', () => {
  beforeEach(() => {
    told.length = answers.length = 0
    Object.assign(bay, { job: '', view: null, seen: null, busy: false })
  })
  it('does what a hand did while it was being looked at, after that, and loses nothing', async () => {
    const there = approach('j', true)
    await answer(view(0))
    await there
    const looking = refresh()
    await settle()
    expect(bay.busy, 'a look takes no buttons away').toBe(false)
    const done = act({ do: 'press', value: 200, n: 45 } as never)
    expect(bay.busy).toBe(true)
    await settle()
    expect(told).toEqual(['GET /api/practice/{id}', 'GET /api/practice/{id}'])
    await answer(view(0))
    await looking
    await answer(view(1, { pressed: true }))
    await done
    expect(told.at(-1)).toBe('POST /api/practice/{id}/acts')
    expect(bay.seen).toEqual({ pressed: true })
    expect(bay.busy).toBe(false)
  })
  it('shows no vehicle of another job that answers late', async () => {
    const first = approach('one', true)
    await settle()
    const second = approach('two', true)
    await answer(view(7))
    await answer(view(2))
    await Promise.all([first, second])
    expect((bay.view as unknown as { stands: { acts: number } }).stands.acts).toBe(2)
  })
})
