import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { useJob } from '@/stores/job'
import { useChoices } from './choices'

const view = (version: number, scope: string) => ({
  id: 'j',
  updated_at: String(version),
  intake: { system: null },
  choices: { scope },
  choices_version: version,
  state: {},
  status: {},
})

describe('choices edited on the screen', () => {
  let sent: { version: number; choices: { scope: string } }[] = []
  let reply: (body: { version: number; choices: { scope: string } }) => Promise<Response>
  const json = (status: number, body: unknown) =>
    new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })

  beforeEach(() => {
    localStorage.clear()
    setActivePinia(createPinia())
    vi.useFakeTimers()
    sent = []
    reply = async (b) => json(200, view(b.version + 1, b.choices.scope))
    vi.stubGlobal('fetch', async (r: Request) => {
      const body = JSON.parse(await r.clone().text())
      sent.push(body)
      return reply(body)
    })
    useJob().$patch({ job: view(1, 'cylinder'), stored: view(1, 'cylinder'), seen: { intake: 1, choices: 1 } } as never)
  })

  it('are stored once for a run of changes, and shown at once', async () => {
    const { choices, set } = useChoices()
    void set({ scope: 'both' })
    void set({ scope: 'bleed' })
    expect(choices.value.scope).toBe('bleed')
    await vi.advanceTimersByTimeAsync(500)
    expect(sent.map((s) => s.choices.scope)).toEqual(['bleed'])
    expect(useJob().job!.choices_version).toBe(2)
    expect(localStorage.length).toBe(0)
  })

  it('begin from what is on the screen, not from what has come in behind it', async () => {
    // A colleague's edit has arrived, and the core is still folding it: the screen shows the version before.
    useJob().$patch({ stored: view(4, 'theirs') } as never)
    void useChoices().set({ scope: 'both' })
    await vi.advanceTimersByTimeAsync(300)
    expect(sent[0]!.version).toBe(1)
  })

  it('are one copy for all parts of a station', async () => {
    const one = useChoices()
    const two = useChoices()
    void one.set({ scope: 'both' })
    void two.set({ bench_on_vehicle: true })
    expect(one.choices.value.bench_on_vehicle).toBe(true)
    await vi.advanceTimersByTimeAsync(500)
    expect(sent).toHaveLength(1)
    expect(sent[0]!.choices).toEqual({ scope: 'both', bench_on_vehicle: true })
  })

  it('never race themselves: a change during a slow save waits for it', async () => {
    reply = (b) => new Promise((done) => setTimeout(() => done(json(200, view(b.version + 1, b.choices.scope))), 1000))
    const { set } = useChoices()
    void set({ scope: 'both' })
    await vi.advanceTimersByTimeAsync(400)
    void set({ scope: 'bleed' })
    await vi.advanceTimersByTimeAsync(4000)
    expect(sent.map((s) => [s.version, s.choices.scope])).toEqual([
      [1, 'both'],
      [2, 'bleed'],
    ])
    expect(useJob().conflict).toBeNull()
  })

  it('outlive the refusal of half a figure that was on its way while the rest was typed', async () => {
    reply = (b) =>
      new Promise((done) =>
        setTimeout(
          () =>
            done(b.choices.scope === '7' ? json(422, { code: 'problem.fields' }) : json(200, view(2, b.choices.scope))),
          1000,
        ),
      )
    const { choices, set } = useChoices()
    void set({ scope: '7' } as never)
    await vi.advanceTimersByTimeAsync(400)
    void set({ scope: '7/8' } as never)
    await vi.advanceTimersByTimeAsync(1000)
    expect(choices.value.scope).toBe('7/8')
    await vi.advanceTimersByTimeAsync(3000)
    expect(sent.map((s) => s.choices.scope)).toEqual(['7', '7/8'])
    expect(useJob().job!.choices.scope).toBe('7/8')
    expect(useJob().problem).toBeNull()
  })

  it('outlive a lost connection and a reload', async () => {
    reply = async () => {
      throw new TypeError('down')
    }
    const { set } = useChoices()
    void set({ scope: 'both' })
    await vi.advanceTimersByTimeAsync(500)
    expect(localStorage.getItem('geminate.choices..j')).toContain('both')
    setActivePinia(createPinia())
    useJob().$patch({ job: view(1, 'cylinder'), stored: view(1, 'cylinder') } as never)
    reply = async (b) => json(200, view(b.version + 1, b.choices.scope))
    const again = useChoices()
    expect(again.choices.value.scope).toBe('both')
    await vi.advanceTimersByTimeAsync(3000)
    expect(useJob().job!.choices.scope).toBe('both')
    expect(localStorage.length).toBe(0)
  })

  it('are put to the person where someone else was first', async () => {
    reply = async () => json(409, { code: 'problem.stale', current: view(7, 'bleed') })
    const { choices, set } = useChoices()
    void set({ scope: 'both' })
    await vi.advanceTimersByTimeAsync(500)
    expect(useJob().conflict?.theirs.choices_version).toBe(7)
    expect(choices.value.scope).toBe('cylinder')
  })
})
