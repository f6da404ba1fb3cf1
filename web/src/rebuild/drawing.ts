// Projection of a set to plan and side view, and lengths as people write them. Drawing only: places,
// sizes and outlines come from the core.
export type Aspect = 'plan' | 'side'
export type P2 = { x: number; y: number }
export type P3 = [number, number, number]

/** Set metres (x camera right, y above the reference point, z towards the camera) to drawing metres.
 *  Plan: right is camera right, down is towards the camera. Side: left is towards the camera. */
export function project(aspect: Aspect, p: number[]): P2 {
  return aspect === 'plan' ? { x: p[0]!, y: p[2]! } : { x: -p[2]!, y: -p[1]! }
}

/** A place moved by a step in the drawing; what the view does not show stays. */
export function moved(aspect: Aspect, p: P3, step: P2): P3 {
  return aspect === 'plan' ? [p[0] + step.x, p[1], p[2] + step.y] : [p[0], p[1] - step.y, p[2] - step.x]
}

/** The cone from the subject to the face: the subject and the two outermost corners as seen from it. */
export function cone(subject: P2, corners: P2[]): P2[] {
  const mid = { x: corners.reduce((s, c) => s + c.x, 0) / corners.length - subject.x, y: corners.reduce((s, c) => s + c.y, 0) / corners.length - subject.y }
  const turn = (c: P2) => {
    const [dx, dy] = [c.x - subject.x, c.y - subject.y]
    return Math.atan2(mid.x * dy - mid.y * dx, mid.x * dx + mid.y * dy)
  }
  const sorted = [...corners].sort((a, b) => turn(a) - turn(b))
  return [subject, sorted[0]!, sorted.at(-1)!]
}

/** Corners of an upright sheet at `at` that faces `aim`. */
export function sheet(at: number[], aim: number[], width: number, height: number): number[][] {
  const n = [0, 1, 2].map((k) => aim[k]! - at[k]!)
  const l = Math.hypot(...n) || 1
  const [nx, ny, nz] = n.map((v) => v / l) as P3
  const flat = Math.hypot(nx, nz)
  const u: P3 = flat > 1e-6 ? [nz / flat, 0, -nx / flat] : [1, 0, 0]
  const v: P3 = [ny * u[2], nz * u[0] - nx * u[2], -ny * u[0]]
  return [[-1, -1], [1, -1], [1, 1], [-1, 1]].map(([a, b]) => [0, 1, 2].map((k) => at[k]! + (a! * width * u[k]!) / 2 + (b! * height * v[k]!) / 2))
}

/** Role of a light by its name, for the marks. */
export function roleOf(name: string): string {
  const word = name.split(' ')[0]!.toLowerCase()
  return ['key', 'fill', 'rim', 'background'].includes(word) ? word : 'other'
}

const FOOT = 0.3048
export type Units = 'm' | 'ft'
export function length(m: number, units: Units): string {
  if (units === 'm') return `${m.toFixed(2)} m`
  const inches = Math.round((m / FOOT) * 12)
  const sign = inches < 0 ? '−' : ''
  return `${sign}${Math.floor(Math.abs(inches) / 12)} ft ${Math.abs(inches) % 12} in`
}
export const toMetres = (text: string, units: Units) => (units === 'm' ? Number(text) : Number(text) * FOOT)
export const fromMetres = (m: number, units: Units) => (units === 'm' ? m : m / FOOT).toFixed(2)
