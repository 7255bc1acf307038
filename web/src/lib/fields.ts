import type { System } from '@/api/client'

/** The fields of a system that are corrected by hand, by where they stand. */
export interface FieldSpec {
  path: string
  key: string
  unitless?: boolean
  options?: string[]
}

const unitless = ['ratio', 'efficiency', 'slope', 'water_percent', 'bulk_modulus_mpa', 'friction', 'brake_factor']
const raw = /mm2$|mm3_per_mpa$|n_per_mm$/

function has(s: unknown, path: string): boolean {
  return read(s, path) !== undefined
}

export function read(s: unknown, path: string): unknown {
  return path.split('.').reduce<unknown>((at, k) => (at as Record<string, unknown> | undefined)?.[k], s)
}

export function write(s: unknown, path: string, value: unknown) {
  const keys = path.split('.')
  const last = keys.pop()!
  const at = keys.reduce<unknown>((x, k) => (x as Record<string, unknown>)[k], s) as Record<string, unknown>
  at[last] = value
}

function spec(path: string, key = path): FieldSpec {
  const name = key.split('.').pop()!
  return { path, key, unitless: unitless.includes(name) || raw.test(name) }
}

const groups: Record<string, string[]> = {
  vehicle: ['vehicle.mass_kg', 'vehicle.tire_radius_mm', 'ambient.temperature_c', 'ambient.atmosphere_kpa'],
  pedal: ['pedal.ratio', 'pedal.free_play_mm', 'pedal.floor_mm', 'pushrod_gap_mm'],
  actuator: ['actuator.ratio', 'actuator.cut_in_n', 'actuator.floor_mm'],
  booster: [
    'booster.ratio',
    'booster.vacuum_kpa',
    'booster.effective_area_mm2',
    'booster.chamber_cm3',
    'booster.stroke_to_release_cm3',
    'booster.power_area_mm2',
    'booster.supply_mpa',
    'booster.cut_in_n',
    'booster.jump_in_n',
    'booster.spring_n',
    'booster.accumulator.gas_cm3',
    'booster.accumulator.precharge_mpa',
    'booster.accumulator.charged_mpa',
    'booster.accumulator.use_cm3',
    'booster.simulator.stiffness_n_per_mm',
    'booster.simulator.free_mm',
  ],
  cylinder: [
    'master_cylinder.bore_mm',
    'master_cylinder.primary.stroke_mm',
    'master_cylinder.primary.cutoff_mm',
    'master_cylinder.secondary.stroke_mm',
    'master_cylinder.secondary.cutoff_mm',
    'circuits.0.residual_mpa',
    'circuits.1.residual_mpa',
    'circuits.0.shared_mm',
    'modulator.volume_cm3',
  ],
  fluid: ['fluid.water_percent', 'reservoir.full_cm3', 'reservoir.lowest_port_cm3'],
  proportioning: ['proportioning.knee_mpa', 'proportioning.slope'],
}

/** The groups of fields this system has. */
export function fieldGroups(s: System): { id: string; fields: FieldSpec[] }[] {
  return Object.entries(groups)
    .map(([id, paths]) => ({ id, fields: paths.filter((p) => has(s, p)).map((p) => spec(p)) }))
    .filter((g) => g.fields.length > 0)
}

const wheelPaths = [
  'line.length_mm',
  'hose.length_mm',
  'brake.clearance_mm',
  'brake.compliance_mm3_per_mpa',
  'brake.cavity_cm3',
  'brake.effective_radius_mm',
  'brake.cylinder_mm',
  'brake.drum_radius_mm',
]

export function wheelFields(s: System, i: number): FieldSpec[] {
  const pistons = (s.wheels[i].brake.pistons_mm ?? []).map((_, k) => ({
    path: `wheels.${i}.brake.pistons_mm.${k}`,
    key: 'wheel.brake.piston_mm',
  }))
  return [
    ...pistons,
    ...wheelPaths.filter((p) => has(s.wheels[i], p)).map((p) => spec(`wheels.${i}.${p}`, 'wheel.' + p)),
  ]
}

/** A brake of another kind, taken whole from the patterns: its typical figures, to be corrected. */
export function brakeOfKind(patterns: System[], kind: string): System['wheels'][number]['brake'] | undefined {
  const found = patterns.flatMap((p) => p.wheels).find((w) => w.brake.kind === kind)
  return found && JSON.parse(JSON.stringify(found.brake))
}

/** A booster of another kind, taken whole from the patterns. */
export function boosterOfKind(patterns: System[], kind: string): System['booster'] | undefined {
  const found = patterns.find((p) => p.booster?.kind === kind)
  return found && JSON.parse(JSON.stringify(found.booster))
}

/** The path of a fault ($.wheels[0].line.length_mm) as a field's path (wheels.0.line.length_mm). */
export function faultPath(path: string): string {
  return path.replace(/^\$\./, '').replace(/\[(\d+)\]/g, '.$1')
}

/** Where a figure of the system comes from while it is still its pattern's: the first row whose path fits, * standing
 * for any one. A figure that was changed is this vehicle's own. */
export function originOf(
  rows: { path: string; origin: string; source?: string }[],
  path: string,
): { origin: string; source?: string } | undefined {
  const parts = path.split('.')
  return rows.find((r) => {
    const want = r.path.split('.')
    return want.length === parts.length && want.every((w, i) => w === '*' || w === parts[i])
  })
}
