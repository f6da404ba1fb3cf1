import { describe, expect, it } from 'vitest'
import { factorsOf, gainsOf, isIn, paced } from '../src/plates/mixer'

describe('which plates are in the mix', () => {
  it('leaves out what is out, and with one alone all others', () => {
    const plates = [{ solo: false }, { mute: true }, { solo: true }, { solo: true, mute: true }]
    expect(plates.map((_, k) => isIn(plates, k))).toEqual([false, false, true, false])
    expect([{}, { mute: true }].map((_, k) => isIn([{}, { mute: true }], k))).toEqual([true, false])
    expect(isIn([], 0)).toBe(false)
  })
  it('counts stops as factors of two and colours as the server has them', () => {
    const tints = [{ mired: 100, rgb: [1.3, 1, 0.6] as [number, number, number] }]
    const [half, out, warm] = factorsOf([{ stops: -1 }, { mute: true }, { stops: 1, mired: 100 }], tints)
    expect(half).toEqual([0.5, 0.5, 0.5])
    expect(out).toEqual([0, 0, 0])
    expect(warm).toEqual([2.6, 2, 1.2])
  })
})

describe('a mix that follows the hand', () => {
  it('is drawn smaller where frames are late, and whole again where there is time', () => {
    // seven frames a second at full size: pixels cost, so that frames take their share of that
    let scale = 1
    for (let k = 0; k < 40; k++) scale = paced(scale, 143 * scale * scale)
    expect(scale).toBeLessThan(0.55)
    expect(143 * scale * scale).toBeLessThan(1.2 * (1000 / 30))
    for (let k = 0; k < 40; k++) scale = paced(scale, 4)
    expect(scale).toBe(1)
  })
  it('never gets smaller than a quarter, and rests where it keeps pace', () => {
    let scale = 1
    for (let k = 0; k < 40; k++) scale = paced(scale, 500)
    expect(scale).toBe(0.25)
    expect(paced(0.6, 30)).toBe(0.6)
  })
})

describe('plates that were exposed otherwise', () => {
  const exposed = [{ frame: 'b', stops: 1 }, { frame: 'dark', stops: -2 }]
  it('are brought to the exposure of the others, the dark frame too', () => {
    expect(gainsOf(['a', 'b', 'dark'], exposed, false)).toEqual([1, 0.5, 4])
    expect(gainsOf(['a', null], exposed, false)).toEqual([1, 1])
  })
  it('stay as they were taken where that is wanted', () => {
    expect(gainsOf(['a', 'b', 'dark'], exposed, true)).toEqual([1, 1, 1])
  })
})
