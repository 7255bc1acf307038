import { mount, flushPromises } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/api/client'
import { i18n } from '@/lib/words'
import { figures } from '@/lib/figures'
import { useUnits } from '@/lib/units'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'
import BigCount from './BigCount.vue'
import NumPad from './NumPad.vue'
import UnitShown from './match/UnitShown.vue'
import UnitTable from './match/UnitTable.vue'
import Choice from './Choice.vue'
import Faults from './Faults.vue'
import HoldTest from '@/components/diagnose/HoldTest.vue'
import NextTests from '@/components/diagnose/NextTests.vue'
import Readings from '@/components/diagnose/Readings.vue'
import StepList from './replace/StepList.vue'
import StepNow from './replace/StepNow.vue'
import TorqueEntry from './replace/TorqueEntry.vue'

const global = { plugins: [i18n] }
const put = (w: ReturnType<typeof mount>, testid: string, v: string) =>
  w.find(`[data-testid="${testid}"] input`).setValue(v)

beforeEach(() => {
  setActivePinia(createPinia())
  useUnits([
    { id: 'mm', quantity: 'length', system: 'metric', factor: 1, offset: 0, decimals: 1 },
    { id: 'in', quantity: 'length', system: 'us', factor: 25.4, offset: 0, decimals: 3 },
    { id: 'N', quantity: 'force', system: 'metric', factor: 1, offset: 0, decimals: 0 },
    { id: 'lbf', quantity: 'force', system: 'us', factor: 4.448, offset: 0, decimals: 0 },
    { id: 'N·m', quantity: 'torque', system: 'metric', factor: 1, offset: 0, decimals: 1 },
    { id: 'ft·lbf', quantity: 'torque', system: 'us', factor: 1.3558, offset: 0, decimals: 1 },
    { id: 'in·lbf', quantity: 'torque', system: 'us', factor: 0.11298, offset: 0, decimals: 0 },
  ])
})

describe('the count', () => {
  it('is as tall while something is on its way', async () => {
    const w = mount(BigCount, { props: { count: 3, of: 14, label: 'tap', waiting: 0 }, global })
    const lines = w.findAll('.what').length
    await w.setProps({ waiting: 5 })
    expect(w.find('[data-testid="on-their-way"]').text()).toContain('5')
    expect(w.findAll('.what').length).toBe(lines)
  })
})

describe('hold test', () => {
  it('hands the sink on only when it is whole, and asks where the pedal rose', async () => {
    const w = mount(HoldTest, { props: { phase: 'diagnose' }, global })
    const store = () => w.find('[data-testid="hold-store"]')
    expect(store().attributes('disabled')).toBeDefined()
    await put(w, 'hold-start', '120')
    await put(w, 'hold-end', '125')
    await put(w, 'hold-seconds', '20')
    expect(w.text()).toContain('a sinking pedal ends lower')
    expect(store().attributes('disabled')).toBeDefined()
    await put(w, 'hold-end', '108.5')
    await w.find('form').trigger('submit')
    expect(w.emitted('read')).toEqual([[{ pedal_force_n: 200, travel_mm: 11.5, seconds: 20, engine: 'off' }]])
  })
})

it('readings are kept in the order of the foot', async () => {
  const w = mount(Readings, { props: { pairs: [{ pedal_force_n: 300, travel_mm: 42 }] }, global })
  await put(w, 'read-force', '200')
  await put(w, 'read-travel', '39')
  await w.find('form').trigger('submit')
  expect((w.emitted('change')![0][0] as { pedal_force_n: number }[]).map((p) => p.pedal_force_n)).toEqual([200, 300])
})

it('two readings quicker than the core answers are both kept, and a refused one does not stand for ever', async () => {
  vi.useFakeTimers()
  const w = mount(Readings, { props: { pairs: [] }, global })
  const add = async (n: string, mm: string) => {
    await put(w, 'read-force', n)
    await put(w, 'read-travel', mm)
    await w.find('form').trigger('submit')
  }
  await add('200', '39')
  await add('300', '42')
  const last = w.emitted('change')!.at(-1)![0] as { pedal_force_n: number }[]
  expect(last.map((p) => p.pedal_force_n)).toEqual([200, 300])
  await w.setProps({ pairs: [{ pedal_force_n: 200, travel_mm: 39 }] })
  expect(w.findAll('li'), 'the answer to the first does not take the second away').toHaveLength(2)
  vi.advanceTimersByTime(4000)
  await flushPromises()
  expect(w.findAll('li'), 'the job says otherwise').toHaveLength(1)
  vi.useRealTimers()
})

it('a choice taken back is told as nothing', async () => {
  const props = { value: 'yes', options: [{ id: 'yes', label: 'yes' }], clearable: true, testid: 'c' }
  const w = mount(Choice, { props, global })
  expect(w.find('button').attributes('aria-pressed')).toBe('true')
  await w.find('button').trigger('click')
  expect(w.emitted('pick')).toEqual([[null]])
})

describe('torque', () => {
  const entry = (verdict: string, fasteners = 1) => {
    useJob().job = { id: 'j' } as never
    const sent: number[] = []
    vi.stubGlobal('fetch', async (r: Request) => {
      sent.push(JSON.parse(await r.clone().text()).torque_nm)
      return new Response(JSON.stringify({ torque_nm: 1, verdict }), {
        headers: { 'Content-Type': 'application/json' },
      })
    })
    return {
      w: mount(TorqueEntry, { props: { torque: { low_nm: 18, high_nm: 34, fasteners }, id: 's' }, global }),
      sent,
    }
  }
  it('shows the range in three units and asks the core in its own', async () => {
    const { w, sent } = entry('ok')
    expect(w.text()).toContain('18.0–34.0 N·m')
    expect(w.text()).toContain('159–301 in·lbf')
    await w.find('[data-testid="torque-unit-s-in·lbf"]').trigger('click')
    await put(w, 'torque-s', '250')
    await vi.waitFor(() => expect(sent).toHaveLength(1))
    expect(sent[0]).toBeCloseTo(28.2, 1)
    await flushPromises()
    await w.find('[data-testid="torque-tick-s"]').trigger('click')
    const ticked = w.emitted('tick')![0][0] as { torque_nm: number; torque_unit: string }
    expect(ticked.torque_nm).toBeCloseTo(28.2, 1)
    expect(ticked.torque_unit).toBe('in·lbf')
  })
  it('a click ticks in newton metres; what is typed after it is in the wrench of this person again', async () => {
    const wrench = {
      id: 'w',
      kind: 'torque',
      name: 'Wrench',
      job: 'j',
      speaks: true,
      holds_until: '',
      measure: { ours: 'nm' },
    }
    Object.assign(figures, { job: 'j', live: {}, all: [wrench] })
    const { w, sent } = entry('ok')
    useSession().vocabulary = { tells: { torque: ['torque'] } } as never
    await w.find('[data-testid="torque-unit-s-in·lbf"]').trigger('click')
    figures.live.w = { v: 28, at: Date.now() }
    await vi.waitFor(() => expect(w.emitted('tick')).toHaveLength(1))
    const ticked = w.emitted('tick')![0][0] as { torque_nm: number; torque_unit: string; measured: { id: string } }
    expect([ticked.torque_nm, ticked.torque_unit, ticked.measured.id]).toEqual([28, 'N·m', 'w'])
    await put(w, 'torque-s', '250')
    await vi.waitFor(() => expect(sent.at(-1)).toBeCloseTo(28.2, 1))
    figures.live.w = { v: 28, at: Date.now() - 60_000 } // left lying
    await flushPromises()
    expect(w.emitted('tick')).toHaveLength(1)
    figures.all = []
  })
  it('is ticked by as many clicks as it has fasteners, each its own line', async () => {
    const wrench = {
      id: 'w',
      kind: 'torque',
      name: 'Wrench',
      job: 'j',
      speaks: true,
      holds_until: '',
      measure: { ours: 'nm' },
    }
    Object.assign(figures, { job: 'j', live: {}, all: [wrench] })
    const { w, sent } = entry('ok', 2)
    useSession().vocabulary = { tells: { torque: ['torque'] } } as never
    figures.live.w = { v: 26, at: Date.now() }
    await vi.waitFor(() => expect(sent.length).toBeGreaterThan(0))
    await vi.waitFor(() => expect(w.find('[data-testid="clicks"]').text()).toContain('1 of 2'))
    expect(w.emitted('tick')).toBeUndefined()
    figures.live.w = { v: 27, at: Date.now() + 1 }
    await vi.waitFor(() => expect(w.emitted('tick')).toHaveLength(1))
    const ticked = w.emitted('tick')![0][0] as { clicks: { nm: number }[]; measured: { id: string } }
    expect(ticked.clicks.map((c) => c.nm)).toEqual([26, 27])
    expect(ticked.measured.id).toBe('w')
    figures.all = []
  })
  it('cannot be ticked while the core says it is off by twelve, nor before it has answered', async () => {
    const { w, sent } = entry('twelve_high')
    await put(w, 'torque-s', '339')
    expect(w.find('[data-testid="torque-tick-s"]').attributes('disabled')).toBeDefined()
    await vi.waitFor(() => expect(sent).toHaveLength(1))
    await vi.waitFor(() => expect(w.find('[data-testid="torque-verdict"]').text()).toContain('off by twelve'))
    expect(w.find('[data-testid="torque-tick-s"]').attributes('disabled')).toBeDefined()
  })
})

describe('a step of the plan', () => {
  const step = {
    id: 'strip.lines_off',
    phase: 'strip',
    gate: false,
    parts: ['lines'],
    fasteners: ['line_nut'],
    needs: [],
    tools: ['flare_nut_wrench'],
    cautions: ['line_must_not_twist'],
  }
  const now = (props: object) =>
    mount(StepNow, {
      props: {
        step,
        number: 9,
        of: 24,
        tick: undefined,
        blocked: [],
        unmeasured: [],
        mayBeAbsent: true,
        touchable: ['nothing', 'all'],
        chosen: true,
        moved: false,
        ...props,
      } as never,
      global,
    })
  beforeEach(() => {
    useJob().job = { id: 'j', choices: {}, intake: { system: null }, state: {}, choices_version: 1 } as never
  })
  it('says what stands before it and cannot be ticked', () => {
    const w = now({ blocked: ['safe.pump_empty'] })
    expect(w.find('[data-testid="tick-strip.lines_off"]').exists()).toBe(false)
    expect(w.text()).toContain('Pump the pedal')
  })
  it('shows its caution, and is ticked by one tap or the space bar', async () => {
    const w = now({})
    expect(w.text()).toContain('never let it twist')
    await w.find('[data-testid="tick-strip.lines_off"]').trigger('click')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: ' ' }))
    expect(w.emitted('tick')).toEqual([[{}], [{}]])
    w.unmount()
  })
  it('is ticked by no space bar that was meant to scroll: it was not chosen here', async () => {
    const w = now({ chosen: false })
    window.dispatchEvent(new KeyboardEvent('keydown', { key: ' ' }))
    expect(w.emitted('tick')).toBeUndefined()
    await w.find('[data-testid="tick-strip.lines_off"]').trigger('click')
    expect(w.emitted('tick')).toEqual([[{}]])
    w.unmount()
  })
  it('takes no tap for a moment where somebody else moved the page on to it', async () => {
    vi.useFakeTimers()
    const w = now({ moved: true })
    const done = w.find('[data-testid="tick-strip.lines_off"]')
    expect(done.attributes('disabled')).toBeDefined()
    window.dispatchEvent(new KeyboardEvent('keydown', { key: ' ' }))
    expect(w.emitted('tick')).toBeUndefined()
    await vi.advanceTimersByTimeAsync(1300)
    expect(done.attributes('disabled')).toBeUndefined()
    vi.useRealTimers()
    w.unmount()
  })
  it('one with a torque is not ticked by the space bar: it takes its figure', () => {
    const w = now({ step: { ...step, torque: { low_nm: 13, high_nm: 20, by_hand: true } } })
    window.dispatchEvent(new KeyboardEvent('keydown', { key: ' ' }))
    expect(w.emitted('tick')).toBeUndefined()
    w.unmount()
  })
  it('is said not to be here only with why, and only where the core would take it', async () => {
    expect(now({ mayBeAbsent: false }).find('[data-testid="not-here"]').exists()).toBe(false)
    const w = now({})
    await w.find('[data-testid="not-here"]').trigger('click')
    await w.find('form').trigger('submit')
    expect(w.emitted('tick')).toBeUndefined()
    await w.find('[data-testid="say"] input').setValue('came off before')
    await w.find('form').trigger('submit')
    expect(w.emitted('tick')).toEqual([[{ not_here: 'came off before' }]])
    w.unmount()
  })
  it('what is done folds, and can be taken back', async () => {
    const ticks = { 'strip.lines_off': { at: '2026-11-24T09:00:00Z', by: 'Mara', event_id: 'e' } }
    const again = { 'strip.lines_off': { step: 'strip.lines_off', also: [] } }
    const props = { steps: [step], ticks, done: () => true, hand: '', blocked: {}, again } as never
    const w = mount(StepList, { props, global })
    expect(w.text()).toContain('Mara')
    await w.find('[data-testid="back-strip.lines_off"]').trigger('click')
    expect(w.emitted('back')).toEqual([['strip.lines_off']])
    await w.find('[data-testid="again-strip.lines_off"]').trigger('click')
    expect(w.emitted('again')).toEqual([['strip.lines_off']])
  })
})

describe('the count', () => {
  it('counts a tap and the space bar, and neither while the reservoir must be filled', async () => {
    const w = mount(BigCount, { props: { count: 3, of: 17, label: 'tap' }, global, attachTo: document.body })
    await w.trigger('click')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: ' ' }))
    window.dispatchEvent(new KeyboardEvent('keydown', { key: ' ', repeat: true }))
    expect(w.emitted('stroke')).toHaveLength(2)
    await w.setProps({ disabled: true })
    window.dispatchEvent(new KeyboardEvent('keydown', { key: ' ' }))
    expect(w.emitted('stroke')).toHaveLength(2)
    w.unmount()
  })
})

it('a tap that follows too soon is the same stroke', async () => {
  vi.useFakeTimers()
  vi.setSystemTime(1_000_000)
  const w = mount(BigCount, { props: { count: 3, of: 17, label: 'tap', gap: 0.4 }, global })
  await w.trigger('click')
  vi.advanceTimersByTime(300)
  await w.trigger('click')
  expect(w.emitted('stroke')).toHaveLength(1)
  vi.advanceTimersByTime(300)
  await w.trigger('click')
  expect(w.emitted('stroke')).toHaveLength(2)
  vi.useRealTimers()
})

it('while the number pad is open the keyboard is its own', async () => {
  const station = vi.fn()
  window.addEventListener('keydown', station)
  const w = mount(NumPad, {
    props: { title: 'x', unit: 'mm', start: '' },
    global: { ...global, stubs: { NModal: true } },
  })
  for (const key of ['1', ',', '5', 'Enter', 'b']) window.dispatchEvent(new KeyboardEvent('keydown', { key }))
  expect(w.emitted('done')).toEqual([['1.5']])
  expect(station).toHaveBeenCalledTimes(1)
  window.removeEventListener('keydown', station)
  w.unmount()
})

it('a unit that does not fit cannot be chosen, and says why first', async () => {
  const c = {
    unit: { id: 'u', maker: 'M', number: '1', condition: 'new', bore_mm: 27, ports: [], contents: [] },
    verdict: 'does_not_fit',
    points: [
      { id: 'bore', verdict: 'same', code: 'match.same_mm', with: { value_mm: 27 } },
      { id: 'variant', verdict: 'does_not_fit', code: 'match.variant.other', with: { old: 'plain', new: 'abs' } },
    ],
    chosen: false,
    worth: { expected: 162, fails: 0.02, core_back: true },
  } as unknown as Schemas['JobCandidateView']
  const w = mount(UnitTable, { props: { list: [c], shown: 'u' }, global })
  expect(w.find('[data-testid="choose-u"]').attributes('disabled')).toBeDefined()
  expect(w.findAll('tbody tr')).toHaveLength(2) // what differs, and the price
  expect(w.find('.cell.does_not_fit').text()).toContain('ABS')
  await w.find('[data-testid="all-points"]').trigger('click')
  expect(w.findAll('tbody tr')).toHaveLength(3)
  expect(w.text()).toContain('27.0 mm')
  const shown = mount(UnitShown, { props: { c, old: c.unit }, global })
  expect(shown.find('.points').text()).toContain('ABS variant, the vehicle needs plain')
})

it('a refusal names each field', () => {
  const problem = {
    code: 'problem.faults',
    faults: [
      { path: '$.system.master_cylinder.bore_mm', code: 'fault.range', with: { value: 400, min: 8, max: 80 } },
      { path: '$.wheels[1].line.length_mm', code: 'fault.missing' },
    ],
    missing: ['safe.pump_empty', 'pedal.sink'],
  }
  const text = mount(Faults, { props: { problem: problem as never }, global }).text()
  for (const want of ['Bore', '400 is outside 8 to 80', 'Line length', 'Pump the pedal', 'Hold test'])
    expect(text).toContain(want)
})

it('a proposed test says what it needs, what must be safe and what each answer would change', () => {
  const n = {
    id: 'isolation.plug_ports',
    minutes: 15,
    bits: 0.7,
    needs: ['line_plugs'],
    gates: ['depressurise_booster'],
    opens_hydraulics: true,
    answers: [
      {
        finding: 'ports_plugged.pedal',
        value: 'sinks',
        probability: 0.6,
        then_fault: 'mc.primary_cup_bypass',
        then_probability: 0.9,
      },
      { finding: 'wet.at:wheel', value: 'yes', probability: 0.1, then_fault: '', then_probability: 0.5 },
    ],
  } as unknown as Schemas['DiagnoseNextTest']
  const text = mount(NextTests, { props: { tests: [n], current: null }, global }).text()
  for (const want of [
    'Plug the ports',
    '15 min',
    'line and port plugs',
    'Empty the booster first',
    'a bleed follows',
    'sinks → Primary cup',
    '90 %',
    'at a wheel yes → Nothing wrong',
  ])
    expect(text).toContain(want)
})
