import { describe, expect, it } from 'vitest'
import { difference, full, read, show, shutter } from '../src/shell/units'

describe('figures as people write them', () => {
  it.each([
    // one foot is 0.3048 m exactly (international yard and pound agreement, 1959)
    ["5'", 'm', 1.524],
    ['5 ft 6 in', 'm', 1.6764],
    ['39 cm', 'm', 0.39],
    ['1,5', 'm', 1.5],
    ['1/125', 's', 1 / 125],
    ['1/8', 'power', 0.125],
    ['f/5.6', 'f', 5.6],
    ['−0.7', 'stops', -0.7],
    ['45°', 'deg', 45],
  ])('%s in %s is %d', (text, unit, value) => {
    expect(read(text, unit)).toBeCloseTo(value, 9)
  })

  it.each(['', 'soft', '1/', '--3'])('%j is no number', (text) => {
    expect(read(text, 'stops')).toBeNull()
  })

  it('shows shutters as cameras do', () => {
    expect(shutter(1 / 125)).toBe('1/125')
    expect(shutter(0.5)).toBe('0.5')
    expect(shutter(1 / 8)).toBe('1/8.0')
    expect(shutter(4)).toBe('4')
  })

  it('gives differences a sign and nothing none', () => {
    expect(difference(0.5, 'stops')).toBe('+0.50')
    expect(difference(-0.5, 'stops')).toBe('−0.50')
    expect(difference(-0.001, 'stops')).toBe('0.00')
    expect(difference(1.2, '×')).toBe('1.20')
    expect(difference(12.4, '°')).toBe('+12')
  })

  it('writes what it reads', () => {
    for (const unit of ['m', 's', 'f', 'iso', 'deg', 'stops'])
      for (const v of [1, 5.6, 45]) expect((read(show(v, unit), unit) ?? 0) / v).toBeGreaterThan(0.9)
    expect(full(5.6, 'f')).toBe('f/5.6')
    expect(full(Number.NaN, 'm')).toBe('– m')
  })
})
