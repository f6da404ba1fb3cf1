import { describe, expect, it } from 'vitest'
import { cone, length, moved, project, roleOf, sheet, toMetres } from '../src/rebuild/drawing'

describe('the set in plan and side view', () => {
  it('puts camera right to the right and the camera below in plan, to the left from the side', () => {
    expect(project('plan', [1, 2, 3])).toEqual({ x: 1, y: 3 })
    expect(project('side', [1, 2, 3])).toEqual({ x: -3, y: -2 })
  })

  it('moves what the view shows and leaves the rest', () => {
    for (const aspect of ['plan', 'side'] as const) {
      const from: [number, number, number] = [0.4, 0.8, -1.2]
      const a = project(aspect, from)
      const b = project(aspect, moved(aspect, from, { x: 0.3, y: -0.2 }))
      expect(b.x - a.x).toBeCloseTo(0.3, 9)
      expect(b.y - a.y).toBeCloseTo(-0.2, 9)
    }
    expect(moved('plan', [0, 1.5, 0], { x: 1, y: 1 })[1]).toBe(1.5)
    expect(moved('side', [0.7, 0, 0], { x: 1, y: 1 })[0]).toBe(0.7)
  })

  it('draws a sheet of its true size, upright and facing its aim', () => {
    const c = sheet([1, 0.5, 2], [0, 0, 0], 1.2, 0.8)
    const apart = (a: number[], b: number[]) => Math.hypot(...a.map((v, k) => v - b[k]!))
    expect(apart(c[0]!, c[1]!)).toBeCloseTo(1.2, 9)
    expect(apart(c[1]!, c[2]!)).toBeCloseTo(0.8, 9)
    // its corners lie across the line to the aim
    const side = c[1]!.map((v, k) => v - c[0]![k]!)
    expect(side[0]! * 1 + side[1]! * 0.5 + side[2]! * 2).toBeCloseTo(0, 9)
  })

  it('takes the outermost corners for the cone', () => {
    const corners = [{ x: 2, y: -1 }, { x: 2, y: 0 }, { x: 2, y: 1 }]
    const [s, a, b] = cone({ x: 0, y: 0 }, corners)
    expect(s).toEqual({ x: 0, y: 0 })
    expect([a!.y, b!.y].sort()).toEqual([-1, 1])
  })

  it('writes lengths in both units', () => {
    // 1.83 m are 6 ft 0 in (0.3048 m a foot)
    expect(length(1.83, 'ft')).toBe('6 ft 0 in')
    expect(length(1.83, 'm')).toBe('1.83 m')
    expect(toMetres('6', 'ft')).toBeCloseTo(1.8288, 9)
    expect(roleOf('key 2')).toBe('key')
    expect(roleOf('Moon')).toBe('other')
  })
})
