import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import { useByItself } from './byitself'
import { cables, hasCables, plug } from './cable'
import { figures, remember, takenFor, type Instrument } from './figures'
import { core } from '@/core/core'
import { useSession } from '@/stores/session'

const instrument = (id: string, kind: Instrument['kind']): Instrument =>
  ({
    id,
    kind,
    name: id,
    job: 'j',
    speaks: true,
    holds_until: '',
    out_of_date: false,
    measure: { kind, ours: 'mm' },
  }) as never

describe('what instruments do by themselves', () => {
  const tell = async (id: string, v: number, ageS = 0) => {
    figures.live[id] = { v, at: Date.now() - 1000 * ageS }
    await nextTick()
  }
  beforeEach(() => {
    setActivePinia(createPinia())
    vi.useFakeTimers()
    vi.setSystemTime(1_800_000_000_000)
    Object.assign(figures, {
      job: 'j',
      speaks: true,
      live: {},
      all: [instrument('foot', 'foot_switch'), instrument('scale', 'scale')],
    })
  })

  it('strokes count where they are asked to, once each, and weigh what came since the last', async () => {
    const counted: number[] = []
    const at = ref('RR')
    const it = effectScope().run(() =>
      useByItself(
        at,
        () => 0.4,
        (n) => counted.push(n),
      ),
    )!
    await tell('foot', 7)
    await tell('scale', 100)
    await tell('foot', 8)
    expect(counted).toEqual([]) // not asked to
    it.on = true
    await nextTick()
    await tell('foot', 9)
    expect(counted).toEqual([1])
    await tell('foot', 10) // sooner than a stroke takes: the same
    expect(it.tapped()).toBe(false) // that stroke, tapped as well
    vi.advanceTimersByTime(500)
    await tell('foot', 12)
    expect(counted).toEqual([1, 2])
    vi.advanceTimersByTime(500)
    await tell('foot', 0) // begun anew
    await tell('foot', 1, 60) // left lying
    expect(counted).toEqual([1, 2])
    expect(it.tapped()).toBe(true) // whoever taps takes over
    await nextTick()
    await tell('foot', 2)
    expect(counted).toEqual([1, 2])
    await tell('scale', 105.3)
    expect(it.weigh().weighed?.grams).toBe(5.3)
    await tell('scale', 2) // the bottle was changed
    expect(it.weigh()).toEqual({})
    await tell('scale', 4)
    expect(it.weigh().weighed?.grams).toBe(2)
    at.value = 'LR'
    await nextTick()
    expect(it.on).toBe(false)
  })

  it('strokes are told by the travel as well, each once, and what is tapped at the same time is not told twice', async () => {
    figures.all = [instrument('rule', 'travel')]
    const asked: number[] = []
    let n = 0
    core.strokes = async (list, after) => (asked.push(list.length), { n, up_to_s: n ? list.at(-1)!.s : after })
    const counted: number[] = []
    const by = effectScope().run(() =>
      useByItself(
        ref('RR'),
        () => 0.5,
        (k) => counted.push(k),
        () => true,
      ),
    )!
    by.on = true
    await nextTick()
    const draw = async () => {
      for (let i = 0; i < 4; i++) {
        await vi.advanceTimersByTimeAsync(100)
        await tell('rule', i)
      }
      await vi.advanceTimersByTimeAsync(1)
    }
    await draw()
    expect(asked).toEqual([4])
    expect(counted).toEqual([])
    n = 1
    await vi.advanceTimersByTimeAsync(400)
    await draw()
    expect(counted).toEqual([1])
    by.tapped()
    await vi.advanceTimersByTimeAsync(600)
    by.tapped()
    await draw()
    expect(counted).toEqual([1])
    by.on = true
    await nextTick()
    n = 0
    await vi.advanceTimersByTimeAsync(30_000)
    await draw()
    expect(asked.at(-1)).toBeLessThanOrEqual(16)
  })

  it('a figure that was taken names its instrument, one that was typed or changed names none', () => {
    useSession().vocabulary = { tells: { 'pedal.sink': ['travel', 'force'] } } as never
    remember(instrument('rule', 'travel'), 71.2)
    expect(takenFor('pedal.sink', { pedal_force_n: 300, travel_mm: 71.2 }).measured?.id).toBe('rule')
    expect(takenFor('pedal.sink', { pedal_force_n: 300, travel_mm: 71.3 })).toEqual({})
    expect(takenFor('fluid.water_percent', 71.2)).toEqual({}) // of another kind
    vi.advanceTimersByTime(11 * 60_000)
    expect(takenFor('pedal.sink', { travel_mm: 71.2 })).toEqual({})
  })

  it('a cable hands its lines on whole, keeps them while the server is away, and ends when it is pulled', async () => {
    let say: (s: string) => void = () => {}
    let pull: () => void = () => {}
    const readable = new ReadableStream<Uint8Array>({
      start(c) {
        say = (s) => c.enqueue(new TextEncoder().encode(s))
        pull = () => c.close()
      },
    })
    expect(hasCables()).toBe(false)
    const port = { open: async () => {}, close: vi.fn(async () => {}), readable }
    Object.defineProperty(navigator, 'serial', { configurable: true, value: { requestPort: async () => port } })
    const told: string[] = []
    let away = true
    vi.stubGlobal('fetch', async (r: Request) => {
      if (away) throw new TypeError('down')
      for (const l of (JSON.parse(await r.clone().text()) as { lines: { text: string }[] }).lines) told.push(l.text)
      return new Response(JSON.stringify({ taken: 1, problem: 'no_unit' }), {
        headers: { 'Content-Type': 'application/json' },
      })
    })
    const done = plug(instrument('rule', 'travel'))
    await vi.advanceTimersByTimeAsync(10)
    say('71.')
    say('2 mm\r\n71.3 mm\r\n\r\n71')
    await vi.advanceTimersByTimeAsync(500)
    expect(told).toEqual([])
    away = false
    await vi.advanceTimersByTimeAsync(500)
    expect(told).toEqual(['71.2 mm', '71.3 mm'])
    expect(cables.rule?.problem).toBe('no_unit')
    pull()
    await vi.advanceTimersByTimeAsync(500)
    await done
    expect(cables.rule).toBeUndefined()
    expect(port.close).toHaveBeenCalled()
  })
})
