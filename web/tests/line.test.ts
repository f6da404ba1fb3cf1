// A bright line pulled about on the product in the picture: from pixels to shares of the product and back to a line.
import { describe, expect, it } from 'vitest'
import type { LineWanted, ShownRow } from '../src/api/client'
import { fadesFrom, inPicture, onProduct, pulled, stroke } from '../src/rebuild/line'

/** A product that narrows from foot to head: half as wide at its top, in the middle of the picture. */
const rows: ShownRow[] = [-1, 0, 1].map((up) => {
  const half = 0.2 - 0.05 * (up + 1)
  return { up, across: 0.9, left: [0.5 - half, 0.5 - 0.3 * up], right: [0.5 + half, 0.5 - 0.3 * up] }
})
const line: LineWanted = { subject: 0, from: -0.6, to: -0.4, bottom: -0.5, top: 0.5, side: 'front', fade: null }

describe('a place of the picture on the product', () => {
  it('goes by the width at its own height', () => {
    // half way up the half width is 0.15: 0.075 right of the middle is half of it
    expect(onProduct(rows, [0.575, 0.5])).toEqual({ across: expect.closeTo(0.45), up: expect.closeTo(0) })
    expect(onProduct(rows, [0.5 + 0.125 / 2, 0.35])).toEqual({ across: expect.closeTo(0.45), up: expect.closeTo(0.5) })
  })
  it('counts as its edge beside it, over it and under it', () => {
    expect(onProduct(rows, [0.99, 0.5])?.across).toBeCloseTo(0.9)
    expect(onProduct(rows, [0.5, 0.01])?.up).toBeCloseTo(1)
    expect(onProduct(rows, [0.5, 0.99])?.up).toBeCloseTo(-1)
  })
  it('shows where it was taken from', () => {
    for (const place of [{ across: 0.3, up: 0.4 }, { across: -0.8, up: -0.9 }, { across: 0, up: 0 }, { across: 0.9, up: 1 }]) {
      const back = onProduct(rows, inPicture(rows, place))
      expect(back?.across).toBeCloseTo(place.across)
      expect(back?.up).toBeCloseTo(place.up)
    }
  })
  it('is nowhere without a product', () => expect(onProduct([], [0.5, 0.5])).toBeNull())
})

describe('a line that is pulled', () => {
  it('keeps a width and a height', () => {
    expect(pulled(line, 'left', { across: 0.9, up: 0 }).from).toBeLessThan(line.to)
    expect(pulled(line, 'right', { across: -0.9, up: 0 }).to).toBeGreaterThan(line.from)
    expect(pulled(line, 'top', { across: 0, up: -0.9 }).top).toBeGreaterThan(line.bottom)
    expect(pulled(line, 'bottom', { across: 0, up: 0.9 }).bottom).toBeLessThan(line.top)
  })
  it('moves as a whole and stops at the outline', () => {
    const start = { line, at: { across: -0.5, up: 0 } }
    const moved = pulled(line, 'whole', { across: -0.3, up: 0.1 }, start)
    expect([moved.from, moved.to, moved.bottom, moved.top]).toEqual([-0.4, -0.2, -0.4, 0.6].map((v) => expect.closeTo(v)))
    const out = pulled(line, 'whole', { across: -3, up: 0 }, start)
    expect(out.from).toBeCloseTo(-0.985)
    expect(out.to - out.from).toBeCloseTo(0.2)
  })
  it('begins to fade where the square is put', () => {
    const right = { ...line, fade: { side: 'right' as const, share: 0.5 } }
    expect(pulled(right, 'fade', { across: -0.55, up: 0 }).fade?.share).toBeCloseTo(0.75)
    const left = { ...line, fade: { side: 'left' as const, share: 0.5 } }
    expect(pulled(left, 'fade', { across: -0.55, up: 0 }).fade?.share).toBeCloseTo(0.25)
    expect(fadesFrom(right)).toBeCloseTo(-0.5)
    expect(fadesFrom({ ...left, fade: { side: 'left', share: 0.25 } })).toBeCloseTo(-0.55)
    expect(fadesFrom(line)).toBeNull()
    // never less than a tenth, nor more than all
    expect(pulled(left, 'fade', { across: -0.99, up: 0 }).fade?.share).toBeCloseTo(0.1)
    expect(pulled(right, 'fade', { across: -0.99, up: 0 }).fade?.share).toBeCloseTo(1)
    expect(pulled({ ...line, fade: { side: 'both', share: 0.5 } }, 'fade', { across: 0, up: 0 }).fade?.share).toBe(0.5)
  })
})

describe('a stroke', () => {
  it('has a usual width where it goes straight up', () => {
    const s = stroke(line, { across: 0.5, up: 0.4 }, { across: 0.5, up: -0.6 })
    expect([s.from, s.to, s.bottom, s.top]).toEqual([0.46, 0.54, -0.6, 0.4].map((v) => expect.closeTo(v)))
  })
  it('spans what it crosses, and stays on the product at its edge', () => {
    const s = stroke(line, { across: -0.2, up: 0 }, { across: 0.3, up: 0.2 })
    expect([s.from, s.to]).toEqual([-0.2, 0.3])
    const edge = stroke(line, { across: 0.985, up: 0 }, { across: 0.985, up: 0.5 })
    expect(edge.to).toBeLessThanOrEqual(0.985)
    expect(edge.to - edge.from).toBeCloseTo(0.08)
  })
  it('has a height however short it is', () => expect(stroke(line, { across: 0, up: 0.3 }, { across: 0.2, up: 0.3 }).bottom).toBeCloseTo(0.25))
})
