import { readFileSync } from 'node:fs'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  bySuffix,
  convert,
  convertible,
  displayOf,
  figure,
  parseFigure,
  plain,
  readFigure,
  say,
  useUnits,
  writeFor,
} from './units'

beforeAll(() => {
  useUnits([
    { id: 'mm', quantity: 'length', system: 'metric', factor: 1, offset: 0, decimals: 1 },
    { id: 'in', quantity: 'length', system: 'us', factor: 25.4, offset: 0, decimals: 3 },
    { id: '°C', quantity: 'temperature', system: 'metric', factor: 1, offset: 0, decimals: 0 },
    { id: '°F', quantity: 'temperature', system: 'us', factor: 5 / 9, offset: -160 / 9, decimals: 0 },
  ])
})

describe('figures', () => {
  it('converts both ways, offsets too', () => {
    expect(convert(25.4, 'mm', 'in')).toBeCloseTo(1)
    expect(convert(20, '°C', '°F')).toBeCloseTo(68)
    expect(convert(convert(3.7, 'mm', 'in'), 'in', 'mm')).toBeCloseTo(3.7)
  })
  it('writes them in a person’s units', () => {
    expect(figure('gap_mm', 25.4, 'metric')).toBe('25.4 mm')
    expect(figure('gap_mm', 25.4, 'us')).toBe('1.000 in')
    expect(figure('gap_mm', -25.4, 'both')).toBe('−25.4 mm (−1.000 in)')
    expect(figure('gap_mm', -0.001, 'metric')).toBe('0.00 mm')
    expect(figure('gap_mm', 0.25, 'metric')).toBe('0.25 mm')
    expect(figure('gap_mm', 0, 'metric')).toBe('0.0 mm')
    expect(say({ old_mm: 25.4, count: 3, wheels: ['LF', 'RF'] }, 'us')).toEqual({
      old_mm: '1.000 in',
      count: 3,
      wheels: 'LF, RF',
    })
  })
  it('tells names apart by their ending', () => {
    expect(displayOf('leak_cm3_min')?.us).toBe('fl oz/min')
    expect(displayOf('mm')?.core).toBe('mm')
    expect(displayOf('count')).toBeNull()
  })
  it('has no other suffixes than the Go table, but for those only the screen shows', () => {
    const go = readFileSync('../words/quantity.go', 'utf8')
    const inGo = [...go.matchAll(/\{"(_[a-z0-9_]+)", "([^"]+)", "([^"]+)", "([^"]+)"\}/g)].map((m) => m.slice(1))
    expect(inGo.length).toBeGreaterThan(5)
    const here = bySuffix.map(([s, d]) => [s, d.core, d.metric, d.us])
    expect(here.filter((r) => r[0] !== '_kg' && r[0] !== '_c')).toEqual(inGo)
  })
})

describe('typing a figure', () => {
  it.each([
    ['12.5', 12.5],
    ['12,5', 12.5],
    ['15/16', 0.9375],
    ['1 1/16', 1.0625],
    ['1-1/8', 1.125],
    ['-0.4', -0.4],
    ['−0.4', -0.4],
  ])('reads %s', (text, want) => expect(parseFigure(text)).toBeCloseTo(want))
  it.each([
    ['25.4mm', 25.4, 'mm'],
    ['7/8"', 0.875, 'in'],
    ['1 1/8 in', 1.125, 'in'],
    ['1.25e1', 12.5, ''],
    ['200 in-lb', 200, 'in·lbf'],
    ['21 ft·lbf', 21, 'ft·lbf'],
    ['28 N·m', 28, 'N·m'],
    ['300 N', 300, 'N'],
  ])('reads %s with its unit', (text, value, unit) => expect(readFigure(text)).toEqual({ value, unit }))
  it('refuses a unit of something else', () => {
    expect(convertible('mm', 'in')).toBe(true)
    expect(convertible('mm', '°C')).toBe(false)
    expect(readFigure('3 apples')).toBeNull()
  })
  it.each(['', 'abc', '1/0', '3 mm', '1e999'])('refuses %s', (text) => expect(parseFigure(text)).toBeNull())
})

describe('a figure as the reader’s language writes it', () => {
  const inLanguage = (l: string, text: string) => {
    writeFor(l)
    const out = readFigure(text)
    writeFor('en')
    return out
  }
  it.each([
    ['en', '131,979', 131.979, 131979],
    ['en', '131.979', 131.979, undefined],
    ['es', '131.979', 131.979, 131979],
    ['es', '131,979', 131.979, undefined],
    ['es-MX', '131,979', 131.979, 131979],
    ['en', '0,125', 0.125, undefined],
    ['es', '1.063', 1.063, 1063],
  ])('in %s %s is %d, or %d', (l, text, value, other) =>
    expect(inLanguage(l, text)).toEqual({ value, other, unit: '' }),
  )
  it.each([
    ['1,234,567', 1234567],
    ['1.234.567', 1234567],
    ['1,234.5', 1234.5],
    ['1.234,5', 1234.5],
    ['131 979', 131979],
    ['131\u202f979', 131979],
  ])('reads %s in one way', (text, want) => {
    expect(parseFigure(text)).toBe(want)
    expect(inLanguage('es', text)?.value).toBe(want)
  })
  it.each(['en', 'es', 'es-MX', 'de', 'fr'])('what is printed in %s reads back as what it was', (l) => {
    writeFor(l)
    for (const [v, d] of [
      [131979, 0],
      [1.063, 3],
      [12.5, 1],
      [0.25, 2],
      [-3.4, 1],
      [1234567, 0],
    ] as const) {
      const read = readFigure(plain(v, d))!
      expect([read.value, read.other], `${l} ${plain(v, d)}`).toContain(v)
    }
    writeFor('en')
  })
  it('says no more of a volume than anybody pours', () => {
    useUnits([
      { id: 'cm³', quantity: 'volume', system: 'metric', factor: 1, offset: 0, decimals: 1 },
      { id: 'fl oz', quantity: 'volume', system: 'us', factor: 29.5735, offset: 0, decimals: 2 },
    ])
    expect(figure('cm3', 634.5, 'metric')).toBe('635 cm³')
    expect(figure('cm3', 63.45, 'metric')).toBe('63.5 cm³')
    expect(figure('cm3', 6.345, 'metric')).toBe('6.3 cm³')
    expect(figure('cm3', 500, 'us')).toBe('16.9 fl oz')
    expect(figure('cm3', 100, 'us')).toBe('3.38 fl oz')
  })
})
