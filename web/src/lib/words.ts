import en from '@words/en.json'
import { createI18n } from 'vue-i18n'
import { say as sayFigures } from './units'

const table: Record<string, string> = en

/** Keys are flat ids with dots in them, so they are looked up whole, not walked. */
export const i18n = createI18n({
  legacy: false,
  locale: 'en',
  messages: { en: table },
  messageResolver: (messages, key) => (messages as Record<string, string>)[key] ?? null,
  missingWarn: false,
  fallbackWarn: false,
})

/** Words of a key. A key without words shows itself, so that a gap is seen. */
export function t(key: string, params: Record<string, unknown> = {}): string {
  return i18n.global.t(key, params)
}

/** Words with every figure whose name ends in a unit written in this person's units. */
export function say(key: string, params: Record<string, unknown> | undefined, pref: Pref): string {
  const named: Record<string, unknown> = { ...params }
  if (Array.isArray(named.steps)) named.steps = named.steps.map((s) => t('step.' + s))
  if (Array.isArray(named.findings)) named.findings = named.findings.map((f) => t('finding.' + f))
  if (typeof named.after === 'string') named.after = t((has('step.' + named.after) ? 'step.' : 'event.') + named.after)
  return t(key, sayFigures(named, pref))
}

export type Pref = 'metric' | 'us' | 'both'

/** How many times likelier something is, as coarse as such a figure is known. */
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
  if (status.waits_for === 'waits.check' && has('finding.' + what)) return t('finding.' + what)
  return t(status.waits_for, { what })
}
