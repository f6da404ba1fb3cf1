import { beforeEach, describe, expect, it, vi } from 'vitest'
import { FIRST, keepWish, lastWish, rgbOf, shadeOf, SHADES } from '../src/wish/choices'

describe('a wish', () => {
  // what a browser keeps between visits
  const kept = new Map<string, string>()
  beforeEach(() => {
    kept.clear()
    vi.stubGlobal('localStorage', { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => kept.set(k, v) })
  })

  it('names a shade for every colour, and the colour for every shade', () => {
    for (const s of SHADES) expect(shadeOf(rgbOf(s.value))).toBe(s.value)
    expect(shadeOf([0.5, 0.5, 0.5])).toBe('pale')
    expect(shadeOf(null)).toBe('')
  })

  it('is what it was last time, and the first one where that cannot be read', () => {
    expect(lastWish()).toEqual(FIRST)
    keepWish({ ...FIRST, look: 'slash', key_to_fill: 8 })
    expect(lastWish()).toMatchObject({ look: 'slash', key_to_fill: 8, room: FIRST.room })
    localStorage.setItem('wish', '{"look": 3}')
    expect(lastWish()).toEqual(FIRST)
    localStorage.setItem('wish', 'no JSON')
    expect(lastWish()).toEqual(FIRST)
  })
})
