import type { System } from '@/api/client'

/** Where things stand on the schematic, worked out from the system. Front of the vehicle is up. */
interface Place {
  id: string
  x: number
  y: number
  kind: string
  circuit: string
  /** Half the size of the brake drawn, from its piston or drum. */
  size: number
  line: string
  lengthMM: number
}

export interface Layout {
  wheels: Place[]
  cylinder: { x: number; y: number; width: number; secondary: number; primary: number }
  booster: number
  circuits: string[]
}

const view = { left: 78, right: 382, front: 104, rear: 300 }

function row(id: string): number {
  if (/F$/.test(id)) return 0
  if (/R$/.test(id)) return 1
  const axle = /(\d+)$/.exec(id)
  return axle ? Number(axle[1]) - 1 : 1
}

function brakeSize(w: System['wheels'][number]): number {
  const mm = w.brake.kind === 'disc' ? (w.brake.effective_radius_mm ?? 110) : (w.brake.drum_radius_mm ?? 120)
  return Math.max(16, Math.min(30, mm / 5.6))
}

/** Lays a system out: brakes at their corners, the unit on the driver's side, each line routed from
 * its chamber's port, the two circuits kept apart. */
export function layout(s: System): Layout {
  const trailer = !!s.actuator
  const rows = Math.max(2, ...s.wheels.map((w) => row(w.id) + 1))
  const primary = s.master_cylinder.primary
  const secondary = s.master_cylinder.secondary
  const scale = 1.15
  const cylinder = {
    x: trailer ? 230 : 178,
    y: trailer ? 62 : 78,
    width: s.master_cylinder.bore_mm * scale,
    secondary: secondary ? secondary.stroke_mm * scale + 10 : 0,
    primary: primary.stroke_mm * scale * (trailer ? 0.8 : 1) + 10,
  }
  const portY: Record<string, number> = {
    [primary.circuit]: cylinder.y + cylinder.secondary + cylinder.primary / 2,
  }
  if (secondary) portY[secondary.circuit] = cylinder.y + cylinder.secondary / 2
  const circuits = s.circuits.map((c) => c.id)
  const wheels = s.wheels.map((w): Place => {
    const circuit = s.circuits.find((c) => c.wheels.includes(w.id))?.id ?? ''
    const second = circuits.indexOf(circuit) === 1
    const r = row(w.id)
    if (w.brake.brake_factor === 0) {
      // A clutch's slave cylinder stands at the gearbox, behind the engine.
      const at = { x: 268, y: 246 }
      const port = cylinder.x + cylinder.width / 2
      const line = `M${port} ${portY[circuit] ?? cylinder.y}H${at.x}V${at.y - 12}`
      return { id: w.id, ...at, kind: 'slave', circuit, size: 12, line, lengthMM: w.line.length_mm + w.hose.length_mm }
    }
    const x = w.id.startsWith('L') ? view.left : view.right
    const y = trailer
      ? 190 + (r * (view.rear + 6 - 190)) / Math.max(1, rows - 1)
      : view.front + (r * (view.rear - view.front)) / (rows - 1)
    const port = cylinder.x + cylinder.width / 2
    const trunk = trailer ? port + 16 : second ? 250 : 228
    const from = `M${port} ${portY[circuit] ?? cylinder.y}H${trunk}`
    const apart = second ? 9 : -3
    const over = !trailer && w.id.startsWith('L') && r === 0
    const end = x + (w.id.startsWith('L') ? 1 : -1) * (brakeSize(w) + 2)
    const path = over ? `${from}V${46 + apart}H${x + 18}V${y - brakeSize(w)}` : `${from}V${y + apart}H${end}`
    return {
      id: w.id,
      x,
      y,
      kind: w.brake.kind,
      circuit,
      size: brakeSize(w),
      line: path,
      lengthMM: w.line.length_mm + w.hose.length_mm,
    }
  })
  const area = s.booster?.effective_area_mm2 ?? 0
  return { wheels, cylinder, booster: area ? Math.sqrt(area) / 4.6 : 0, circuits }
}
