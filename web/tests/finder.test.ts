import { describe, expect, it } from 'vitest'
import { cheeksOf, marksOf, type Points } from '../src/read/finder'

// The places of the mesh's points are its publisher's (canonical face model, 468 points and 2 times 5 of the irises).
const IRIS = [468, 473] as const
const LIDS = [
  [159, 145],
  [386, 374],
] as const
const CORNERS = [
  [33, 133],
  [362, 263],
] as const

interface Drawn {
  /** Picture's width and height. */
  size?: [number, number]
  /** Between the pupils, pixels; their middle. */
  apart?: number
  middle?: [number, number]
  /** How far the lids are open, over the eye's width. */
  open?: [number, number]
  /** Nose tip aside of the middle, over the distance of the eyes; and the head's tilt, degrees. */
  aside?: number
  tilt_deg?: number
}

/** A face that looks at the lens, as the mesh would tell it, in parts of width and height. */
function face(d: Drawn = {}): Points {
  const [w, h] = d.size ?? [1200, 800]
  const apart = d.apart ?? 160
  const [cx, cy] = d.middle ?? [600, 300]
  const t = ((d.tilt_deg ?? 0) * Math.PI) / 180
  // in distances of the eyes, right and down from their middle
  const place = (x: number, y: number): [number, number, number] => {
    const [a, b] = [x * apart, y * apart]
    return [(cx + a * Math.cos(t) - b * Math.sin(t)) / w, (cy + a * Math.sin(t) + b * Math.cos(t)) / h, -0.02]
  }
  const points: Points = Array.from({ length: 478 }, (_, i) => place(Math.cos(i) * 0.9, 0.5 + Math.sin(i)))
  const put = (i: number, x: number, y: number) => (points[i] = place(x, y))
  const sides = [-0.5, 0.5]
  sides.forEach((x, k) => {
    const wide = 0.42
    put(IRIS[k] ?? 0, x, 0)
    const open = (d.open?.[k] ?? 0.35) * wide
    put(LIDS[k]?.[0] ?? 0, x, -open / 2)
    put(LIDS[k]?.[1] ?? 0, x, open / 2)
    put(CORNERS[k]?.[0] ?? 0, x - wide / 2, 0)
    put(CORNERS[k]?.[1] ?? 0, x + wide / 2, 0)
  })
  put(4, d.aside ?? 0, 0.6)
  put(2, d.aside ?? 0, 0.75)
  put(61, -0.38, 1.05)
  put(291, 0.38, 1.05)
  put(152, 0, 1.75)
  put(50, -0.55, 0.6)
  put(280, 0.55, 0.6)
  return points
}
const marks = (f: Points, [w, h]: [number, number] = [1200, 800]) => marksOf(f, w, h, (kind, taken) => `${kind}-${taken.length + 1}`)

describe('marks of a face that was found', () => {
  it('are its landmarks in pixels, all points of the mesh, and both eyes', () => {
    const [f, left, right] = marks(face())
    if (f?.kind !== 'face' || left?.kind !== 'eye' || right?.kind !== 'eye') throw new Error('a face and two eyes')
    expect(f.points.eye_image_left).toEqual([520, 300])
    expect(f.points.eye_image_right).toEqual([680, 300])
    expect(f.points.chin[1]).toBeCloseTo(300 + 1.75 * 160, 6)
    expect(f.dense?.length).toBe(478)
    expect(left.limbus.centre).toEqual([520, 300])
    expect([f.id, left.id, right.id]).toEqual(['face-1', 'eye-2', 'eye-3'])
  })

  it('know an iris by the distance of the eyes: 11.7 of 64.7 mm across in adults (Dodgson 2004; Nishino and Nayar 2006)', () => {
    for (const apart of [90, 160, 400]) {
      const eye = marks(face({ apart })).find((m) => m.kind === 'eye')
      if (eye?.kind !== 'eye') throw new Error('an eye')
      expect(eye.limbus.rx / apart).toBeCloseTo(11.7 / 2 / 64.7, 2)
      expect(eye.limbus.rx).toBe(eye.limbus.ry)
    }
  })

  it('keep the mesh to a tenth of a pixel, its depth in the unit of the width', () => {
    const [f] = marks(face())
    if (f?.kind !== 'face') throw new Error('a face')
    for (const p of f.dense ?? []) {
      for (const v of p) expect(Math.abs(v * 10 - Math.round(v * 10))).toBeLessThan(1e-6)
      expect(p[2]).toBeCloseTo(-24, 6)
    }
  })

  it('leave a closed eye out, and a wink keeps the open one', () => {
    expect(marks(face({ open: [0.05, 0.05] })).map((m) => m.kind)).toEqual(['face'])
    const wink = marks(face({ open: [0.35, 0.05] }))
    expect(wink.length).toBe(2)
    expect(wink[1]?.kind === 'eye' && wink[1].limbus.centre).toEqual([520, 300])
  })

  it('leave eyes out that are too small to show what they mirror', () => {
    expect(marks(face({ apart: 40 })).map((m) => m.kind)).toEqual(['face'])
    expect(marks(face({ apart: 46 })).length).toBe(3)
  })

  it('leave the eyes of a turned head out, to either side and however it is tilted', () => {
    for (const tilt_deg of [-60, 0, 25, 90]) {
      expect(marks(face({ aside: 0.1, tilt_deg })).length).toBe(3)
      for (const aside of [0.2, -0.2]) expect(marks(face({ aside, tilt_deg })).length).toBe(1)
    }
  })

  it('are marks whatever the mesh leaves out', () => {
    const few = marks(face().slice(0, 300))
    expect(few[0]?.kind).toBe('face')
    for (const m of few) for (const v of JSON.stringify(m).match(/-?\d+\.?\d*e?-?\d*/g) ?? []) expect(Number.isFinite(Number(v))).toBe(true)
  })
})

describe('where patches on the cheeks would lie', () => {
  it('is on the middle of either cheek, by a share of the face', () => {
    const f = face()
    const { centres, half_px } = cheeksOf(f, 1200, 800)
    expect(centres).toEqual([
      [600 - 0.55 * 160, 300 + 0.6 * 160],
      [600 + 0.55 * 160, 300 + 0.6 * 160],
    ])
    const tall = (Math.max(...f.map((p) => p[1])) - Math.min(...f.map((p) => p[1]))) * 800
    expect(half_px).toBeCloseTo(0.035 * tall, 9)
  })
  it('grows with the face', () => {
    const [near, far] = [face({ apart: 200 }), face({ apart: 100 })].map((f) => cheeksOf(f, 1200, 800).half_px)
    expect((near ?? 0) / (far ?? 1)).toBeCloseTo(2, 6)
  })
})
