import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { core } from '@/core/core'
import { useJob } from './job'
import { useOutbox } from './outbox'

const view = (change: object = {}) => ({
  id: 'j',
  updated_at: '1',
  head: 1,
  intake: { complaint: 'stored', system: { name: 's' } },
  intake_version: 1,
  choices: { scope: 'cylinder' },
  choices_version: 1,
  state: { findings: {}, released_at: null },
  status: { stations: [], at: 'diagnose' },
  ...change,
})
const answer = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })

describe('the job on the screen', () => {
  let requests: { method: string; url: string; body: string }[] = []
  let replies: (() => Response)[] = []
  beforeEach(() => {
    localStorage.clear()
    setActivePinia(createPinia())
    requests = []
    replies = []
    vi.stubGlobal('fetch', async (r: Request) => {
      requests.push({ method: r.method, url: r.url, body: await r.clone().text() })
      if (r.url.endsWith('/normal')) return answer(200, { force_n: 300 })
      if (r.url.endsWith('/match')) return answer(200, { candidates: [], boosters: [] })
      if (r.url.includes('/log')) return answer(200, { events: [], more: false })
      return (replies.shift() ?? (() => answer(200, view())))()
    })
  })

  it('loads and takes what the outbox stores', async () => {
    const store = useJob()
    await store.load('j')
    expect(store.job?.intake.complaint).toBe('stored')
    const before = store.revision
    await useOutbox().onStored!(view({ updated_at: '2' }) as never)
    expect(store.revision).toBe(before + 1)
    await useOutbox().onStored!(view({ id: 'other' }) as never)
    expect(store.job?.id).toBe('j')
  })

  it('never folds a second time what the server already has', async () => {
    const folded: string[][] = []
    const confirm = vi.spyOn(core, 'confirm').mockResolvedValue({ head: 1 })
    const show = vi.spyOn(core, 'show').mockImplementation(async (_id, _by, events) => {
      folded.push(events.map((e) => e.id))
      return { view: view({ head: 2 }), refused: [] } as never
    })
    const store = useJob()
    await store.load('j')
    const outbox = useOutbox()
    const event = (id: string) => ({ id, kind: 'bleed_stroke', at: '2026-11-25T08:00:00Z', data: {} })
    outbox.waiting = ['e1', 'e2'].map((id) => ({ account: outbox.account, job: 'j', event: event(id) }))
    await outbox.onStored!(view({ head: 2 }) as never, ['e1'])
    expect(folded.at(-1)).toEqual(['e2'])
    confirm.mockRestore()
    show.mockRestore()
  })

  it('knows where its log has a gap, and hands on what comes after its own answer', async () => {
    const told: number[] = []
    const confirm = vi.spyOn(core, 'confirm').mockImplementation(async (_view, log) => {
      told.push(log.length)
      return { head: 1 }
    })
    const store = useJob()
    await store.load('j')
    const e = (seq: number) => ({ seq, id: `e${seq}`, kind: 'bleed_stroke' }) as never
    await useOutbox().onStored!(view({ head: 4 }) as never)
    store.heard(e(1))
    store.heard(e(4))
    store.heard(e(2))
    expect(store.logEnd).toBe(2)
    store.heard(e(3))
    store.heard(e(3))
    expect(store.log.map((x) => x.seq)).toEqual([1, 2, 3, 4])
    expect(store.logEnd).toBe(4)
    await vi.waitFor(() => expect(told.at(-1)).toBe(4))
    confirm.mockRestore()
  })

  it('puts a late edit to the person and stores nothing until they choose', async () => {
    const store = useJob()
    await store.load('j')
    const theirs = view({ intake: { complaint: 'theirs', system: { name: 's' } }, intake_version: 2 })
    replies.push(() => answer(409, { code: 'problem.stale', current: theirs }))
    const mine = { ...store.job!.intake, complaint: 'mine' }
    expect(await store.saveIntake(mine)).toBe(false)
    expect(store.conflict?.part).toBe('intake')
    expect(store.job?.intake.complaint).toBe('stored')
    await store.settle(true)
    const put = requests.filter((r) => r.method === 'PUT').at(-1)!
    expect(JSON.parse(put.body)).toMatchObject({ version: 2, intake: { complaint: 'mine' } })
    expect(store.conflict).toBeNull()
  })

  it('takes theirs without sending anything', async () => {
    const store = useJob()
    await store.load('j')
    replies.push(() => answer(409, { code: 'problem.stale', current: view({ choices_version: 5 }) }))
    await store.saveChoices(store.job!.choices)
    const sent = requests.length
    await store.settle(false)
    expect(store.job?.choices_version).toBe(5)
    expect(requests.length).toBe(sent)
  })

  it('keeps a refusal to be shown', async () => {
    const store = useJob()
    await store.load('j')
    replies.push(() => answer(409, { code: 'problem.release_gate', missing: ['pedal.sink'] }))
    await store.release()
    expect(store.problem?.missing).toEqual(['pedal.sink'])
    expect(store.released).toBe(false)
  })

  it('looks for others’ changes and takes only what changed', async () => {
    const store = useJob()
    await store.load('j')
    const before = store.revision
    await store.look()
    expect(store.revision).toBe(before)
    replies.push(() => answer(200, view({ updated_at: '9', head: 2 })))
    await store.look()
    expect(store.revision).toBe(before + 1)
  })
})
