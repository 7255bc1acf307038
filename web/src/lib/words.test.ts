import { readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { has, otherLanguages, say, speakOf, t, waitsFor, speak, wheels } from './words'

function files(dir: string): string[] {
  return readdirSync(dir).flatMap((f) => {
    const p = join(dir, f)
    return statSync(p).isDirectory() ? files(p) : /\.(vue|ts)$/.test(p) && !/\.test\.ts$/.test(p) ? [p] : []
  })
}

describe('words', () => {
  it('has words for every key the screens name', () => {
    const missing = new Set<string>()
    for (const f of files('src')) {
      const text = readFileSync(f, 'utf8')
      for (const m of text.matchAll(/\bt\(\s*'([a-z_]+\.[a-zA-Z0-9_.]+)'/g)) {
        const key = m[1]
        // A key that ends in a dot or underscore is put together with an id; the ids are checked in Go.
        if (!/[._]$/.test(key) && !has(key)) missing.add(`${f}: ${key}`)
      }
      for (const m of text.matchAll(/'((?:ui|keys|problem|caution|sheet)\.[a-z0-9_]+)'/g))
        if (!/_$/.test(m[1]) && !has(m[1])) missing.add(`${f}: ${m[1]}`)
    }
    expect([...missing]).toEqual([])
  })
  it('shows a key without words as itself, so that a gap is seen', () => {
    expect(t('no.such.words')).toBe('no.such.words')
  })
  it('say what a job waits for', () => {
    expect(waitsFor({ waits_for: 'waits.step', waits_what: 'safe.pump_empty' })).toContain('Pump the pedal')
    expect(waitsFor({ waits_for: 'waits.check', waits_what: 'pedal.sink' })).toBe('Hold test')
    expect(waitsFor({ waits_for: 'waits.wheel', waits_what: 'RR' })).toBe('wheel RR')
  })
  it('fills figures in by name, in a person’s units', () => {
    expect(say('gate.bleed.left', { wheels: ['LF', 'RR'] }, 'metric')).toBe('Not done: LF, RR.')
    expect(t('ui.wheel', { id: 'LF' })).toBe('Wheel LF')
  })
  it('says one of a thing otherwise than many, and calls a wheel as the language does', async () => {
    expect(t('ui.n_strokes', { n: 1 })).toBe('1 stroke')
    expect(t('ui.n_strokes', { n: 2 })).toBe('2 strokes')
    await speak('es')
    expect(t('ui.wheel', { id: 'LF' })).toBe('Rueda DI')
    expect(wheels('RR, LR')).toBe('TD, TI')
    expect(wheels('circuit A, ABS')).toBe('circuit A, ABS')
    await speak('en')
  })
  it('speaks of the vehicle in hand, and of others as ever', () => {
    speakOf(['clutch', 'unassisted'])
    expect(t('ui.wheel', { id: 'CS' })).toBe('Slave cylinder')
    expect(t('finding.pedal.readings')).toBe('Force and travel')
    expect(t('ui.twin_foot')).toBe('Foot')
    speakOf(undefined)
    expect(t('ui.wheel', { id: 'LF' })).toBe('Wheel LF')
  })
})

describe('ways of speaking a language', () => {
  it('are offered from that language alone', () => {
    expect(otherLanguages('en')).toEqual(['en-GB', 'es'])
    expect(otherLanguages('en-GB')).toEqual(['en', 'es'])
    expect(otherLanguages('es')).toEqual(['en', 'es-ES'])
    expect(otherLanguages('es-ES')).toEqual(['en', 'es'])
  })
})
