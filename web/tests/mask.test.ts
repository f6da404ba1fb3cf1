// Masks as they are painted in the browser: the same rule as the server's.
import { describe, expect, it } from 'vitest'
import { goesOn, hasRoom, MOST_PAINTED, MOST_POINTS, MOST_STROKES, Painter } from '../src/plates/mask'
import type { MaskStroke, PlateMask } from '../src/api/client'

const stroke = (points: [number, number][], radius: number, soft = 0, adds = false): MaskStroke => ({ points, radius, soft, adds })
const sum = (p: Painter) => p.grey().reduce((n, v) => n + v, 0) / 255

describe('a painter', () => {
  it('covers the area of a disc, and three tenths of it where it fades from the middle', () => {
    const disc = Math.PI * 40 * 40
    expect(sum(new Painter([400, 300], { ground: 'none', strokes: [stroke([[0.5, 0.5]], 0.1, 0, true)] })) / disc).toBeCloseTo(1, 2)
    expect(sum(new Painter([400, 300], { ground: 'none', strokes: [stroke([[0.5, 0.5]], 0.1, 1, true)] })) / disc).toBeCloseTo(0.3, 2)
  })
  it('paints the same point by point as at once', () => {
    const all: [number, number][] = [[0.2, 0.3], [0.4, 0.5], [0.7, 0.4]]
    const once = new Painter([300, 200], { ground: 'all', strokes: [stroke(all, 0.08, 0.5)] })
    const live = new Painter([300, 200], { ground: 'all', strokes: [] })
    live.start(stroke([], 0.08, 0.5))
    all.forEach((p) => live.to(p))
    expect(live.grey()).toEqual(once.grey())
    live.end()
    expect(live.grey()).toEqual(once.grey())
  })
  it('takes away and brings back, the last stroke last', () => {
    const at = (strokes: MaskStroke[], ground: PlateMask['ground'] = 'all') => new Painter([100, 100], { ground, strokes }).grey()[50 * 100 + 50]
    expect(at([])).toBe(255)
    expect(at([], 'none')).toBe(0)
    expect(at([stroke([[0.5, 0.5]], 0.2)])).toBe(0)
    expect(at([stroke([[0.5, 0.5]], 0.2), stroke([[0.5, 0.5]], 0.1, 0, true)])).toBe(255)
  })
  it('begins with what the server says is the lightest', () => {
    const ground = { width: 2, height: 1, grey: Uint8Array.from([0, 200]) }
    const p = new Painter([100, 50], { ground: 'lightest', strokes: [] }, ground)
    expect([p.grey()[25 * 100 + 10], p.grey()[25 * 100 + 90]]).toEqual([0, 200])
  })
  it('is no larger than follows the hand', () => {
    const p = new Painter([6000, 4000], null)
    expect([p.width, p.height]).toEqual([560, 373])
  })
})

describe('a stroke', () => {
  it('goes on where the brush moved by a sixth of itself', () => {
    expect(goesOn([], [0.5, 0.5], 0.06, 1.5)).toBe(true)
    expect(goesOn([[0.5, 0.5]], [0.505, 0.5], 0.06, 1)).toBe(false)
    expect(goesOn([[0.5, 0.5]], [0.511, 0.5], 0.06, 1)).toBe(true)
  })
  it('finds no room in a mask that is full', () => {
    const dab = stroke([[0.5, 0.5]], 0.01)
    const many = (n: number, radius: number) => stroke(Array.from({ length: n }, () => [0.5, 0.5] as [number, number]), radius)
    expect(hasRoom(null, dab)).toBe(true)
    expect(hasRoom({ strokes: Array.from({ length: MOST_STROKES }, () => dab) }, dab)).toBe(false)
    expect(hasRoom({ strokes: [many(MOST_POINTS, 0.01)] }, dab)).toBe(false)
    // few points of a brush as large as the picture
    expect(hasRoom(null, many(MOST_PAINTED, 0.5))).toBe(true)
    expect(hasRoom(null, many(MOST_PAINTED + 2, 0.5))).toBe(false)
  })
})
