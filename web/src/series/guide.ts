import type { Crop, ShotList } from '../api/client'

/** A crop of the list's aspect, as large as fits a frame: left, top, width, height. */
export function cropOf(list: ShotList, width: number, height: number): [number, number, number, number] {
  const ratio = (list.aspect[0] ?? 1) / (list.aspect[1] ?? 1)
  const w = Math.min(width, height * ratio)
  const h = w / ratio
  return [(width - w) / 2, (height - h) / 2, w, h]
}

/** Heights in a crop at which its guides lie, from above: the base line (of people the eyes) and where the subject's other end belongs. */
export function linesOf(list: ShotList, head: boolean, top: number, height: number): { base: number; end: number } {
  const base = top + height * (1 - list.base_percent / 100)
  // of a head the eyes are half way: the chin lies as far below them as the top above
  return head ? { base, end: base + (height * list.height_percent) / 200 } : { base, end: base - (height * list.height_percent) / 100 }
}

/** Corners of a crop in its picture, as points of a polygon. */
export function cornersOf(c: Crop): string {
  const t = (c.turn_deg * Math.PI) / 180
  const [s, k] = [Math.sin(t), Math.cos(t)]
  return [[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]]
    .map(([u = 0, v = 0]) => {
      const [x, y] = [u * c.width, v * c.height]
      return `${((c.middle[0] ?? 0) + k * x - s * y).toFixed(1)},${((c.middle[1] ?? 0) + s * x + k * y).toFixed(1)}`
    })
    .join(' ')
}

/** The next views without a picture, for files that come in together: in the order of the list; a list that repeats takes all. */
export function freeViews(list: ShotList, placed: readonly { view: string }[], wanted: number, first?: string): string[] {
  const [only] = list.views
  if (list.repeats && only) return Array<string>(wanted).fill(first ?? only.id)
  const free = list.views.map((v) => v.id).filter((v) => !placed.some((p) => p.view === v))
  if (!first) return free.slice(0, wanted)
  return [first, ...free.filter((v) => v !== first)].slice(0, wanted)
}
