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
      if (r.url.endsWith('/shelf')) return answer(200, { units: [] })
      if (r.url.includes('/log')) return answer(200, { events: [], more: false })
      return (replies.shift() ?? (() => answer(200, view())))()
    })
  })

  it('loads and takes what the outbox stores', async () => {
    const store = useJob()
    await store.load('j')
    expect(store.job?.intake.complaint).toBe('stored')
    const before = store.revision
    await useOutbox().onStored!({ id: 'j', head: 2, events: [], view: view({ updated_at: '2', head: 2 }) } as never)
    expect(store.revision).toBe(before + 1)
    await useOutbox().onStored!({ id: 'other', head: 9, events: [], view: view({ id: 'other', head: 9 }) } as never)
    expect(store.job?.id).toBe('j')
  })

  it('a choice is not refused by a server that is only starting', async () => {
    const store = useJob()
    await store.load('j')
    for (const [status, code] of [
      [503, 'problem.starting'],
      [500, 'problem.server'],
      [429, 'problem.too_many'],
    ] as const) {
      replies.push(() => answer(status, { code }))
      expect(await store.saveChoices({ scope: 'bleed' } as never)).toBe(false)
      expect(store.unreached, String(status)).toBe(true) // kept, and sent again
    }
    replies.push(() => answer(422, { code: 'problem.invalid' }))
    expect(await store.saveChoices({ scope: 'bleed' } as never)).toBe(false)
    expect(store.unreached).toBe(false)
    expect(store.problem?.code).toBe('problem.invalid')
  })

  const known = (change: object = {}) => ({ head: 1, have: 1, same: false, short: false, newer: false, ...change })
  const e = (seq: number) => ({ seq, id: `e${seq}`, kind: 'bleed_stroke' }) as never

  it('shows nothing anew where what was stored was shown already', async () => {
    const confirm = vi.spyOn(core, 'confirm').mockResolvedValue(known())
    const show = vi
      .spyOn(core, 'show')
      .mockImplementation(async () => ({ view: view(), refused: [], intake_version: 1, choices_version: 1 }) as never)
    const store = useJob()
    await store.load('j')
    const shows = show.mock.calls.length
    confirm.mockResolvedValue(known({ head: 2, have: 2, same: true }))
    await useOutbox().onStored!({ id: 'j', head: 2, events: [e(2)] })
    store.heard(e(2)) // the live log tells it too
    await new Promise((later) => setTimeout(later, 60))
    expect(show.mock.calls.length).toBe(shows)
    expect(store.head).toBe(2)
    expect(requests.filter((r) => r.method === 'GET' && /jobs\/j$/.test(r.url))).toHaveLength(1)
    confirm.mockRestore()
    show.mockRestore()
  })

  it('fetches what is missing of the log and hands on only what is new', async () => {
    const told: number[][] = []
    const confirm = vi.spyOn(core, 'confirm').mockImplementation(async (news) => {
      const seqs = (news.events ?? []).map((x) => x.seq)
      told.push(seqs)
      return seqs.includes(4) && seqs.length === 1 ? known({ short: true }) : known({ head: 4, have: 4 })
    })
    const store = useJob()
    await store.load('j')
    const log = vi.spyOn(store, 'fetchLog').mockResolvedValue([e(2), e(3), e(4)])
    store.heard(e(4))
    await vi.waitFor(() => expect(told.at(-1)).toEqual([2, 3, 4]))
    expect(log).toHaveBeenCalledTimes(1)
    expect(store.head).toBe(4)
    confirm.mockRestore()
  })

  it('what was kept here is looked at anew once the server is heard', async () => {
    const confirm = vi.spyOn(core, 'confirm').mockResolvedValue(known({ head: 2, have: 2 }))
    const store = useJob()
    await store.load('j')
    store.kept = true
    replies.push(() => answer(200, view({ head: 2, updated_at: '7' })))
    await useOutbox().onStored!({ id: 'j', head: 2, events: [e(2)] })
    expect(store.kept).toBe(false)
    confirm.mockRestore()
  })

  it('an old page goes on with what the server shows, and says that it is old', async () => {
    const confirm = vi.spyOn(core, 'confirm').mockResolvedValue(known({ newer: true }))
    const store = useJob()
    await store.load('j')
    expect(store.tooOld).toBe(true)
    expect(store.job?.intake.complaint).toBe('stored')
    expect(useOutbox().wantsWhole!()).toBe(true)
    await useOutbox().onStored!({ id: 'j', head: 3, events: [e(3)], view: view({ head: 3, updated_at: '3' }) } as never)
    expect(store.job?.updated_at).toBe('3')
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
