import { describe, expect, it } from 'vitest'
import { cutaway } from './cutaway'

const tandem = {
  bore_mm: 25,
  efficiency: 0.95,
  primary: { circuit: 'A', stroke_mm: 20, cutoff_mm: 1.2, preload_n: 70 },
  secondary: { circuit: 'B', stroke_mm: 16, cutoff_mm: 1.2, preload_n: 90 },
}

describe('the cut-away', () => {
  it('moves the front piston by its own stroke and the rear one by both', () => {
    const rest = cutaway(tandem, {}, 1, 0)
    const now = cutaway(tandem, { A: 8, B: 5 }, 1, 14)
    expect(rest.chambers.map((c) => c.circuit)).toEqual(['B', 'A'])
    expect(rest.chambers[0].piston - now.chambers[0].piston).toBeCloseTo(5)
    expect(rest.chambers[1].piston - now.chambers[1].piston).toBeCloseTo(13)
  })
  it('shows the slack ahead of the rod until the piston moves', () => {
    const end = (c: ReturnType<typeof cutaway>) => c.chambers[1].piston + 20
    expect(cutaway(tandem, {}, 0.8, 0).rodTip - end(cutaway(tandem, {}, 0.8, 0))).toBeCloseTo(0.8)
    expect(cutaway(tandem, {}, 0.8, 0.5).rodTip - end(cutaway(tandem, {}, 0.8, 0.5))).toBeCloseTo(0.3)
    const on = cutaway(tandem, { A: 2, B: 2 }, 0.8, 4.8)
    expect(on.rodTip).toBeCloseTo(end(on))
  })
  it('never lets a chamber be less than empty at full stroke', () => {
    const full = cutaway(tandem, { A: 20, B: 16 }, 0, 36)
    for (const c of full.chambers) expect(c.piston).toBeGreaterThan(c.from)
  })
  it('draws a single chamber alone', () => {
    const one = cutaway({ ...tandem, secondary: undefined }, { A: 3 }, 0, 3)
    expect(one.chambers).toHaveLength(1)
  })
})
