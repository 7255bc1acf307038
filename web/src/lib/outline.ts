import type { Unit } from '@/api/client'

/** One millimetre of a cylinder in the drawing. */
const scale = 2.4

/** A cylinder seen from above to scale, the flange to the right: as much of it as was measured. */
export interface Outline {
  body: string
  bore: string
  studs: { x: number; y: number }[]
  pocket: string
  ports: { x: number; y: number; position: string; thread: string }[]
}

/** The drawing lies in 0…440 by -110…110; its flange stands at x = 360. */
export const flangeX = 360

export function outlineOf(u: Unit): Outline {
  const r = ((u.bore_mm ?? 0) / 2) * scale
  const wall = 5 * scale
  const stroke = u.stroke_mm ?? 35
  const long = Math.min(flangeX - 20, (stroke * 2 + 40) * scale * 0.9)
  const stud = ((u.stud_spacing_mm ?? 0) / 2) * scale * 0.9
  const pocket = (u.pocket_mm ?? 0) * scale
  const half = Math.max(stud, r + wall) + 10
  return {
    body: `M${flangeX - long} ${-r - wall}H${flangeX}V${-half}H${flangeX + 12}V${half}H${flangeX}V${r + wall}H${flangeX - long}Z`,
    bore: r ? `M${flangeX - long + wall} ${-r}H${flangeX}M${flangeX - long + wall} ${r}H${flangeX}` : '',
    studs: stud
      ? [
          { x: flangeX + 12, y: -stud },
          { x: flangeX + 12, y: stud },
        ]
      : [],
    pocket: pocket ? `M${flangeX - pocket} ${-r * 0.55}V${r * 0.55}M${flangeX - pocket} 0H${flangeX}` : '',
    ports: (u.ports ?? []).map((p, i) => ({
      x: flangeX - long * (p.position === 'front' ? 0.72 : p.position === 'rear' ? 0.28 : 0.4 + 0.12 * i),
      y: (p.side === 'right' ? 1 : -1) * (r + wall),
      position: p.position,
      thread: p.thread ?? '',
    })),
  }
}
