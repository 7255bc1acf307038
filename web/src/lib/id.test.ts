import { afterEach, describe, expect, it, vi } from 'vitest'
import { newId } from './id'

const uuid4 = /^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/

describe('a new id', () => {
  afterEach(() => vi.unstubAllGlobals())

  it('is a random version 4 id, with and without a secure context', () => {
    expect(newId()).toMatch(uuid4)
    const random = (a: Uint8Array) => a.map(() => Math.floor(Math.random() * 256))
    // What a page opened over plain HTTP from another machine has.
    vi.stubGlobal('crypto', { getRandomValues: random })
    const ids = new Set(Array.from({ length: 200 }, newId))
    expect(ids.size).toBe(200)
    for (const id of ids) expect(id).toMatch(uuid4)
  })
})
