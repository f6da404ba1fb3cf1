import { describe, expect, it } from 'vitest'
import { type Cylinder, held, kind, outlineOf, pulled } from '../src/read/kinds/cylinder.vue'

const bottle = (): Cylinder => ({ id: 'b', kind: 'cylinder', axis: [[100, 300], [100, 100]], radius_px: 40, profile: [[0, 38], [0.02, 40], [0.5, 40], [0.7, 15], [1, 15]] })

describe('a bottle with its outline', () => {
  it('is drawn alike on both sides', () => {
    const points = outlineOf(bottle())
    expect(points).toHaveLength(10)
    for (const [i, [x, y]] of points.slice(0, 5).entries()) {
      const opposite = points[points.length - 1 - i]
      expect(opposite?.[1]).toBeCloseTo(y, 9)
      expect((opposite?.[0] ?? 0) + x).toBeCloseTo(200, 9)
    }
  })

  it('is a rectangle without an outline', () => {
    const m = { ...bottle(), profile: [] }
    expect(outlineOf(m).map((p) => p[0]).sort()).toEqual([140, 140, 60, 60])
    expect(kind.handles?.(m).map((h) => h.name)).toEqual(['radius'])
  })

  it('has handles that stand apart', () => {
    expect(held(bottle())).toEqual([0, 2, 3, 4])
  })

  it('takes neighbours along when it is pulled, and no more', () => {
    expect(pulled([[0, 38], [0.02, 40], [0.5, 40]], 0, 48)).toEqual([[0, 48], [0.02, 45], [0.5, 40]])
    expect(pulled([[0, 5], [0.02, 2]], 0, -1)[1]?.[1]).toBe(0)
    const m = bottle()
    kind.pull?.(m, 'node-3', [130, 160])
    expect(m.profile?.[3]).toEqual([0.7, 30])
    expect(m.profile?.[2]).toEqual([0.5, 40])
  })

  it('grows on all its height', () => {
    const m = bottle()
    kind.grow?.(m, 2)
    expect([m.radius_px, m.profile?.[3]?.[1]]).toEqual([42, 17])
  })
})
