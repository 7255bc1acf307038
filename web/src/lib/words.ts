import { own } from './own'
import en from '@words/en.json'
import rows from '@words/languages.json'
import { ref } from 'vue'
import { createI18n } from 'vue-i18n'
import { bare, say as sayFigures, writeFor } from './units'

type Table = Record<string, string>
let table: Table = en

/** Keys are flat ids with dots in them, so they are looked up whole, not walked. */
export const i18n = createI18n({
  legacy: false,
  locale: 'en',
  messages: { en: en as Table } as Record<string, Table>,
  messageResolver: (messages, key) => (messages as Record<string, string>)[key] ?? null,
  missingWarn: false,
  fallbackWarn: false,
})

/** The languages Geminate is read in, each by its own name: a file of words, and a row of the list. */
export const languages: Record<string, string> = Object.fromEntries(rows.map((r) => [r.id, r.name]))
export type Language = string
/** The languages to change to: ways of speaking one only from that one. */
export function otherLanguages(now: Language): Language[] {
  const own = rows.find((r) => r.id === now)
  return rows.filter((r) => r.id !== now && (!r.of || [own?.id, own?.of].includes(r.of))).map((r) => r.id)
}
const first = rows[0]!.id
const files = import.meta.glob<{ default: Table }>(['../../../words/*.json', '!**/languages.json', '!**/en.json'])
const chosenHere = 'geminate.language'
export const language = (): Language => i18n.global.locale.value as Language

/** The language to begin with: chosen here before, else the browser's where there are words for it. */
export function firstLanguage(): Language {
  // A way of speaking is taken where it is named whole; else the language it is of.
  const list = [own.get(chosenHere), ...(navigator.languages ?? [])].flatMap((l) => (l ? [l, l.slice(0, 2)] : []))
  return list.find((l) => l in languages) ?? first
}

/** All words of a language: its file, or that of the language it is a way of speaking of, and over it what it says otherwise. */
async function wordsOf(l: Language): Promise<Table> {
  const said = l === first ? en : (await files[`../../../words/${l}.json`]!()).default
  const of = rows.find((r) => r.id === l)?.of
  return of ? { ...(await wordsOf(of)), ...said } : said
}

/** Takes up a language: its words, and how its figures, days and times are written where this browser is. */
export async function speak(l: Language) {
  if (l !== first) i18n.global.setLocaleMessage(l, await wordsOf(l))
  table = i18n.global.getLocaleMessage(l) as Table
  i18n.global.locale.value = l
  own.set(chosenHere, l)
  document.documentElement.lang = l
  writeFor(navigator.languages?.find((x) => x.startsWith(l)) ?? l)
}

/** How the vehicle in hand is spoken of, by the core: a text that differs by it has a key of its own, `key@trailer`. */
const spoken = ref<string[]>([])
export const speakOf = (of: string[] | undefined) => (spoken.value = of ?? [])

/** What people call a wheel in place of its id, wherever one stands alone in a text. */
export const wheels = (text: string) => text.replace(/\b[LR][FR]\b/g, (id) => table['wheel_name.' + id] ?? id)

function shown(v: unknown): unknown {
  if (typeof v === 'string') return wheels(v)
  if (typeof v === 'number') return bare(v)
  return Array.isArray(v) ? v.map(shown) : v
}

/** One of a thing is said otherwise than many, where a language says it so: `key@one`. */
const isOne = (params: Record<string, unknown>) => Number(params.n ?? params.count) === 1

/** Words of a key. A key without words shows itself, so that a gap is seen. */
export function t(key: string, params: Record<string, unknown> = {}): string {
  const of = [...(isOne(params) ? ['one'] : []), ...spoken.value].find((v) => `${key}@${v}` in table)
  const named = Object.fromEntries(Object.entries(params).map(([k, v]) => [k, shown(v)]))
  return i18n.global.t(of ? `${key}@${of}` : key, named)
}

/** What a step of the bleed is called: a wheel, a wheel again, or what its words say. */
export function bleedStepName(id: string): string {
  const [kind, wheel, visit] = id.split('.')
  if (kind !== 'wheel' || !wheel) return t('bleed_step.' + id)
  return t(visit ? 'bleed_step.wheel_again' : 'bleed_step.wheel', { id: wheel })
}

/** What was done, as people call it: a step of the plan, one of the bleed, or a kind of event. */
function doneName(what: string): string {
  if (what.startsWith('bleed.')) return bleedStepName(what.slice(6))
  return t((has('step.' + what) ? 'step.' : 'event.') + what)
}

/** A rubber part by name, a wheel's with its wheel. */
export function rubberName(part: string): string {
  const [kind, wheel] = part.split(':')
  return t('rubber.' + kind, { id: wheel ?? '' })
}

/** Words with every figure whose name ends in a unit written in this person's units. */
export function say(key: string, params: Record<string, unknown> | undefined, pref: Pref): string {
  const named: Record<string, unknown> = { ...params }
  if (Array.isArray(named.steps)) named.steps = named.steps.map((s) => t('step.' + s))
  if (Array.isArray(named.findings)) named.findings = named.findings.map((f) => t('finding.' + f))
  if (Array.isArray(named.bleed_steps))
    named.bleed_steps = named.bleed_steps.map((s) => bleedStepName(String(s))).join('; ')
  if (Array.isArray(named.rubber_parts)) named.rubber_parts = named.rubber_parts.map((p) => rubberName(String(p)))
  if (typeof named.tool === 'string' && has('tool.' + named.tool)) named.tool = t('tool.' + named.tool)
  if (typeof named.after === 'string') named.after = doneName(named.after)
  for (const k of ['old', 'new', 'value'])
    if (typeof named[k] === 'string' && has('spec.' + named[k])) named[k] = t('spec.' + named[k])
  return t(key, sayFigures(named, pref))
}

export type Pref = 'metric' | 'us' | 'both'

/** How many times more likely something is, as coarse as such a figure is known. */
export function times(x: number): string {
  if (x >= 100) return t('ui.over_hundred')
  return x >= 10 ? String(Math.round(x)) : String(Math.round(x * 10) / 10)
}

export function has(key: string): boolean {
  return key in table
}

/** What a job waits for, in words: a step, a check, a wheel, a choice. */
export function waitsFor(status: { waits_for: string; waits_what: string }): string {
  const what = status.waits_what
  if (status.waits_for === 'waits.step' && has('step.' + what)) return t('step.' + what)
  if (status.waits_for === 'waits.bleed_step') return t('waits.bleed_step', { what: bleedStepName(what) })
  if (status.waits_for === 'waits.check' && has('finding.' + what)) return t('finding.' + what)
  return t(status.waits_for, { what })
}

/** A test's name; said so where it is a reading taken a second time. */
export const testName = (id: string, again = false) =>
  again ? t('ui.once_more', { test: t('test.' + id) }) : t('test.' + id)
