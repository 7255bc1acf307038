import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { Schemas } from '@/api/client'
import { i18n } from '@/lib/words'
import CounterPrice from '@/components/match/CounterPrice.vue'
import ImportState from './ImportState.vue'
import InHand from '@/components/match/InHand.vue'
import PerformanceTable from '@/components/match/PerformanceTable.vue'
import StampHelp from './StampHelp.vue'
import StampName from './StampName.vue'
import WhichBore from '@/components/match/WhichBore.vue'

const global = { plugins: [i18n] }
beforeEach(() => setActivePinia(createPinia()))
afterEach(() => vi.unstubAllGlobals())
const answer = (body: unknown, status = 200) =>
  vi.stubGlobal(
    'fetch',
    async () => new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } }),
  )

it('a counter that answers gives price and stock; a silent one is told and makes no price up', async () => {
  const w = mount(CounterPrice, { props: { number: 'N 1' }, global })
  answer({ state: 'ok', offer: { number: 'N 1', stock: 0, lead_days: 3, price: 99.5, core: 20 } })
  await w.find('button').trigger('click')
  await flushPromises()
  expect(w.text()).toContain('99.50 + 20 core')
  expect(w.text()).toContain('none there, 3 days')
  answer({ state: 'silent', offer: null })
  await w.find('button').trigger('click')
  await flushPromises()
  expect(w.text()).toContain('doesn’t answer')
  expect(w.text()).not.toContain('99.50')
  vi.stubGlobal('fetch', async () => {
    throw new TypeError('network')
  })
  await w.find('button').trigger('click')
  await flushPromises()
  expect(w.text()).toContain('doesn’t answer')
})

it('an import tells how far it is, and every bad row with line and reason', async () => {
  const state = { id: 'i', name: 'u.csv', state: 'running', done: 250, total: 1000, problems: [] }
  const w = mount(ImportState, { props: { state: state as never }, global })
  expect(w.find('[role=progressbar]').attributes('aria-valuenow')).toBe('25')
  const problems = [
    { line: 7, id: 'x', what: { path: '$.studs', code: 'fault.range', with: { value: 20, min: 0, max: 8 } } },
    { line: 9, what: { path: '$.id', code: 'fault.row_twice', with: { line: 2 } } },
  ]
  await w.setProps({ state: { ...state, state: 'refused', problems } as never })
  expect(w.text()).toContain('not a row of it: 2 rows are wrong')
  expect(w.text()).toContain('20 is outside 0 to 8')
  expect(w.text()).toContain('line 9')
})

it('lines to make say flare, tube and cut length, and nothing is lost among the lists', () => {
  const kit = [
    {
      id: 'line_to_make',
      how: 'buy',
      why: 'match.port.side',
      with: { position: 'front', flare: 'double_45', tube: '3/16 in', thread: '3/8-24', cut_mm: 580 },
    },
    { id: 'crush_washer', how: 'buy', why: 'kit.always_new', with: { count: 4 } },
    { id: 'bench_bleed_kit', how: 'buy', why: 'kit.have_in_hand', with: { threads: ['3/8-24', 'M12x1'] } },
    { id: 'clevis', how: 'move_over', why: 'kit.from_old' },
  ] as unknown as Schemas['MatchItem'][]
  const text = mount(InHand, { props: { kit }, global }).text()
  expect(text).toContain('front port: double flare 45°, 3/16 in tube, 3/8-24 nuts, cut 580')
  expect(text).toContain('× 4')
  expect(text).toContain('threads 3/8-24, M12x1')
})

const perf = (force: number | null, meets?: boolean) =>
  ({
    at: [{ mpa: 6, force_n: force, travel_mm: 60, stroke_used: 0.5, stroke_left_mm: 9, floored: false }],
    failed: [{ circuit: 'A', travel_mm: 120, floored: true, deceleration_mps2: 2, stroke_left_mm: 3 }],
    foot_n: 500,
    unassisted: { deceleration_mps2: 2.1, need_mps2: meets === undefined ? null : 2.44, meets: meets ?? null },
  }) as unknown as Schemas['MatchPerformance']

it('a pressure that is not to be had is said so, and R13-H only where it reaches', () => {
  const w = mount(PerformanceTable, {
    props: { present: perf(160, false), candidate: perf(null, false), name: 'M 1' },
    global,
  })
  expect(w.text()).toContain('not reached')
  expect(w.text()).toContain('on the floor')
  expect(w.text()).toContain('2.44')
  const truck = mount(PerformanceTable, { props: { present: perf(160), candidate: null, name: '' }, global })
  expect(truck.text()).toContain('this is not one')
})

it('each bore says what limits it and what the foot pays', () => {
  const bores = [
    {
      name: '7/8 in',
      mm: 22.2,
      fits: false,
      broken: ['travel', 'stroke'],
      force_n: 200,
      force_ratio: 0.8,
      volume_ratio: 0.87,
      present: true,
    },
    {
      name: '1 in',
      mm: 25.4,
      fits: true,
      broken: [],
      force_n: 300,
      force_ratio: 1.15,
      volume_ratio: 1.14,
      present: false,
    },
  ] as unknown as Schemas['MatchBoreChoice'][]
  const w = mount(WhichBore, { props: { bores, limits: { mpa: 5, travel_mm: 90, force_n: 500 } }, global })
  expect(w.text()).toContain('pedal too low, stroke used up')
  expect(w.text()).toContain('foot × 1.15')
  expect(w.text()).toContain('travel under 90')
})

it('a measured thread is named, and what would tell two apart is asked for', async () => {
  vi.useFakeTimers()
  answer({ bore: null, threads: [{ id: 'M12x1', seat: 'bubble', tube: '6 mm', sure: false }] })
  const w = mount(StampHelp, { global })
  await w.find('[data-testid="thread-diameter"] input').setValue('11.9')
  await vi.advanceTimersByTimeAsync(300)
  vi.useRealTimers()
  await flushPromises()
  expect(w.find('[data-testid="threads"]').text()).toContain('M12x1: bubble flare, 6 mm tube')
  expect(w.text()).toContain('Gauge the pitch')
})

it('a stamp is named by its standard bore, and an odd one is not rounded to it', async () => {
  vi.useFakeTimers()
  answer({ bore: { mm: 23.8, read: 'metric', nearest: '15/16 in' }, threads: [] })
  const w = mount(StampName, { props: { mm: 23.8 as number | null }, global })
  await vi.advanceTimersByTimeAsync(300)
  expect(w.text()).toContain('Standard bore 15/16 in')
  answer({ bore: { mm: 26.16, read: 'metric', nearest: '' }, threads: [] })
  await w.setProps({ mm: 26.16 })
  await vi.advanceTimersByTimeAsync(300)
  expect(w.text()).toContain('No standard bore')
  vi.useRealTimers()
})
