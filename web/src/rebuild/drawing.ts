// A set's drawing, as the core works it out, under the hand: what a pull in one view changes, and lengths as people write them.
import type { Drawing, Note } from '../api/client'
import { read } from '../shell/units'

export type Aspect = 'plan' | 'side'
export type P3 = [number, number, number]

/** A place in the set moved by a step in the drawing (metres right and down); what the view does not show stays. */
export function moved(aspect: Aspect, [x, y, z]: P3, [right, down]: [number, number]): P3 {
  return aspect === 'plan' ? [x + right, y, z + down] : [x, y - down, z - right]
}

/** How a drawing lies on a sheet of so many units: scale and shift. */
export interface Fit {
  k: number
  dx: number
  dy: number
}
export function fitTo(d: Drawing, width: number, height: number): Fit {
  const [[x0, y0], [x1, y1]] = [d.from, d.to]
  const k = Math.min(width / (x1 - x0), height / (y1 - y0))
  return { k, dx: width / 2 - (k * (x0 + x1)) / 2, dy: height / 2 - (k * (y0 + y1)) / 2 }
}

/** Lines of a grid across what a sheet shows, metres. */
export function gridOf(f: Fit, width: number, height: number, unit: number): { xs: number[]; ys: number[] } {
  const range = (a: number, b: number) => Array.from({ length: Math.max(0, Math.min(60, Math.floor(b / unit) - Math.ceil(a / unit) + 1)) }, (_, i) => (Math.ceil(a / unit) + i) * unit)
  return { xs: range(-f.dx / f.k, (width - f.dx) / f.k), ys: range(-f.dy / f.k, (height - f.dy) / f.k) }
}

/** A note in few words: its name and its first length. */
export function short(n: Note, units: Units): string {
  const name = n.name.length > 12 ? `${n.name.slice(0, 11)}…` : n.name
  const [first] = n.lengths
  return first ? `${name} ${length(first.length_m, units)}` : name
}

const FOOT = 0.3048
export type Units = 'm' | 'ft'
export function length(m: number, units: Units): string {
  if (units === 'm') return `${m.toFixed(2)} m`
  const inches = Math.round((m / FOOT) * 12)
  const sign = inches < 0 ? '−' : ''
  return `${sign}${Math.floor(Math.abs(inches) / 12)} ft ${Math.abs(inches) % 12} in`
}
/** What was typed, in metres: a bare figure is in the units that are shown, one with its own (cm, ft, ') in those. `NaN` if it is none. */
export function toMetres(text: string, units: Units): number {
  const bare = units === 'ft' && /^\s*[-−]?[\d.,]+\s*$/.test(text)
  return (read(text, 'm') ?? NaN) * (bare ? FOOT : 1)
}
/** What is wrong with a length that was typed. */
export const lengthWrong = (text: string, units: Units, least = -Infinity) => (toMetres(text, units) > least ? '' : least === 0 ? 'A length above nought is wanted.' : 'A length is wanted.')
export const fromMetres = (m: number, units: Units) => (units === 'm' ? m : m / FOOT).toFixed(2)
