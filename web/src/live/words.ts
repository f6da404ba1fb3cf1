// Places in words, and a ball as a place would light it. Drawing only: what is right or wrong comes from the core.
import type { Direction } from '../halo/band'

/** A direction as one says it on the floor. */
export function worded(d: Direction): string {
  const [az, el] = [Math.round(d.azimuth_deg), Math.round(d.elevation_deg)]
  const side = az === 0 ? 'from the lens' : `${Math.abs(az)}° to camera ${az > 0 ? 'right' : 'left'}`
  const up = el === 0 ? 'level with it' : `${Math.abs(el)}° ${el > 0 ? 'up' : 'down'}`
  return `${side}, ${up}${Math.abs(az) > 90 ? ', from behind' : ''}`
}

/** Grey of a matte ball of `side` pixels lit from a direction and a little from everywhere, 0 to 255, row by row; -1 outside. */
export function ball(side: number, d: Direction): number[] {
  const [az, el] = [(d.azimuth_deg * Math.PI) / 180, (d.elevation_deg * Math.PI) / 180]
  const l = [Math.cos(el) * Math.sin(az), Math.sin(el), Math.cos(el) * Math.cos(az)] as const
  const out: number[] = []
  for (let i = 0; i < side * side; i++) {
    const x = ((i % side) + 0.5) / (side / 2) - 1
    const y = 1 - (Math.floor(i / side) + 0.5) / (side / 2)
    const rest = 1 - x * x - y * y
    if (rest < 0) {
      out.push(-1)
      continue
    }
    const cos = Math.max(0, x * l[0] + y * l[1] + Math.sqrt(rest) * l[2])
    out.push(Math.round(255 * Math.pow(0.06 + 0.8 * cos, 1 / 2.2)))
  }
  return out
}
