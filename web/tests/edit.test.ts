import { describe, expect, it } from 'vitest'
import { awayFrom, centreOf, freeId, grow, handlesOf, letterOf, make, move, pointsOf, pull, titleOf, toolNames, type Tool } from '../src/read/edit'
import type { Mark } from '../src/api/client'

const kinds = toolNames.map((t) => t.tool).filter((t) => t !== 'catchlight') as Exclude<Tool, 'catchlight'>[]
const drawn = (tool: Exclude<Tool, 'catchlight'>): Mark => make(tool, `${tool}-1`, [100, 120], [160, 200], 400, 'lit', [0.9, 0.4, 0.1], [[100, 120], [130, 150], [160, 200]])

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
    expect(centreOf(m)[0]! - centre[0]!).toBeCloseTo(7, 6)
    expect(centreOf(m)[1]! - centre[1]!).toBeCloseTo(-3, 6)
    move(m, -7, 3)
    expect(whole(m)).toEqual(before)
    expect(letterOf(m)).toMatch(/^[A-Z]$/)
    expect(titleOf(m)).not.toBe('')
  })

  it.each(kinds)('%s follows the handle that is pulled', (tool) => {
    const m = drawn(tool)
    for (const h of handlesOf(m)) {
      const to = [h.at[0]! + 9, h.at[1]! + 5]
      pull(m, h.handle, to)
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
    for (let i = 0; i < 5; i++) list.push({ ...drawn('matte'), id: freeId('matte', list) } as Mark)
    expect(new Set(list.map((m) => m.id)).size).toBe(5)
  })

  it('knows which side of an outline is background', () => {
    // walking down the left edge of a shape whose middle lies to the right: the background is on the right hand
    const down = [[50, 10], [45, 50], [50, 90]]
    const side = awayFrom(down, [100, 50])
    expect(awayFrom([...down].reverse(), [100, 50])).not.toBe(side)
    expect(awayFrom(down, [0, 50])).not.toBe(side)
  })
})
