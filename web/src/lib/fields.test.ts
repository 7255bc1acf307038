import { describe, expect, it } from 'vitest'
import type { System } from '@/api/client'
import { boosterOfKind, brakeOfKind, faultPath, fieldGroups, read, wheelFields, write, originOf } from './fields'

const car = () =>
  ({
    vehicle: { kind: 'car', mass_kg: 1400, tire_radius_mm: 300 },
    ambient: { temperature_c: 20 },
    pedal: { ratio: 4, free_play_mm: 0.5, floor_mm: 140 },
    pushrod_gap_mm: 0.3,
    booster: { kind: 'vacuum', ratio: 5, vacuum_kpa: 65, effective_area_mm2: 38000 },
    master_cylinder: { bore_mm: 23.8, primary: { stroke_mm: 20, cutoff_mm: 1.2 } },
    fluid: { water_percent: 0.5 },
    wheels: [
      { id: 'LF', line: { length_mm: 900 }, hose: { length_mm: 300 }, brake: { kind: 'disc', clearance_mm: 0.15 } },
    ],
  }) as unknown as System

describe('fields of a system', () => {
  it('are only those this system has', () => {
    const ids = fieldGroups(car()).map((g) => g.id)
    expect(ids).toContain('booster')
    expect(ids).not.toContain('actuator')
    const cylinder = fieldGroups(car()).find((g) => g.id === 'cylinder')!
    expect(cylinder.fields.map((f) => f.path)).toEqual([
      'master_cylinder.bore_mm',
      'master_cylinder.primary.stroke_mm',
      'master_cylinder.primary.cutoff_mm',
    ])
  })
  it('know which figures carry a unit', () => {
    const by = Object.fromEntries(fieldGroups(car()).flatMap((g) => g.fields.map((f) => [f.path, f.unitless])))
    expect(by['pedal.ratio']).toBe(true)
    expect(by['booster.effective_area_mm2']).toBe(true)
    expect(by['master_cylinder.bore_mm']).toBe(false)
  })
  it('are read and written by path', () => {
    const s = car()
    write(s, 'wheels.0.line.length_mm', 1234)
    expect(read(s, 'wheels.0.line.length_mm')).toBe(1234)
    expect(read(s, 'no.such.path')).toBeUndefined()
    expect(wheelFields(s, 0).map((f) => f.key)).toContain('wheel.brake.clearance_mm')
  })
  it('list every piston', () => {
    const s = car()
    s.wheels[0].brake.pistons_mm = [42, 38]
    expect(
      wheelFields(s, 0)
        .slice(0, 2)
        .map((f) => read(s, f.path)),
    ).toEqual([42, 38])
  })
  it('take another kind whole from the patterns, as a copy', () => {
    const patterns = [car()]
    const disc = brakeOfKind(patterns, 'disc')!
    disc.clearance_mm = 9
    expect(patterns[0].wheels[0].brake.clearance_mm).toBe(0.15)
    expect(brakeOfKind(patterns, 'drum')).toBeUndefined()
    expect(boosterOfKind(patterns, 'vacuum')?.ratio).toBe(5)
  })
  it('are found by the path of a fault', () => {
    expect(faultPath('$.wheels[0].line.length_mm')).toBe('wheels.0.line.length_mm')
    expect(faultPath('$.pedal.ratio')).toBe('pedal.ratio')
  })

  it('finds where a figure comes from, the nearest row first', () => {
    const rows = [
      { path: 'booster.ratio', origin: 'common' },
      { path: 'booster.*', origin: 'assumption' },
      { path: 'wheels.*.line.bore_mm', origin: 'memory', source: 'a standard' },
    ]
    expect(originOf(rows, 'booster.ratio')?.origin).toBe('common')
    expect(originOf(rows, 'booster.efficiency')?.origin).toBe('assumption')
    expect(originOf(rows, 'wheels.2.line.bore_mm')?.source).toBe('a standard')
    expect(originOf(rows, 'wheels.2.line.length_mm')).toBeUndefined()
  })
})
