// A plate's mask as it is painted: the same rule as the server's (a stroke covers what lies within its radius, and fades towards it), at a
// size that follows the hand.
import type { PlateMask, MaskStroke } from '../api/client'

/** Longest side of a mask while it is painted, dots. */
const SIDE = 560
/** Most strokes and points of a mask, as the server has them. */
export const MOST_STROKES = 400
export const MOST_POINTS = 12_000
export const MOST_PAINTED = 150

type Place = [number, number]

function covered(d: number, core: number, radius: number): number {
  const [inner, outer] = radius - core < 1 ? [radius - 0.5, radius + 0.5] : [core, radius]
  const t = Math.min(1, Math.max(0, (outer - d) / (outer - inner)))
  return t * t * (3 - 2 * t)
}
function distance([px, py]: Place, [ax, ay]: Place, [bx, by]: Place): number {
  const [dx, dy, ex, ey] = [bx - ax, by - ay, px - ax, py - ay]
  const along = Math.min(1, Math.max(0, (ex * dx + ey * dy) / Math.max(dx * dx + dy * dy, 1e-12)))
  return Math.hypot(ex - along * dx, ey - along * dy)
}

export class Painter {
  readonly width: number
  readonly height: number
  /** What was painted before the stroke under way, and what that stroke covers. */
  private before: Float32Array
  private cover: Float32Array
  private stroke: MaskStroke | null = null

  /** A mask on a picture of so many dots; `ground` is what it is before anything is painted where that is a picture of its own (0 to 255). */
  constructor(full: Place, mask: PlateMask | null, ground: { width: number; height: number; grey: Uint8Array } | null = null) {
    const scale = Math.min(1, SIDE / Math.max(...full))
    ;[this.width, this.height] = [Math.max(1, Math.round(full[0] * scale)), Math.max(1, Math.round(full[1] * scale))]
    const n = this.width * this.height
    this.before = new Float32Array(n).fill(mask?.ground === 'none' ? 0 : 1)
    if (mask?.ground === 'lightest' && ground) {
      for (let i = 0; i < n; i++) {
        const x = Math.floor((((i % this.width) + 0.5) / this.width) * ground.width)
        const y = Math.floor(((Math.floor(i / this.width) + 0.5) / this.height) * ground.height)
        this.before[i] = (ground.grey[y * ground.width + x] ?? 255) / 255
      }
    }
    this.cover = new Float32Array(n)
    for (const s of mask?.strokes ?? []) {
      this.start(s)
      this.end()
    }
  }

  /** Begins a stroke; its points may come later. */
  start(stroke: MaskStroke) {
    this.stroke = { ...stroke, points: [] }
    this.cover.fill(0)
    for (const p of stroke.points) this.to(p as Place)
  }

  /** The brush goes on to a place, in shares of the picture. */
  to(place: Place) {
    const s = this.stroke
    if (!s) return
    const last = (s.points.at(-1) ?? place) as Place
    s.points.push(place)
    const dots = ([x, y]: Place): Place => [x * this.width, y * this.height]
    const [a, b] = [dots(last), dots(place)]
    const radius = s.radius * Math.max(this.width, this.height)
    const core = radius * (1 - (s.soft ?? 0))
    const within = (v: number, most: number) => Math.min(most, Math.max(0, v))
    const [x0, x1] = [within(Math.floor(Math.min(a[0], b[0]) - radius - 1), this.width), within(Math.ceil(Math.max(a[0], b[0]) + radius + 1), this.width)]
    const [y0, y1] = [within(Math.floor(Math.min(a[1], b[1]) - radius - 1), this.height), within(Math.ceil(Math.max(a[1], b[1]) + radius + 1), this.height)]
    for (let y = y0; y < y1; y++) {
      for (let x = x0; x < x1; x++) {
        const i = y * this.width + x
        this.cover[i] = Math.max(this.cover[i] ?? 0, covered(distance([x + 0.5, y + 0.5], a, b), core, radius))
      }
    }
  }

  /** The stroke is done. */
  end() {
    this.before = this.now()
    this.stroke = null
    this.cover.fill(0)
  }

  private now(): Float32Array {
    const adds = !!this.stroke?.adds
    return this.before.map((m, i) => {
      const c = this.cover[i] ?? 0
      return adds ? m + c * (1 - m) : m * (1 - c)
    })
  }

  /** How much the plate counts, 0 to 255, row by row. */
  grey(): Uint8Array {
    return Uint8Array.from(this.now(), (m) => Math.round(255 * m))
  }
}

/** Points a stroke needs: those that are left out lie nearer to the last than a sixth of the brush. */
export function goesOn(points: readonly (readonly number[])[], place: Place, radius: number, aspect: number): boolean {
  const last = points.at(-1)
  if (!last) return true
  const [dx, dy] = [(place[0] - (last[0] ?? 0)) * Math.max(1, aspect), (place[1] - (last[1] ?? 0)) * Math.max(1, 1 / aspect)]
  return Math.hypot(dx, dy) >= Math.max(radius / 6, 0.001)
}

/** What drawing a stroke goes over, whole pictures. */
function over({ points, radius }: MaskStroke): number {
  const side = (a = 0, b = 0) => Math.min(1, Math.abs(b - a) + 2 * radius)
  const first = points[0] ?? [0, 0]
  return points.reduce((n, p, k) => n + (k || points.length === 1 ? side((points[k - 1] ?? first)[0], p[0]) * side((points[k - 1] ?? first)[1], p[1]) : 0), 0)
}

/** Whether a stroke fits into a mask as it is, beside those that are there. */
export function hasRoom(mask: PlateMask | null, stroke: MaskStroke): boolean {
  const all = [...(mask?.strokes ?? []), stroke]
  const sum = (of: (s: MaskStroke) => number) => all.reduce((n, s) => n + of(s), 0)
  return all.length <= MOST_STROKES && sum((s) => s.points.length) <= MOST_POINTS && sum(over) <= MOST_PAINTED
}

/** The grey of a picture of one channel, as the server sends a mask. */
export async function greyOf(blob: Blob): Promise<{ width: number; height: number; grey: Uint8Array } | null> {
  const bitmap = await createImageBitmap(blob)
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height)
  const on = canvas.getContext('2d')
  if (!on) return null
  on.drawImage(bitmap, 0, 0)
  const { data } = on.getImageData(0, 0, bitmap.width, bitmap.height)
  return { width: bitmap.width, height: bitmap.height, grey: Uint8Array.from({ length: data.length / 4 }, (_, i) => data[4 * i] ?? 0) }
}
