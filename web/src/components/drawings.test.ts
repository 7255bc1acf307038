import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import { i18n } from '@/lib/words'
import { useUnits } from '@/lib/units'
import BenchDrawing from './BenchDrawing.vue'
import FaultList from '@/components/diagnose/FaultList.vue'
import Fig from './Fig.vue'
import PedalPlot from './PedalPlot.vue'
import StateMark from './StateMark.vue'

const global = { plugins: [i18n] }

describe('drawings', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    useUnits([
      { id: 'mm', quantity: 'length', system: 'metric', factor: 1, offset: 0, decimals: 1 },
      { id: 'in', quantity: 'length', system: 'us', factor: 25.4, offset: 0, decimals: 3 },
    ])
  })

  it('draw the pedal downwards: more travel stands lower', () => {
    const w = mount(PedalPlot, {
      props: {
        traces: [{ label: 'x', style: 'thick', points: [0, 1, 2].map((i) => ({ x: i * 100, y: i * 30 })) }],
        floor: 50,
      },
      global,
    })
    const d = w.find('figure > svg .trace').attributes('d')!
    const ys = [...d.matchAll(/[ML]?([\d.]+),([\d.]+)/g)].map((m) => Number(m[2]))
    expect(ys[0]).toBeLessThan(ys[1])
    expect(ys[1]).toBeLessThan(ys[2])
    const floor = Number(w.find('.floor').attributes('y1'))
    expect(floor).toBeGreaterThan(ys[1])
    expect(floor).toBeLessThan(ys[2])
  })

  it('draw the pocket as the core has it, and none where nothing stays', () => {
    const geometry = { bore_mm: 25.4, length_mm: 45, port_mm: 12, port: 'top' }
    const drawn = (pocket: { z_mm: number; y_mm: number }[]) =>
      mount(BenchDrawing, { props: { chamber: { circuit: 'A', geometry, pocket } as never, tilt: 10 }, global })
    expect(drawn([]).find('.air').exists()).toBe(false)
    const path = drawn([
      { z_mm: 0, y_mm: 0 },
      { z_mm: 12, y_mm: 0 },
      { z_mm: 0, y_mm: 2.1 },
    ]).find('.air')
    expect(path.attributes('d')).toMatch(/^M0 0L3\d(\.\d+)? 0L0 5(\.\d+)?Z$/)
  })

  it('give each state a shape of its own', () => {
    const shape = (state: string) => mount(StateMark, { props: { state } }).html().replace(state, '')
    const all = ['ok', 'missing', 'failed', 'fits_with', 'changes_pedal'].map(shape)
    expect(new Set(all).size).toBe(all.length)
  })

  it('turn one figure through its units', async () => {
    const w = mount(Fig, { props: { name: 'gap_mm', value: 25.4 }, global })
    expect(w.text()).toBe('25.4 mm')
    await w.trigger('click')
    expect(w.text()).toBe('1.000 in')
    await w.trigger('click')
    expect(w.text()).toBe('25.4 mm (1.000 in)')
    expect(mount(Fig, { props: { name: 'gap_mm', value: null }, global }).text()).toBe('–')
  })
})

describe('the list of faults', () => {
  const result = {
    faults: [
      {
        id: 'mc.primary_cup_bypass',
        probability: 0.834,
        part: 'master_cylinder',
        because: [
          { finding: 'pedal.sinks', times: 10.6, for: true, origin: 'named' },
          { finding: 'level.falls', times: 1.3, for: false, origin: 'guess' },
        ],
      },
      { id: 'circuit.air', at: 'B', probability: 0.004, part: 'circuit', because: [] },
    ],
    healthy: 0.001,
  } as unknown as Schemas['DiagnoseResult']

  it('says how likely, and opens to what speaks for and against', async () => {
    setActivePinia(createPinia())
    const w = mount(FaultList, { props: { result }, global })
    expect(w.text()).toContain('83 %')
    expect(w.text()).toContain('<1 %')
    expect(w.text()).toContain('Air in the brake circuit, B')
    expect(w.find('[data-testid=because]').exists()).toBe(false)
    await w.find('button').trigger('click')
    const why = w.find('[data-testid=because]').text()
    expect(why).toContain('speaks strongly for it')
    expect(why).toContain('11 times more likely with this fault')
    expect(why).toContain('a little against it')
    expect(why).toContain('1.3 times more likely without this fault')
    expect(why).not.toContain('bit')
  })
})
