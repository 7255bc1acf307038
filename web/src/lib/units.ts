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
  ['_mm_s', { core: 'mm/s', metric: 'mm/s', us: 'in/s' }],
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

/** How many digits after the point a value is worth, as units.go has it: one more below one, three figures in all of a volume. */
function digits(v: number, unit: string): number {
  const decimals = decimalsOf(unit)
  const size = Math.abs(v)
  if (decimals > 0 && decimals < 3 && size !== 0 && size < 1) return decimals + 1
  if (find(unit)?.quantity === 'volume' && size >= 10)
    return Math.max(0, Math.min(decimals, 2 - Math.floor(Math.log10(size))))
  return decimals
}

function one(value: number, d: Display, to: string): string {
  const v = convert(value, d.core, to)
  return `${plain(v, digits(v, to))} ${to}`
}

/** A bare number in a sentence: three digits after the point at most, as the language writes them. */
export const bare = (v: number) =>
  v.toLocaleString(writtenFor, { maximumFractionDigits: 3, useGrouping: Math.abs(v) >= 10_000 }).replace('-', '−')

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

/** A figure as it was typed, with its unit where one is written; `other` is what else it can be read as. */
export interface Read {
  value: number
  unit: string
  other?: number
}

/** Reads what a person types, with the unit where one is written: 25.4mm, 7/8", 1 1/8 in, 200 in-lb. */
export function readFigure(text: string): Read | null {
  const s = text.trim()
  const whole = readings(s)
  if (whole) return { ...whole, unit: '' }
  for (const [ending, unit] of [...written].sort((a, b) => b[0].source.length - a[0].source.length)) {
    const m = ending.exec(s)
    const read = m ? readings(s.slice(0, m.index)) : null
    if (read) return { ...read, unit }
  }
  return null
}

/** The marks a language parts a number by. */
function marks(): { decimal: string; group: string } {
  const parts = new Intl.NumberFormat(writtenFor, { useGrouping: true }).formatToParts(1234567.5)
  const of = (type: string, or: string) => parts.find((p) => p.type === type)?.value ?? or
  return { decimal: of('decimal', '.'), group: of('group', ',') }
}
/** The decimal mark of the reader's language. */
export const decimalMark = () => marks().decimal

/** Reads a number: 12.5, 12,5, 1 234, 1.234,5, 15/16, 1 1/16. Three digits after one mark that parts thousands here may be either. */
function readings(text: string): { value: number; other?: number } | null {
  const s = text.trim().replace('−', '-')
  if (s === '') return null
  const fraction = /^(-)?(?:(\d+)[ -])?(\d+)\/(\d+)$/.exec(s)
  if (fraction) {
    const [, minus, whole, top, bottom] = fraction
    if (Number(bottom) === 0) return null
    const v = Number(whole ?? 0) + Number(top) / Number(bottom)
    return { value: minus ? -v : v }
  }
  const spaced = s.replace(/(?<=\d)[\u00a0\u202f\u2009' ](?=\d{3}(?!\d))/g, '')
  if (/^-?\d{1,3}(?:\.\d{3}){2,}(?:,\d+)?$/.test(spaced) || /^-?\d{1,3}(?:\.\d{3})+,\d+$/.test(spaced))
    return number(spaced.replaceAll('.', '').replace(',', '.'))
  if (/^-?\d{1,3}(?:,\d{3}){2,}(?:\.\d+)?$/.test(spaced) || /^-?\d{1,3}(?:,\d{3})+\.\d+$/.test(spaced))
    return number(spaced.replaceAll(',', ''))
  const value = number(spaced.replace(',', '.'))
  const mark = /^-?[1-9]\d{0,2}([.,])\d{3}$/.exec(spaced)?.[1]
  if (value && mark && mark === marks().group) return { ...value, other: value.value * 1000 }
  return value
}

function number(s: string): { value: number } | null {
  const value = Number(s)
  return Number.isFinite(value) ? { value } : null
}

/** A number as it is typed; none where it can be read two ways. */
export function parseFigure(text: string): number | null {
  const read = readings(text)
  return read && read.other === undefined ? read.value : null
}
