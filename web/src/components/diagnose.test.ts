import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { JobView, Schemas } from '@/api/client'
import { i18n } from '@/lib/words'
import { useJob } from '@/stores/job'
import FaultList from '@/components/diagnose/FaultList.vue'
import Grounds from '@/components/diagnose/Grounds.vue'
import GuidedTest from '@/components/diagnose/GuidedTest.vue'
import LocatedPick from '@/components/diagnose/LocatedPick.vue'
import PlacedPick from '@/components/diagnose/PlacedPick.vue'
import PlacesLooked from '@/components/diagnose/PlacesLooked.vue'
import Verdict from '@/components/diagnose/Verdict.vue'

const global = { plugins: [i18n] }
beforeEach(() => setActivePinia(createPinia()))

const water: Schemas['ServerTestKind'] = {
  id: 'water',
  yields: ['fluid.water_percent'],
  steps: ['tester_clean'],
  cautions: ['steering_apart'],
  timer_s: 0,
  clock_for: '',
  counts: false,
  inputs: [
    { id: 'vehicle', quantity: 'percent', min: 0, max: 20, optional: false, circuit: false },
    { id: 'bottle', quantity: 'percent', min: 0, max: 20, optional: true, circuit: false },
  ],
}

describe('a guided test', () => {
  it('shows what its figures come to, and hands on what the server found in them', async () => {
    vi.useFakeTimers()
    useJob().job = { id: 'j', intake: { system: null } } as unknown as JobView
    const asked: unknown[] = []
    vi.stubGlobal('fetch', async (r: Request) => {
      asked.push(await r.json())
      const answer = {
        figures: [{ id: 'boils_at', quantity: 'celsius', value: 190 }],
        findings: [{ id: 'fluid.water_percent', value: 2.5 }],
        notes: ['bottle_wet'],
      }
      return new Response(JSON.stringify(answer), { headers: { 'content-type': 'application/json' } })
    })
    const w = mount(GuidedTest, { props: { test: water }, global })
    expect(w.text()).toContain('Clean tip')
    expect(w.find('[data-testid="measure-store"]').attributes('disabled')).toBeDefined()
    await w.find('[data-testid="input-vehicle"] input').setValue('2.5')
    await vi.advanceTimersByTimeAsync(400)
    vi.useRealTimers()
    await flushPromises()
    expect(asked).toEqual([{ test: 'water', values: { vehicle: 2.5 } }])
    expect(w.find('[data-testid="figures"]').text()).toContain('190')
    expect(w.find('[data-testid="measure-note"]').text()).toContain('drawn water')
    await w.find('[data-testid="measure-store"]').trigger('click')
    expect(w.emitted('found')).toEqual([[[{ id: 'fluid.water_percent', value: 2.5 }]]])
    vi.unstubAllGlobals()
  })
  it('counts by taps', async () => {
    const test = {
      ...water,
      id: 'reserve',
      counts: true,
      inputs: [{ ...water.inputs[0]!, id: 'count', quantity: 'count' }],
    }
    const w = mount(GuidedTest, { props: { test }, global })
    await w.find('[data-testid="test-count"]').trigger('click')
    await w.find('[data-testid="test-count"]').trigger('click')
    expect(w.find('[data-testid="test-count"]').text()).toContain('2')
  })
})

it('places left unsaid are taken to be in order only when told so', async () => {
  const job = useJob()
  job.job = {
    intake: {
      system: {
        name: 'x',
        circuits: [
          { id: 'A', wheels: ['LF'] },
          { id: 'B', wheels: ['LR'] },
        ],
        wheels: [],
      },
    },
  } as unknown as JobView
  const w = mount(PlacedPick, {
    props: { id: 'pressure.at_port', values: ['ok', 'low', 'none'], wheels: false, value: { A: 'low' } },
    global: { ...global, stubs: { Schematic: true } },
  })
  await w.find('[data-testid="pressure.at_port-rest"]').trigger('click')
  await w.find('[data-testid="pressure.at_port-A-low"]').trigger('click')
  expect(w.emitted('pick')).toEqual([[{ A: 'low', B: 'ok' }], [null]])
})

const result = {
  healthy: 0.1,
  faults: [
    {
      id: 'mc.primary_cup_bypass',
      probability: 0.8,
      part: 'master_cylinder',
      because: [
        { finding: 'pedal.sinks', value: 'slow', times: 5.3, for: true, with: 0.7, without: 0.013, origin: 'named' },
        { finding: 'pedal.sink', times: 8, for: false, with: 0.01, without: 0.08, origin: 'twin' },
      ],
    },
  ],
  carries: [{ finding: 'pedal.sinks', value: 'slow', fault: 'mc.primary_cup_bypass', times: 5.3 }],
  rests_on: [{ finding: 'pedal.sinks', fault: '', probability: 0.5, action: 'nothing' }],
} as unknown as Schemas['DiagnoseResult']

it('a probability opens to how often, how much likelier, and where that comes from', async () => {
  const w = mount(FaultList, { props: { result }, global })
  await w.find('[data-testid="fault-mc.primary_cup_bypass"]').trigger('click')
  const text = w.find('[data-testid="because"]').text()
  expect(text).toContain('Pedal sinks under a steady foot: slowly')
  expect(text).toContain('seen in 70 of 100 with this fault, 1.3 of 100 without')
  expect(text).toContain('8 times more likely without this fault')
  expect(text).toContain('the twin over its severities')
})

it('a finding is switched off and on again', async () => {
  const w = mount(Grounds, { props: { result, findings: ['pedal.sinks'], off: [] as string[] }, global })
  expect(w.text()).toContain('Nothing to repair')
  expect(w.find('[data-testid=carries]').text()).toContain('5.3 times more likely')
  await w.find('[data-testid="what-if-pedal.sinks"]').trigger('click')
  expect(w.emitted('off')).toEqual([[['pedal.sinks']]])
  await w.setProps({ off: ['pedal.sinks'] })
  await w.find('[data-testid="what-if-pedal.sinks"]').trigger('click')
  expect(w.emitted('off')![1]).toEqual([[]])
})

const action = {
  id: 'replace_master_cylinder',
  best: 'replace_master_cylinder',
  chance: 0.87,
  minutes: 110,
  price: 356,
  alternatives: [],
  settled: true,
} as unknown as Schemas['DiagnoseAction']

it('the likeliest work is the headline, below one half the next test is, and the work a line below it', async () => {
  const verdict = (over: object, of: object = {}) =>
    ({
      ...result,
      contradictions: [],
      wheel_work: [],
      test_first: '',
      next_tests: [],
      ...of,
      action: { ...action, ...over },
    }) as never
  const w = mount(Verdict, { props: { result: verdict({}) }, global })
  expect(w.find('h2').text()).toContain('Replace the master cylinder')
  expect(w.find('[data-testid=chance]').text()).toContain('87 %')
  expect(w.find('[data-testid=test-first]').exists()).toBe(false)
  await w.setProps({
    result: verdict({ id: 'keep_testing', settled: false, chance: 0.3 }, { test_first: 'hold' }),
  })
  expect(w.find('h2').text()).toBe('First: Hold test')
  expect(w.find('[data-testid=chance]').text()).toContain('Replace the master cylinder')
  expect(w.text()).not.toContain('min of work')
  await w.find('[data-testid=test-first]').trigger('click')
  expect(w.emitted('start')).toEqual([['hold']])
  await w.setProps({
    result: verdict(
      { settled: false },
      { test_first: 'hold', first_why: 'again', next_tests: [{ id: 'hold', again: true }] },
    ),
  })
  expect(w.find('[data-testid=settled]').text()).toContain('Hold test, once more')
  expect(w.find('[data-testid=settled]').text()).toContain('One reading alone decides this')
  const work = [{ at: 'LR', take_up_mm: 1.2, pedal_gain_mm: 14, at_force_n: 200, measured: false }]
  await w.setProps({
    result: verdict({ best: 'repair_wheel', at: ['LR', 'RR'] }, { wheel_work: work }),
  })
  expect(w.find('h2').text()).toContain('LR, RR')
  expect(w.find('[data-testid=wheel-work]').text()).toContain('14')
})

it('a place is wet, looked at and dry, or not looked at', async () => {
  const w = mount(PlacesLooked, {
    props: { places: ['wheel', 'inside_booster'], wet: [] as string[], looked: undefined },
    global,
  })
  expect(w.text()).toContain('not looked')
  await w.find('[data-testid="wet.at-inside_booster-dry"]').trigger('click')
  await w.setProps({ wet: ['dry'], looked: ['inside_booster'] })
  await w.find('[data-testid="wet.at-wheel-wet"]').trigger('click')
  await w.setProps({ wet: ['wheel'], looked: ['wheel', 'inside_booster'] })
  await w.find('[data-testid="wet.at-wheel-wet"]').trigger('click')
  expect(w.emitted('find')).toEqual([
    [['dry'], ['inside_booster']],
    [['wheel'], ['wheel', 'inside_booster']],
    [['dry'], ['inside_booster']],
  ])
})

it('one weak wheel is asked for by name', async () => {
  useJob().job = { intake: { system: { circuits: [], wheels: [{ id: 'LF' }, { id: 'RF' }] } } } as unknown as JobView
  const w = mount(LocatedPick, {
    props: { id: 'brakes.weak', values: ['no', 'one_wheel'], value: 'one_wheel' as unknown },
    global,
  })
  await w.find('[data-testid="brakes.weak-at-RF"]').trigger('click')
  await w.setProps({ value: { one_wheel: 'RF' } })
  await w.find('[data-testid="brakes.weak-at-RF"]').trigger('click')
  expect(w.emitted('find')).toEqual([[{ one_wheel: 'RF' }], ['one_wheel']])
})
