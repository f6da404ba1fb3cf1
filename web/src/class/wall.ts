// The wall: order, groups, keys. Drawing and choosing only: figures come from the core.
import type { Criterion, WallPicture } from '../api/client'

export type Order = 'handed' | 'distance' | 'up' | 'round' | 'size' | 'contrast' | 'exposure' | 'faults' | 'share' | 'name'
export const ORDERS: { value: Order; text: string; unit?: string }[] = [
  { value: 'handed', text: 'as handed in' },
  { value: 'distance', text: 'distance from the reference', unit: ' steps' },
  { value: 'up', text: 'height of the key', unit: '° up' },
  { value: 'round', text: 'side of the key', unit: '° right' },
  { value: 'size', text: 'size of the key', unit: '° wide' },
  { value: 'contrast', text: 'contrast', unit: ' stops' },
  { value: 'exposure', text: 'brightness', unit: ' stops from grey' },
  { value: 'faults', text: 'faults', unit: ' faults' },
  { value: 'share', text: 'marks', unit: ' %' },
  { value: 'name', text: 'name' },
]

/** What a picture is ordered by; nothing where it was not told. */
export function valueOf(p: WallPicture, by: Order): number | null {
  const key = p.lights[0]
  switch (by) {
    case 'distance':
      return p.distance?.steps ?? null
    case 'up':
      return key?.elevation_deg ?? null
    case 'round':
      return key?.azimuth_deg ?? null
    case 'size':
      return key?.angular_size_deg ?? null
    case 'contrast':
      return p.contrast_stops ?? null
    case 'exposure':
      return p.median_stops ?? null
    case 'faults':
      return p.rules[0] ?? null
    case 'share':
      return p.counts ?? null
    default:
      return null
  }
}

/** How far that may be off; nothing where it is not told. */
export function spreadOf(p: WallPicture, by: Order): number | null {
  const key = p.lights[0]
  if (by === 'up' || by === 'round') return key?.direction_sd_deg ?? null
  if (by === 'size' && key?.angular_size_range_deg) return ((key.angular_size_range_deg[1] ?? 0) - (key.angular_size_range_deg[0] ?? 0)) / 2
  if (by === 'contrast') return p.contrast_spread_stops ?? null
  return null
}

/** The figure a picture is ordered by, with its spread and unit. */
export function figureOf(p: WallPicture, by: Order): string {
  const v = valueOf(p, by)
  if (v === null) return ''
  const unit = ORDERS.find((o) => o.value === by)?.unit ?? ''
  const text = (x: number) => (by === 'share' ? (100 * x).toFixed(0) : x.toFixed(by === 'faults' || Math.abs(x) >= 10 ? 0 : 1)).replace('-', '−')
  const sd = spreadOf(p, by)
  return `${text(v)}${sd === null ? '' : ` ± ${text(sd)}`}${unit}`
}

/** In order, those without a figure last; what has the same figure stays as it was. */
export function ordered(all: WallPicture[], by: Order): WallPicture[] {
  if (by === 'handed') return all
  if (by === 'name') return [...all].sort((a, b) => a.name.localeCompare(b.name))
  const rows = all.map((p, i) => ({ p, i, v: valueOf(p, by) }))
  return rows.sort((a, b) => (a.v === null ? 1 : 0) - (b.v === null ? 1 : 0) || (a.v ?? 0) - (b.v ?? 0) || a.i - b.i).map((r) => r.p)
}

/** What the wall is put in groups by: a reading, or how far it is. */
export type Group = 'none' | 'state' | 'late' | Exclude<Order, 'handed' | 'name'>
export const GROUPS: { value: Group; text: string }[] = [
  { value: 'none', text: 'not at all' },
  { value: 'state', text: 'how far it is' },
  { value: 'late', text: 'in time or late' },
  ...ORDERS.flatMap((o) => (o.value === 'handed' || o.value === 'name' ? [] : [{ value: o.value, text: o.text }])),
]
export const STATE = { reading: 'being read', handed_in: 'to grade', returned: 'given back', failed: 'not read', removed: 'taken away' } as const

/** A step of 1, 2 or 5 times a power of ten that parts a range in three to seven. */
export function stepOf(range: number): number {
  const ten = 10 ** Math.floor(Math.log10(Math.max(range, 1e-9) / 3))
  return ([5, 2, 1].find((k) => k * ten <= range / 3) ?? 1) * ten
}

export interface Bunch {
  name: string
  pictures: WallPicture[]
}

/** The pictures in groups, lowest first, those without a figure last; within a group the order stays. */
export function bunched(all: WallPicture[], by: Group): Bunch[] {
  if (by === 'none') return [{ name: '', pictures: all }]
  const bunches = new Map<string, { at: number; pictures: WallPicture[] }>()
  const put = (name: string, at: number, p: WallPicture) => {
    const b = bunches.get(name) ?? { at, pictures: [] }
    b.pictures.push(p)
    bunches.set(name, b)
  }
  if (by === 'state') for (const p of all) put(STATE[p.state], Object.keys(STATE).indexOf(p.state), p)
  else if (by === 'late') for (const p of all) put(p.late.late ? `late by ${p.late.days} ${p.late.days === 1 ? 'day' : 'days'}` : 'in time', p.late.days, p)
  else {
    const scale = by === 'share' ? 100 : 1
    const values = all.flatMap((p) => valueOf(p, by) ?? [])
    const whole = by === 'faults'
    const step = Math.max(whole ? 1 : 0, stepOf(scale * (Math.max(...values) - Math.min(...values))))
    const unit = ORDERS.find((o) => o.value === by)?.unit ?? ''
    const text = (v: number) => v.toFixed(Math.max(0, -Math.floor(Math.log10(step) + 1e-9))).replace('-', '−')
    for (const p of all) {
      const v = valueOf(p, by)
      if (v === null) {
        put('not told', Infinity, p)
        continue
      }
      const from = Math.floor((scale * v) / step + 1e-9)
      const name = whole && step === 1 ? `${text(from)}${unit}` : `${text(from * step)} to ${text((from + 1) * step)}${unit}`
      put(name, from, p)
    }
  }
  return [...bunches].sort(([, a], [, b]) => a.at - b.at).map(([name, b]) => ({ name, pictures: b.pictures }))
}

export type Show = 'all' | 'open' | 'late' | 'copies' | 'disputed' | 'appeals' | 'outliers'
export const SHOWS: { value: Show; text: string }[] = [
  { value: 'all', text: 'all' },
  { value: 'open', text: 'to grade' },
  { value: 'late', text: 'late' },
  { value: 'outliers', text: 'far from the others' },
  { value: 'copies', text: 'copies' },
  { value: 'disputed', text: 'graders differ' },
  { value: 'appeals', text: 'appeals' },
]

/** Those that lie farther out than the others: over the third quartile by one and a half times what lies between the quartiles (Tukey). */
export function outliers(all: WallPicture[]): Set<string> {
  const far = all.flatMap((p) => (p.distance?.steps == null ? [] : [p.distance.steps])).sort((a, b) => a - b)
  if (far.length < 5) return new Set()
  const at = (q: number) => far[Math.min(far.length - 1, Math.floor(q * far.length))] ?? 0
  const limit = at(0.75) + 1.5 * (at(0.75) - at(0.25))
  return new Set(all.filter((p) => (p.distance?.steps ?? 0) > limit).map((p) => p.id))
}

export function shown(all: WallPicture[], what: Show, words: string): WallPicture[] {
  const far = what === 'outliers' ? outliers(all) : null
  const wanted = words.trim().toLowerCase()
  return all.filter((p) => {
    if (wanted && !p.name.toLowerCase().includes(wanted)) return false
    if (what === 'open') return p.state === 'handed_in'
    if (what === 'late') return p.late.late
    if (what === 'copies') return p.copies.length > 0
    if (what === 'disputed') return p.disputed
    if (what === 'appeals') return p.appeal
    return far ? far.has(p.id) : true
  })
}

/** Points for a number key: 0 to 9 of ten parts of the criterion, in halves; the key `=` gives all. */
export function pointsOf(key: string, c: Pick<Criterion, 'points'>): number | null {
  if (key === '=') return c.points
  if (!/^[0-9]$/.test(key)) return null
  return Math.round(((Number(key) / 10) * c.points) / 0.5) * 0.5
}

/** A share in per cent; empty where there is none. */
export function percent(share: number | null | undefined, digits = 0): string {
  return share == null ? '' : `${(100 * share).toFixed(digits)} %`
}

/** A point of a drawing. */
export type Spot = [x: number, y: number]

/** Whether a point lies inside a closed line (even-odd rule). */
export function inside([x, y]: Spot, line: Spot[]): boolean {
  let odd = false
  line.forEach(([ax, ay], i) => {
    const [bx, by] = line[(i + 1) % line.length] ?? [ax, ay]
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) odd = !odd
  })
  return odd
}
