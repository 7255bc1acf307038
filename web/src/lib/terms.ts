import { t } from './words'

/** The words of the trade that have a meaning of their own here, and the part of the drawing each is about. */
export const terms: Record<string, string> = {
  pedal_ratio: 'pedal',
  free_play: 'pedal',
  hold_test: 'pedal',
  pump_test: 'pedal',
  pushrod: 'rod',
  rod_gap: 'gap',
  preload: 'gap',
  pocket: 'pocket',
  booster: 'booster',
  diaphragm: 'diaphragm',
  check_valve: 'check',
  reserve: 'booster',
  accumulator: 'accumulator',
  master_cylinder: 'cylinder',
  bore: 'cylinder',
  bench_bleed: 'cylinder',
  core: 'cylinder',
  primary: 'primary',
  secondary: 'secondary',
  cup: 'cups',
  port: 'port',
  reservoir: 'reservoir',
  fluid_class: 'reservoir',
  water: 'reservoir',
  grommet: 'grommet',
  residual_valve: 'residual',
  circuit: 'lines',
  line_nut: 'nut',
  torque: 'nut',
  flare: 'nut',
  modulator: 'modulator',
  proportioning: 'proportioning',
  hose: 'hose',
  caliper: 'caliper',
  wheel_cylinder: 'wheel_cylinder',
  clearance: 'wheel_cylinder',
  drag: 'wheel_cylinder',
  bleeder: 'bleeder',
  simulator: 'simulator',
  coupler: 'coupler',
  twin: 'all',
}

const escape = (s: string) => s.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')

/** A text cut where its first words of the trade stand, each term once, the longest name first. */
export function cut(text: string): { text: string; term?: string }[] {
  const names = Object.keys(terms)
    .map((id) => ({ id, name: t('term.' + id) }))
    .sort((a, b) => b.name.length - a.name.length)
  const any = new RegExp(`(?<![\\p{L}])(?:${names.map((n) => escape(n.name)).join('|')})(?:e?s)?(?![\\p{L}])`, 'giu')
  const out: { text: string; term?: string }[] = []
  const seen = new Set<string>()
  let from = 0
  for (const m of text.matchAll(any)) {
    const found = names.find((n) => m[0].toLowerCase().startsWith(n.name.toLowerCase()))
    if (!found || seen.has(found.id)) continue
    seen.add(found.id)
    if (m.index > from) out.push({ text: text.slice(from, m.index) })
    out.push({ text: m[0], term: found.id })
    from = m.index + m[0].length
  }
  if (from < text.length) out.push({ text: text.slice(from) })
  return out
}
