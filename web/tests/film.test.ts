import { describe, expect, it } from 'vitest'
import { rateOf, timeCode } from '../src/look/film'

describe('the clock of a film', () => {
  it('writes hours, minutes, seconds and thousandths', () => {
    expect(timeCode(0)).toBe('00:00:00.000')
    expect(timeCode(3661.5)).toBe('01:01:01.500')
    // rounding carries over
    expect(timeCode(59.9996)).toBe('00:01:00.000')
  })

  it.each([23.976, 24, 25, 29.97, 30, 50, 59.94, 60])('tells %s frames a second by the times of frames', (rate) => {
    const times = Array.from({ length: 12 }, (_, i) => i / rate)
    expect(rateOf(times)).toBe(rate)
    // a frame that was dropped does not change it
    expect(rateOf([...times.slice(0, 5), ...times.slice(6)])).toBe(rate)
  })

  it('cannot tell by too few, and keeps a rate that is no common one', () => {
    expect(rateOf([0, 0.04])).toBeNull()
    expect(rateOf([])).toBeNull()
    expect(rateOf(Array.from({ length: 10 }, (_, i) => i / 12))).toBeCloseTo(12, 6)
  })
})
