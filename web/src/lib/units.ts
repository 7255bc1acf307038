/** Units people read. The core's units are fixed; factors come from the server's own table. */

/** A price in the shop's own money, rounded to whole; its sign or letters stand where it names any. */
export function money(amount: number, currency: string | undefined, digits = 0): string {
  return [amount.toFixed(digits), currency].filter(Boolean).join('\u00a0')
}

export interface Unit {
  id: string
  quantity: string
  system: string
  factor: number
  offset: number
  decimals: number
}

export interface Display {
  core: string
  metric: string
  us: string
}

/** The same table as words/quantity.go: how a figure is read, by the end of its name. Longest first. */
export const bySuffix: [string, Display][] = [
  ['_cm3_min', { core: 'mL/min', metric: 'mL/min', us: 'fl oz/min' }],
  ['_cm3', { core: 'cm³', metric: 'cm³', us: 'fl oz' }],
  ['_mpa', { core: 'MPa', metric: 'MPa', us: 'psi' }],
  ['_kpa', { core: 'kPa', metric: 'kPa', us: 'inHg' }],
  ['_mm', { core: 'mm', metric: 'mm', us: 'in' }],
  ['_nm', { core: 'N·m', metric: 'N·m', us: 'ft·lbf' }],
  ['_mps2', { core: 'm/s²', metric: 'm/s²', us: 'ft/s²' }],
  ['_km', { core: 'km', metric: 'km', us: 'mi' }],
  ['_kg', { core: 'kg', metric: 'kg', us: 'lb' }],
  ['_n', { core: 'N', metric: 'N', us: 'lbf' }],
  ['_c', { core: '°C', metric: '°C', us: '°F' }],
]

let table: Unit[] = []

export function useUnits(units: Unit[]) {
  table = units
}

export function displayOf(name: string): Display | null {
  return bySuffix.find(([suffix]) => ('_' + name).endsWith(suffix))?.[1] ?? null
}

function find(id: string): Unit | undefined {
  return table.find((u) => u.id === id)
}

export function convert(value: number, from: string, to: string): number {
  const f = find(from)
  const t = find(to)
  if (!f || !t) return value
  return (value * f.factor + f.offset - t.offset) / t.factor
}

/** Whether two units measure the same. */
export function convertible(from: string, to: string): boolean {
  return from === to || (find(from) !== undefined && find(from)?.quantity === find(to)?.quantity)
}

export function decimalsOf(id: string): number {
  return find(id)?.decimals ?? 2
}

/** The language figures are written for; words.ts sets it with the words. */
let writtenFor = 'en'
export function writeFor(language: string) {
  writtenFor = language
}
export const writtenIn = () => writtenFor

/** A figure with its decimals as the language writes them; from 10 000 on in groups. */
export function plain(value: number, decimals: number): string {
  // What a conversion left behind the ninth digit is no figure: 120.65 is written the same wherever it came from.
  const exact = Number(value.toPrecision(9))
  const v = Number(exact.toFixed(decimals)) === 0 ? 0 : exact
  const how = { minimumFractionDigits: decimals, maximumFractionDigits: decimals, useGrouping: Math.abs(v) >= 10_000 }
  return v.toLocaleString(writtenFor, how).replace('-', '−')
}

/** A figure below one gets a digit more: 0.05 cm³ is not 0.1, and a gap of 0.25 mm is not 0.3. */
function one(value: number, d: Display, to: string): string {
  const v = convert(value, d.core, to)
  const decimals = decimalsOf(to)
  return `${plain(v, decimals > 0 && decimals < 3 && v !== 0 && Math.abs(v) < 1 ? decimals + 1 : decimals)} ${to}`
}

/** A figure as text in a person's units. */
function format(value: number, d: Display, pref: string): string {
  if (pref === 'us') return one(value, d, d.us)
  if (pref === 'both' && d.us !== d.metric) return `${one(value, d, d.metric)} (${one(value, d, d.us)})`
  return one(value, d, d.metric)
}

export function figure(name: string, value: number, pref: string): string {
  const d = displayOf(name)
  return d ? format(value, d, pref) : plain(value, Number.isInteger(value) ? 0 : 2)
}

/** Writes the figures among a message's parameters. */
export function say(params: Record<string, unknown>, pref: string): Record<string, unknown> {
  const out: Record<string, unknown> = {}
  for (const [k, v] of Object.entries(params)) {
    const d = typeof v === 'number' ? displayOf(k) : null
    if (d) out[k] = format(v as number, d, pref)
    else if (typeof v === 'number') out[k] = Math.round(v * 1000) / 1000
    else if (Array.isArray(v)) out[k] = v.join(', ')
    else out[k] = v
  }
  return out
}

const written: [RegExp, string][] = [
  [/\s*(?:inches|inch|in\.?|"|″)$/i, 'in'],
  [/\s*mm$/i, 'mm'],
  [/\s*in[·. -]?lbf?s?$/i, 'in·lbf'],
  [/\s*(?:ft|foot)[·. -]?lbf?s?$/i, 'ft·lbf'],
  [/\s*n[·. ]?m$/i, 'N·m'],
  [/\s*psi$/i, 'psi'],
  [/\s*mpa$/i, 'MPa'],
  [/\s*kpa$/i, 'kPa'],
  [/\s*lbf$/i, 'lbf'],
  [/\s*n$/i, 'N'],
]

/** Reads what a person types, with the unit where one is written: 25.4mm, 7/8", 1 1/8 in, 200 in-lb. */
export function readFigure(text: string): { value: number; unit: string } | null {
  const s = text.trim()
  const whole = parseFigure(s)
  if (whole != null) return { value: whole, unit: '' }
  for (const [ending, unit] of [...written].sort((a, b) => b[0].source.length - a[0].source.length)) {
    const m = ending.exec(s)
    const value = m ? parseFigure(s.slice(0, m.index)) : null
    if (value != null) return { value, unit }
  }
  return null
}

/** Reads what a person types: 12.5, 12,5, 15/16, 1 1/16. Not a number gives null. */
export function parseFigure(text: string): number | null {
  const s = text.trim().replace(',', '.').replace('−', '-')
  if (s === '') return null
  const fraction = /^(-)?(?:(\d+)[ -])?(\d+)\/(\d+)$/.exec(s)
  if (fraction) {
    const [, minus, whole, top, bottom] = fraction
    if (Number(bottom) === 0) return null
    const v = Number(whole ?? 0) + Number(top) / Number(bottom)
    return minus ? -v : v
  }
  const v = Number(s)
  return Number.isFinite(v) ? v : null
}
