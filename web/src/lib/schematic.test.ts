import { describe, expect, it } from 'vitest'
import { layout } from './schematic'
import type { System } from '@/api/client'

function system(change: (s: System) => void = () => {}): System {
  const disc = { kind: 'disc', effective_radius_mm: 115 }
  const wheel = (id: string, mm: number) => ({ id, line: { length_mm: mm }, hose: { length_mm: 300 }, brake: disc })
  const s = {
    master_cylinder: {
      bore_mm: 25,
      primary: { circuit: 'A', stroke_mm: 20 },
      secondary: { circuit: 'B', stroke_mm: 16 },
    },
    circuits: [
      { id: 'A', wheels: ['LF', 'RR'] },
      { id: 'B', wheels: ['RF', 'LR'] },
    ],
    wheels: [wheel('LF', 900), wheel('RF', 1700), wheel('LR', 3900), wheel('RR', 4300)],
    booster: { kind: 'vacuum', effective_area_mm2: 38000 },
    pedal: { ratio: 4 },
  } as unknown as System
  change(s)
  return s
}

describe('schematic', () => {
  it('stands each wheel at its own corner, on its own circuit', () => {
    const l = layout(system())
    const at = Object.fromEntries(l.wheels.map((w) => [w.id, w]))
    expect(at.LF.x).toBeLessThan(at.RF.x)
    expect(at.LF.y).toBeLessThan(at.LR.y)
    expect(at.RR.circuit).toBe('A')
    expect(at.LR.circuit).toBe('B')
    expect(new Set(l.wheels.map((w) => w.line)).size).toBe(4)
  })
  it('draws a larger bore and booster larger', () => {
    const small = layout(system())
    const large = layout(
      system((s) => {
        s.master_cylinder.bore_mm = 33
        s.booster!.effective_area_mm2 = 62000
      }),
    )
    expect(large.cylinder.width).toBeGreaterThan(small.cylinder.width)
    expect(large.booster).toBeGreaterThan(small.booster)
  })
  it('lays a two-axle trailer out behind its coupler, with no booster', () => {
    const l = layout(
      system((s) => {
        s.actuator = { kind: 'surge', ratio: 1, cut_in_n: 300, floor_mm: 60 }
        delete s.booster
        s.master_cylinder.secondary = undefined
        s.circuits = [{ ...s.circuits[0], wheels: ['L1', 'R1', 'L2', 'R2'] }]
        s.wheels = s.wheels.map((w, i) => ({ ...w, id: ['L1', 'R1', 'L2', 'R2'][i] }))
      }),
    )
    expect(l.booster).toBe(0)
    expect(l.wheels[2].y).toBeGreaterThan(l.wheels[0].y)
    expect(l.cylinder.secondary).toBe(0)
  })
})
