import { describe, expect, it } from 'vitest'
import type { Mark } from '../src/api/client'
import { adds, centreOf, detailsOf, draws, freeId, grow, handlesOf, keyOf, labelOf, letterOf, make, move, pointsOf, pull, shapesOf, titleOf, toolGroups, toolNames } from '../src/read/edit'
import type { Point, Pull } from '../src/read/kind'
import { foundOutlines } from '../src/read/kinds/eye.vue'
import { awayFrom } from '../src/read/kinds/contour.vue'

const drawing = toolNames.filter(draws)
const kinds = drawing.map((t) => t.tool)
const pulled: Pull = { a: [100, 120], b: [160, 200], path: [[100, 120], [130, 150], [160, 200]], picture: [600, 400], steps: [0.9, 0.4, 0.1] }
function drawn(tool: string, list: Mark[] = [], p: Pull = pulled): Mark {
  const t = drawing.find((k) => k.tool === tool)
  if (!t) throw new Error(tool)
  return make(t, list, p)
}

/** A mark with its figures to a millionth of a pixel. */
const whole = (m: Mark) => JSON.parse(JSON.stringify(m, (_, v: unknown) => (typeof v === 'number' ? Math.round(v * 1e6) / 1e6 : v))) as unknown

describe('marks under the hand', () => {
  it('has a key of its own for every tool', () => {
    const keys = toolNames.map((t) => t.key)
    expect(new Set(keys).size).toBe(keys.length)
    expect(keys).not.toContain('N')
  })

  it.each(kinds)('%s is drawn, moved and comes back', (tool) => {
    const m = drawn(tool)
    const before = whole(m)
    const centre = centreOf(m)
    move(m, 7, -3)
    expect(centreOf(m)[0] - centre[0]).toBeCloseTo(7, 6)
    expect(centreOf(m)[1] - centre[1]).toBeCloseTo(-3, 6)
    move(m, -7, 3)
    expect(whole(m)).toEqual(before)
    expect(letterOf(m)).toMatch(/^[A-Z]$/)
    expect(titleOf(m)).not.toBe('')
  })

  it.each(kinds)('%s follows the handle that is pulled', (tool) => {
    const m = drawn(tool)
    for (const h of handlesOf(m)) {
      const to: Point = [h.at[0] + 9, h.at[1] + 5]
      pull(m, h.name, to)
      // the handle is where it was pulled, if it is free to go there
      const now = handlesOf(m).find((k) => k.name === h.name)
      expect(now).toBeDefined()
      if (h.name.startsWith('corner') && m.kind !== 'wedge') expect(now?.at).toEqual(to)
      for (const p of pointsOf(m)) for (const v of p) expect(Number.isFinite(v)).toBe(true)
    }
  })

  it('grows and shrinks a ball by a pixel', () => {
    const m = drawn('matte')
    if (m.kind !== 'ball') throw new Error('a ball')
    const r = m.radius_px
    grow(m, 1)
    expect(m.radius_px).toBeCloseTo(r + 1, 9)
    grow(m, -1)
    expect(m.radius_px).toBeCloseTo(r, 9)
  })

  it('gives each mark an id that is free', () => {
    const list: Mark[] = []
    for (let i = 0; i < 5; i++) list.push(drawn('matte', list))
    expect(new Set(list.map((m) => m.id)).size).toBe(5)
  })

  it('knows which side of an outline is background', () => {
    // walking down the left edge of a shape whose middle lies to the right: the background is on the right hand
    const down: Point[] = [[50, 10], [45, 50], [50, 90]]
    const side = awayFrom(down, [100, 50])
    expect(awayFrom([...down].reverse(), [100, 50])).not.toBe(side)
    expect(awayFrom(down, [0, 50])).not.toBe(side)
  })

  it.each(kinds)('%s is drawn by a mere click as well, within the picture', (tool) => {
    const m = drawn(tool, [], { ...pulled, b: pulled.a, path: [pulled.a] })
    expect(shapesOf(m).length).toBeGreaterThan(0)
    for (const s of shapesOf(m)) for (const p of 'points' in s ? s.points : [s.centre]) for (const v of p) expect(Math.abs(v)).toBeLessThan(700)
    const { at, off } = labelOf(m)
    expect([...at, ...off].every(Number.isFinite)).toBe(true)
  })

  it('has a file for every kind, with a tool in one of the groups', () => {
    expect(new Set(drawing.map((t) => drawn(t.tool).kind)).size).toBe(13)
    expect(toolGroups.flatMap((g) => g.tools).length).toBe(toolNames.length)
    expect(toolGroups.every((g) => g.tools.length > 0)).toBe(true)
  })

  it('takes the lit side first, then the shadow side, and a key for another', () => {
    const roles = [1, 2].map(() => drawn('patch')).map((m) => m.kind === 'patch' && m.role)
    expect(new Set(roles)).toEqual(new Set(['lit', 'shadow']))
    const m = drawn('patch')
    keyOf(m, 'G')?.(m)
    expect(m.kind === 'patch' && m.role).toBe('background')
    expect(keyOf(drawn('matte'), 'G')).toBeUndefined()
  })

  it('adds a catchlight to those that were found', () => {
    const eye = drawn('eye')
    const tool = toolNames.find(adds)
    const outline: Point[] = [[1, 1], [2, 1], [2, 2]]
    const reading = { says: '', catchlights: [{ clock: 1, azimuth_deg: 0, elevation_deg: 0, direction_sd_deg: 1, outline }] }
    expect(foundOutlines(reading)).toEqual([{ outline }])
    expect(tool?.can?.({ list: [], targets: [] })).toBe(false)
    tool?.add(eye, pulled, reading)
    expect(eye.kind === 'eye' && eye.catchlights?.length).toBe(2)
  })

  it('numbers marks by their kind and keeps a telling name', () => {
    expect(freeId('penumbra', [{ id: 'edge-1' }])).toBe('edge-2')
    expect(titleOf({ ...drawn('penumbra'), id: 'edge-4' })).toBe('shadow edge 4')
    expect(titleOf({ ...drawn('penumbra'), id: 'under-the-nose' })).toBe('under the nose')
  })

  it('says something beside the kinds that have something to say', () => {
    for (const tool of ['eye', 'patch', 'cast', 'penumbra', 'rim', 'contour', 'wedge', 'face', 'cylinder']) expect(detailsOf(drawn(tool))).toBeDefined()
    for (const tool of ['matte', 'gradient', 'pattern']) expect(detailsOf(drawn(tool))).toBeUndefined()
  })
})

describe('a box', () => {
  it('is drawn with edges that run more than a right angle apart, as its corner must', () => {
    const m = drawn('cuboid')
    if (m.kind !== 'cuboid') throw new Error(m.kind)
    const away = m.ends.map(([x, y]) => [x - m.corner[0], y - m.corner[1]] as const)
    for (const [i, j] of [[0, 1], [0, 2], [1, 2]] as const) {
      const [a, b] = [away[i], away[j]]
      if (!a || !b) throw new Error('three edges')
      expect(a[0] * b[0] + a[1] * b[1]).toBeLessThan(0)
    }
  })

  it('shows three sides that share its corner, and follows an end that is pulled', () => {
    const m = drawn('cuboid')
    const sides = shapesOf(m)
    expect(sides.length).toBe(3)
    const [before] = handlesOf(m).slice(-1)
    if (!before || m.kind !== 'cuboid') throw new Error('a handle')
    pull(m, before.name, [before.at[0] + 9, before.at[1] - 4])
    expect(m.ends.some(([x, y]) => Math.abs(x - before.at[0] - 9) < 1e-9 && Math.abs(y - before.at[1] + 4) < 1e-9)).toBe(true)
  })
})
