// Projection of a set to plan and side view. Drawing only: places and sizes come from the core.
import type { PlacedLight } from '../api/client'

export type Aspect = 'plan' | 'side'
export type P2 = { x: number; y: number }

/** Set metres (x camera right, y above the eyes, z towards the camera) to drawing metres.
 *  Plan: right is camera right, down is towards the camera. Side: left is towards the camera. */
export function project(aspect: Aspect, p: number[], eye: number): P2 {
  return aspect === 'plan' ? { x: p[0]!, y: p[2]! } : { x: -p[2]!, y: -(p[1]! + eye) }
}

/** Corners of a source's bright face in set metres; it faces the subject and stands upright. */
export function face(l: PlacedLight): number[][] {
  const [x, y, z] = l.position_m as [number, number, number]
  const d = Math.hypot(x, y, z) || 1
  const n = [x / d, y / d, z / d] as const
  const flat = Math.hypot(n[0], n[2])
  const u = flat > 1e-6 ? [n[2] / flat, 0, -n[0] / flat] : [1, 0, 0]
  const v = [n[1] * u[2]! - n[2] * u[1]!, n[2] * u[0]! - n[0] * u[2]!, n[0] * u[1]! - n[1] * u[0]!]
  const [w, h] = [l.modifier.size_m[0]! / 2, l.modifier.size_m[1]! / 2]
  const at = (a: number, b: number) => [x + a * w * u[0]! + b * h * v[0]!, y + a * w * u[1]! + b * h * v[1]!, z + a * w * u[2]! + b * h * v[2]!]
  if (l.modifier.shape === 'rectangle') return [at(-1, -1), at(1, -1), at(1, 1), at(-1, 1)]
  return Array.from({ length: 28 }, (_, i) => at(Math.cos((i / 28) * 2 * Math.PI), Math.sin((i / 28) * 2 * Math.PI)))
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
