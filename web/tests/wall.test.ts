import { describe, expect, it } from 'vitest'
import type { WallPicture } from '../src/api/client'
import { grouped } from '../src/class/groups'
import { bunched, figureOf, inside, ordered, outliers, pointsOf, shown, stepOf } from '../src/class/wall'

const picture = (id: string, steps: number | null, more: Partial<WallPicture> = {}): WallPicture => ({
  id,
  name: id,
  state: 'handed_in',
  late: { late: false, days: 0, keeps: 1 },
  attempt: 1,
  size: [4, 5],
  lights: [],
  distance: steps === null ? null : { steps, parts: [] },
  rules: [0, 0, 0],
  proposals: [],
  points: {},
  disputed: false,
  appeal: false,
  copies: [],
  sample: false,
  blind: false,
  looked_at: [0, 0],
  ...more,
})

describe('groups of the wall', () => {
  const names = (all: WallPicture[], by: Parameters<typeof bunched>[1]) => bunched(all, by).map((b) => `${b.name}: ${b.pictures.map((p) => p.id).join(' ')}`)
  it('are parted by round figures, lowest first, what is not told last', () => {
    const at = (id: string, azimuth_deg: number) => picture(id, 1, { lights: [{ azimuth_deg, elevation_deg: 10 } as WallPicture['lights'][number]] })
    expect(names([at('a', 42), picture('n', 1), at('b', -38), at('c', 44)], 'round')).toEqual(['−40 to −20° right: b', '40 to 60° right: a c', 'not told: n'])
  })
  it('follow state, days late and whole faults', () => {
    const all = [picture('a', 1, { state: 'returned' }), picture('b', 1, { rules: [2, 0, 0] }), picture('c', 1, { late: { late: true, days: 2, keeps: 1 } })]
    expect(names(all, 'state')).toEqual(['to grade: b c', 'given back: a'])
    expect(names(all, 'late')).toEqual(['in time: a b', 'late by 2 days: c'])
    expect(names(all, 'faults')).toEqual(['0 faults: a c', '2 faults: b'])
  })
  it('keep every picture, in its order', () => {
    const all = Array.from({ length: 40 }, (_, i) => picture(String(i), ((i * 17) % 40) / 7))
    for (const by of ['none', 'distance', 'share', 'state'] as const) {
      const out = bunched(all, by)
      expect(out.flatMap((b) => b.pictures.map((p) => p.id)).sort()).toEqual(all.map((p) => p.id).sort())
      for (const b of out) expect(b.pictures.map((p) => Number(p.id))).toEqual(b.pictures.map((p) => Number(p.id)).sort((x, y) => x - y))
    }
  })
  it('are three to eight, whatever the range', () => {
    for (const range of [0.03, 0.9, 3, 7, 19, 86, 360]) {
      const n = range / stepOf(range)
      expect(n, String(range)).toBeGreaterThanOrEqual(3)
      expect(n, String(range)).toBeLessThanOrEqual(7.6)
    }
    // all alike, or none at all
    expect(bunched([picture('a', 2), picture('b', 2)], 'distance')).toHaveLength(1)
    expect(bunched([picture('a', null)], 'distance').map((b) => b.name)).toEqual(['not told'])
    expect(bunched([], 'distance')).toEqual([])
  })
})

describe('the wall', () => {
  it('is ordered by a figure, those without one last', () => {
    const all = [picture('a', 3), picture('b', null), picture('c', 1), picture('d', 3)]
    expect(ordered(all, 'distance').map((p) => p.id)).toEqual(['c', 'a', 'd', 'b'])
    expect(ordered(all, 'handed')).toBe(all)
  })
  it('sorts 300 within a tenth of a second', () => {
    const all = Array.from({ length: 300 }, (_, i) => picture(String(i), (i * 7919) % 301))
    const start = performance.now()
    ordered(all, 'distance')
    expect(performance.now() - start).toBeLessThan(100)
  })
  it('finds what lies far from the others', () => {
    const all = [1, 1.1, 1.2, 0.9, 1.3, 1, 9].map((s, i) => picture(String(i), s))
    expect([...outliers(all)]).toEqual(['6'])
    expect(outliers(all.slice(0, 3)).size).toBe(0)
  })
  it('shows what is asked for', () => {
    const all = [picture('ana', 1, { late: { late: true, days: 1, keeps: 1 } }), picture('bo', 2, { state: 'returned' }), picture('cy', 3, { copies: ['ana'] })]
    expect(shown(all, 'late', '').map((p) => p.id)).toEqual(['ana'])
    expect(shown(all, 'open', '').map((p) => p.id)).toEqual(['ana', 'cy'])
    expect(shown(all, 'copies', '').map((p) => p.id)).toEqual(['cy'])
    expect(shown(all, 'all', 'B').map((p) => p.id)).toEqual(['bo'])
  })
})

describe('figures of the wall', () => {
  it('have their unit and their spread', () => {
    const key = { role: 'key' as const, azimuth_deg: -40.2, elevation_deg: 6.4, direction_sd_deg: 3.1, frame: 'camera', angular_size_deg: 20, angular_size_range_deg: [18, 24], evidence: [] }
    const p = picture('a', 1.25, { lights: [key], contrast_stops: 0.6, contrast_spread_stops: 0.2, counts: 0.725, rules: [3, 0, 9] })
    expect(figureOf(p, 'round')).toBe('−40 ± 3.1° right')
    expect(figureOf(p, 'up')).toBe('6.4 ± 3.1° up')
    expect(figureOf(p, 'size')).toBe('20 ± 3.0° wide')
    expect(figureOf(p, 'contrast')).toBe('0.6 ± 0.2 stops')
    expect(figureOf(p, 'distance')).toBe('1.3 steps')
    expect(figureOf(p, 'share')).toBe('73 %')
    expect(figureOf(p, 'faults')).toBe('3 faults')
    expect(figureOf(picture('b', null), 'distance')).toBe('')
  })
})

describe('keys for points', () => {
  it('are tenths in halves', () => {
    expect(pointsOf('7', { points: 10 })).toBe(7)
    expect(pointsOf('3', { points: 5 })).toBe(1.5)
    expect(pointsOf('0', { points: 5 })).toBe(0)
    expect(pointsOf('=', { points: 7.5 })).toBe(7.5)
    expect(pointsOf('x', { points: 5 })).toBe(null)
  })
})

describe('a line drawn round some', () => {
  it('holds what lies in it, also where it is not convex', () => {
    const square: [number, number][] = [[0, 0], [10, 0], [10, 10], [0, 10]]
    expect(inside([5, 5], square)).toBe(true)
    expect(inside([15, 5], square)).toBe(false)
    const hook: [number, number][] = [[0, 0], [10, 0], [10, 10], [8, 10], [8, 2], [0, 2]]
    expect(inside([9, 9], hook)).toBe(true)
    expect(inside([4, 5], hook)).toBe(false)
    expect(inside([5, 5], [])).toBe(false)
  })
})

describe('groups', () => {
  it('come from the names, in their order; who has none is in none', () => {
    expect(grouped({ a: 'Group 10', b: ' Group 2 ', c: '', d: 'Group 2' })).toEqual([
      { name: 'Group 2', members: ['b', 'd'] },
      { name: 'Group 10', members: ['a'] },
    ])
  })
})
