import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { drafts } from '@/lib/drafts'
import { keepsNothing, local } from '@/lib/local'
import { api } from '@/api/client'
import { Line, useOutbox } from './outbox'
import { useSession } from './session'

const answer = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })

interface Post {
  url: string
  job: string
  ids: string[]
}

async function postOf(r: Request): Promise<Post> {
  const body = JSON.parse(await r.clone().text()) as { events: { id: string }[] }
  return { url: r.url, job: r.url.split('/').at(-2)!, ids: body.events.map((e) => e.id) }
}

function as(id: string) {
  useSession().user = { id, name: id, display: id } as never
}

describe('outbox', () => {
  let posts: Post[] = []
  let reply: (p: Post) => Response | Promise<Response>
  beforeEach(async () => {
    await local.outbox.clear()
    setActivePinia(createPinia())
    as('mara')
    posts = []
    reply = () => answer(200, { id: 'j' })
    vi.stubGlobal('fetch', async (r: Request) => {
      const p = await postOf(r)
      posts.push(p)
      return reply(p)
    })
  })
  const settled = () => vi.waitFor(() => expect(useOutbox().mine).toHaveLength(0))

  it('is told that nobody is signed in any more, and takes a wrong password for no such thing', async () => {
    const box = useOutbox()
    await box.load()
    const asked = (code: string) => {
      vi.stubGlobal('fetch', () => Promise.resolve(answer(401, { code })))
      return api.PUT('/api/me/password', { body: { old: 'x', password: 'y' } })
    }
    await asked('problem.wrong_password')
    expect(box.signedOut).toBe(false)
    await asked('problem.signed_out')
    expect(box.signedOut).toBe(true)
  })

  it('tells at once that nothing can be kept here, and holds what it can while the page lives', async () => {
    reply = () => {
      throw new TypeError('down')
    }
    const full = vi.spyOn(local.outbox, 'add').mockRejectedValue(new DOMException('no room', 'QuotaExceededError'))
    const box = useOutbox()
    const id = box.send('j', 'bleed_stroke', { wheel: 'RR' })
    await vi.waitFor(() => expect(keepsNothing.value).toBe(true))
    await box.reload({ job: 'j' }) // another tab has sent something
    expect(box.mine.map((w) => w.event.id)).toEqual([id])
    full.mockRestore()
    reply = () => answer(200, { id: 'j' })
    box.resting = {}
    await vi.waitFor(async () => {
      await box.flush()
      expect(box.mine).toHaveLength(0)
    })
    box.send('j', 'bleed_stroke', { wheel: 'RR' })
    await vi.waitFor(() => expect(keepsNothing.value).toBe(false))
    await settled()
  })

  it('goes on with a server that was put back to an older version', async () => {
    const said: unknown[] = []
    reply = (p) =>
      p.url.endsWith('/log') ? answer(404, { code: 'problem.not_found' }) : answer(200, { id: 'j', head: 7 })
    const box = useOutbox()
    box.onStored = (s) => void said.push(s)
    box.send('j', 'bleed_stroke', { wheel: 'RR' })
    await settled()
    expect(said).toMatchObject([{ id: 'j', head: 7, view: { id: 'j' } }])
  })

  it('keeps a stroke over a lost connection and sends the same id again', async () => {
    reply = () => {
      throw new TypeError('down')
    }
    const box = useOutbox()
    const id = box.send('j', 'bleed_stroke', { wheel: 'RR' })
    await vi.waitFor(() => expect(box.offline).toBe(true))
    expect(await local.outbox.count()).toBe(1)
    reply = () => answer(200, { id: 'j' })
    box.resting = {}
    await vi.waitFor(async () => {
      await box.flush()
      expect(box.mine).toHaveLength(0)
    })
    expect(box.offline).toBe(false)
    expect(posts.every((p) => p.ids[0] === id)).toBe(true)
    expect(await local.outbox.count()).toBe(0)
  })

  it('takes up what another tab left, and neither erases the other’s', async () => {
    reply = () => {
      throw new TypeError('down')
    }
    const one = useOutbox()
    one.send('j', 'refill', {})
    await vi.waitFor(async () => expect(await local.outbox.count()).toBe(1))
    setActivePinia(createPinia())
    as('mara')
    const two = useOutbox()
    two.send('j', 'refill', {})
    await vi.waitFor(async () => expect(await local.outbox.count()).toBe(2))
    await two.load()
    expect(two.of('j')).toHaveLength(2)
  })

  it('sends nothing under another name', async () => {
    reply = () => answer(401, { code: 'problem.signed_out' })
    const box = useOutbox()
    box.send('j', 'refill', {})
    await vi.waitFor(() => expect(box.signedOut).toBe(true))
    reply = () => answer(200, { id: 'j' })
    as('piet')
    box.signedOut = false
    await box.flush()
    expect(box.of('j')).toHaveLength(0)
    expect(posts).toHaveLength(1)
    as('mara')
    await box.flush()
    await settled()
    expect(posts).toHaveLength(2)
  })

  it('one job’s trouble holds up no other', async () => {
    reply = (p) => (p.job === 'ill' ? answer(500, { code: 'problem.server' }) : answer(200, { id: p.job }))
    const box = useOutbox()
    box.send('ill', 'refill', {})
    box.send('well', 'refill', {})
    await vi.waitFor(() => expect(box.of('well')).toHaveLength(0))
    expect(box.of('ill')).toHaveLength(1)
    expect(box.resting.ill!.pause).toBeGreaterThan(0)
    expect(box.offline).toBe(false)
  })

  it('lets go of what the server refuses, says so, and keeps the rest', async () => {
    const box = useOutbox()
    const stored = vi.fn()
    box.onStored = stored
    box.waiting = ['bad', 'good'].map((id) => ({
      account: 'mara',
      job: 'j',
      event: { id, kind: 'note', at: '', data: {} },
    }))
    reply = (p) => (p.ids.includes('bad') ? answer(422, { code: 'problem.faults' }) : answer(200, { id: 'j' }))
    await box.flush()
    expect(box.mine).toHaveLength(0)
    expect(box.refused?.code).toBe('problem.faults')
    expect(stored).toHaveBeenCalledTimes(1)
  })

  it('an edit that is refused takes no stroke with it', async () => {
    const methods: string[] = []
    vi.stubGlobal('fetch', async (r: Request) => {
      methods.push(r.method)
      return r.method === 'PUT' ? answer(422, { code: 'problem.faults' }) : answer(200, { id: 'edited' })
    })
    const box = useOutbox()
    drafts.put('choices', 'edited', { base: 1, value: { scope: 'bleed' }, said: true })
    box.send('edited', 'refill', {})
    await settled()
    expect(methods).toEqual(['PUT', 'POST'])
    expect(box.refused?.code).toBe('problem.faults')
    expect(drafts.get('choices', 'edited')?.said).toBe(false)
    drafts.drop('choices', 'edited')
  })

  it('sends in spite of a tab that was frozen with the line in hand', async () => {
    let held = true
    vi.stubGlobal('navigator', {
      locks: { request: (_: string, __: object, then: (got: object | null) => unknown) => then(held ? null : {}) },
    })
    const line = new Line()
    let now = 1000
    const clock = vi.spyOn(performance, 'now').mockImplementation(() => now)
    const send = vi.fn(async () => {})
    await line.alone(send)
    now += 9000
    await line.alone(send)
    expect(send).not.toHaveBeenCalled()
    now += 2000
    await line.alone(send)
    expect(send).toHaveBeenCalledTimes(1)
    held = false
    await line.alone(send)
    held = true
    await line.alone(send)
    expect(send).toHaveBeenCalledTimes(2) // the line was free: the patience begins anew
    clock.mockRestore()
    vi.unstubAllGlobals()
  })
  it('says whether all of a job is stored', async () => {
    const box = useOutbox()
    box.send('j', 'refill', {})
    expect(await box.drained('j')).toBe(true)
    expect(posts).toHaveLength(1)
    reply = () => {
      throw new TypeError('down')
    }
    box.send('j', 'refill', {})
    expect(await box.drained('j')).toBe(false)
  })

  const row = (id: string, job = 'j') => ({
    account: 'mara',
    job,
    event: { id, kind: 'note' as const, at: '', data: {} },
  })

  it('sends a job’s run of events in order, a hundred at once', async () => {
    const box = useOutbox()
    const ids = Array.from({ length: 250 }, (_, i) => 'e' + i)
    box.waiting = ids.map((id) => row(id))
    await box.flush()
    expect(posts.map((p) => p.ids.length)).toEqual([100, 100, 50])
    expect(posts.flatMap((p) => p.ids)).toEqual(ids)
  })

  it('rests twice as long each time, never longer than a minute, and loses nothing meanwhile', async () => {
    reply = () => answer(503, { code: 'problem.busy' })
    const box = useOutbox()
    box.waiting = [row('a')]
    const pauses: number[] = []
    for (let i = 0; i < 9; i++) {
      if (box.resting.j) box.resting.j.until = 0
      await box.flush()
      pauses.push(box.resting.j!.pause)
    }
    expect(pauses).toEqual([2000, 4000, 8000, 16_000, 32_000, 60_000, 60_000, 60_000, 60_000])
    expect(box.mine.map((w) => w.event.id)).toEqual(['a'])
    expect(posts).toHaveLength(9)
  })

  it.each([
    [429, 'problem.too_many'],
    [500, 'problem.server'],
    [503, 'problem.busy'],
  ])('keeps what is answered by %i, and lets the job rest', async (status, code) => {
    reply = () => answer(status, { code })
    const box = useOutbox()
    box.waiting = [row('a'), row('b')]
    await box.flush()
    expect(box.mine).toHaveLength(2)
    expect(box.resting.j!.until).toBeGreaterThan(Date.now())
    expect(box.refused).toBeNull()
    expect(posts).toHaveLength(1)
  })

  it('takes a session’s lost token for being signed out, and keeps what waits', async () => {
    reply = () => answer(403, { code: 'problem.csrf' })
    const box = useOutbox()
    box.waiting = [row('a')]
    await box.flush()
    expect(box.signedOut).toBe(true)
    expect(box.mine).toHaveLength(1)
    expect(box.refused).toBeNull()
  })

  it('takes nothing back that is on its way', async () => {
    let let_go = () => {}
    reply = () => new Promise((ok) => (let_go = () => ok(answer(200, { id: 'j' }))))
    const box = useOutbox()
    box.waiting = [row('a')]
    const sending = box.flush()
    await vi.waitFor(() => expect(posts).toHaveLength(1))
    expect(await box.takeBack('a')).toBe(false)
    expect(box.mine).toHaveLength(1)
    let_go()
    await sending
    expect(box.mine).toHaveLength(0)
  })

  it('whoever asks while a sending is under way waits for it, and for what came in since', async () => {
    let let_go = () => {}
    reply = (p) =>
      p.ids[0] === 'a' ? new Promise((ok) => (let_go = () => ok(answer(200, { id: 'j' })))) : answer(200, { id: 'j' })
    const box = useOutbox()
    box.waiting = [row('a')]
    void box.flush()
    await vi.waitFor(() => expect(posts).toHaveLength(1))
    box.waiting = [...box.waiting, row('b', 'k')]
    const second = box.flush()
    let_go()
    await second
    expect(box.mine).toHaveLength(0)
    expect(posts.map((p) => p.job)).toEqual(['j', 'k'])
  })

  it.each([404, 405])('goes the older way where the newer is answered by %i, and remembers it', async (status) => {
    reply = (p) =>
      p.url.endsWith('/log') ? answer(status, { code: 'problem.no_route' }) : answer(200, { id: 'j', head: 1 })
    const box = useOutbox()
    box.waiting = [row('a')]
    await box.flush()
    box.waiting = [row('b')]
    await box.flush()
    expect(posts.map((p) => p.url.split('/').at(-1))).toEqual(['log', 'events', 'events'])
    expect(box.mine).toHaveLength(0)
  })

  it('a refusal stands until it could be read, and goes then with work that goes well', async () => {
    let now = 0
    const clock = vi.spyOn(performance, 'now').mockImplementation(() => now)
    reply = (p) => (p.ids.includes('bad') ? answer(422, { code: 'problem.faults' }) : answer(200, { id: 'j' }))
    const box = useOutbox()
    box.waiting = [row('bad')]
    await box.flush()
    for (const [at, stands] of [
      [5000, true],
      [11_900, true],
      [12_100, false],
    ] as const) {
      now = at
      box.waiting = [row('good' + at)]
      await box.flush()
      expect(!!box.refused).toBe(stands)
    }
    clock.mockRestore()
  })

  it('takes back what has not left, and nothing that has', async () => {
    reply = () => answer(401, { code: 'problem.signed_out' })
    const box = useOutbox()
    const id = box.send('j', 'refill', {})
    await vi.waitFor(() => expect(box.signedOut).toBe(true))
    await vi.waitFor(async () => expect(await box.takeBack(id)).toBe(true))
    expect(box.of('j')).toHaveLength(0)
    expect(await local.outbox.count()).toBe(0)
    expect(await box.takeBack('gone')).toBe(false)
  })
})
