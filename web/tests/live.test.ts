import { describe, expect, it } from 'vitest'
import { ball, worded } from '../src/live/words'

describe('places in words', () => {
  it('are said as on the floor', () => {
    expect(worded({ azimuth_deg: 0, elevation_deg: 0 })).toBe('from the lens, level with it')
    expect(worded({ azimuth_deg: -34.6, elevation_deg: 40.2 })).toBe('35° to camera left, 40° up')
    expect(worded({ azimuth_deg: 150, elevation_deg: -10 })).toBe('150° to camera right, 10° down, from behind')
  })
})

describe('a ball as a place would light it', () => {
  const grey = (v: number[], x: number, y: number) => v[y * 20 + x] ?? -1
  it('is brightest where the light comes from and even from the lens', () => {
    const right = ball(20, { azimuth_deg: 90, elevation_deg: 0 })
    expect(grey(right, 18, 10)).toBeGreaterThan(grey(right, 10, 10))
    // beyond the terminator only the light from everywhere is left (Lambert)
    expect(grey(right, 2, 10)).toBe(grey(right, 6, 10))
    const front = ball(20, { azimuth_deg: 0, elevation_deg: 0 })
    expect(grey(front, 4, 10)).toBe(grey(front, 15, 10))
    expect(grey(front, 10, 4)).toBe(grey(front, 10, 15))
    // nothing outside the ball
    expect(grey(front, 0, 0)).toBe(-1)
  })
})
