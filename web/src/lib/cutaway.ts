import type { Schemas } from '@/api/client'

/** Where the parts of a master cylinder stand, in mm along the bore from its closed end. */
interface Chamber {
  circuit: string
  from: number
  port: number
  /** The face of its piston, where the chamber ends. */
  piston: number
}
export interface CutAway {
  length: number
  bore: number
  chambers: Chamber[]
  rodTip: number
}

const pistonMM = 20
const springMM = 5

/** Lays the cylinder out with its pistons where the strokes put them. Chambers come front first, each with the face of
 * its piston; the rod's tip stands behind the last piston by what is left of gap and free play. */
export function cutaway(
  c: Schemas['SystemMasterCylinder'],
  strokeMM: Record<string, number>,
  slackMM: number,
  rodMM: number,
): CutAway {
  const parts = c.secondary ? [c.secondary, c.primary] : [c.primary]
  const chambers: Chamber[] = []
  let rest = 0 // where the chamber begins while nothing has moved
  let moved = 0 // by how much everything so far has gone forward
  for (const p of parts) {
    const from = chambers.length ? chambers[chambers.length - 1].piston + pistonMM : 0
    const face = rest + p.stroke_mm + springMM
    moved += strokeMM[p.circuit] ?? 0
    chambers.push({ circuit: p.circuit, from, port: face - p.cutoff_mm, piston: face - moved })
    rest = face + pistonMM
  }
  const end = chambers[chambers.length - 1].piston + pistonMM
  return {
    length: rest + 8,
    bore: c.bore_mm,
    chambers,
    rodTip: end + (moved > 0 ? 0 : Math.max(0, slackMM - rodMM)),
  }
}
