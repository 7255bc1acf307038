import { describe, expect, it } from 'vitest'
import { cut, terms } from './terms'
import { has } from './words'

describe('the words of the trade', () => {
  it('each have a name and a meaning', () => {
    for (const id of Object.keys(terms)) {
      expect(has('term.' + id), id).toBe(true)
      expect(has('term_what.' + id), id).toBe(true)
    }
    expect(Object.keys(terms).length).toBeGreaterThanOrEqual(40)
  })
  it('are found in a text, each once, whole words, the longest name first, and nothing of the text is lost', () => {
    const parts = cut('Master cylinder off; the master cylinders and the bleeder. Reborn, not bore.')
    expect(parts.map((p) => p.text).join('')).toBe(
      'Master cylinder off; the master cylinders and the bleeder. Reborn, not bore.',
    )
    expect(parts.filter((p) => p.term).map((p) => p.term)).toEqual(['master_cylinder', 'bleeder', 'bore'])
  })
  it('leave a text without any as it is', () => {
    expect(cut('Nothing here')).toEqual([{ text: 'Nothing here' }])
    expect(cut('')).toEqual([])
  })
  it('leave alone what only sounds alike: the coupler of a rod is no trailer’s', () => {
    expect(cut('Coupler, collar, spring and clip moved over').some((p) => p.term)).toBe(false)
  })
})
