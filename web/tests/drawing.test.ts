import { describe, expect, it } from 'vitest'
import type { Drawing } from '../src/api/client'
import { fitTo, fromMetres, gridOf, length, moved, short, toMetres } from '../src/rebuild/drawing'

const drawing: Drawing = { from: [-1, -2], to: [3, 2], lines: [], notes: [], grips: [] }

describe('the set under the hand', () => {
  it('moves what the view shows and leaves the rest', () => {
    // plan: right is camera right (x), down is towards the camera (z); side: right is away from the camera, down is down
    expect(moved('plan', [0.4, 0.8, -1.2], [0.3, 0.2])).toEqual([0.7, 0.8, -1])
    expect(moved('side', [0.4, 0.8, -1.2], [0.25, 0.25])).toEqual([0.4, 0.55, -1.45])
  })

  it('fits a drawing into its sheet, centred and not stretched', () => {
    const f = fitTo(drawing, 400, 300)
    expect(f.k).toBe(75)
    expect([f.k * 1 + f.dx, f.k * 0 + f.dy]).toEqual([200, 150])
  })

  it('draws a grid over the whole sheet and not without end', () => {
    const f = fitTo(drawing, 400, 300)
    const g = gridOf(f, 400, 300, 0.5)
    expect(g.ys).toEqual([-2, -1.5, -1, -0.5, 0, 0.5, 1, 1.5, 2])
    expect(gridOf({ k: 0.001, dx: 0, dy: 0 }, 400, 300, 0.5).xs.length).toBeLessThanOrEqual(60)
  })

  it('writes lengths in both units', () => {
    // 1.83 m are 6 ft 0 in (0.3048 m a foot)
    expect(length(1.83, 'ft')).toBe('6 ft 0 in')
    expect(length(1.83, 'm')).toBe('1.83 m')
    expect(length(-0.3048, 'ft')).toBe('−1 ft 0 in')
    expect(toMetres('6', 'ft')).toBeCloseTo(1.8288, 9)
    expect(fromMetres(1.8288, 'ft')).toBe('6.00')
  })

  it('says a note in few words', () => {
    const note = { at: [0, 0] as [number, number], name: 'background of the room', lengths: [{ length_m: 2, then: 'behind' }] }
    expect(short(note, 'm')).toBe('background … 2.00 m')
    expect(short({ ...note, name: 'lens', lengths: [] }, 'm')).toBe('lens')
  })
})
