import { describe, expect, it } from 'vitest'
import { factorsOf, isIn } from '../src/plates/mixer'
import { gelOf } from '../src/rebuild/gels'

describe('which plates are in the mix', () => {
  it('leaves out what is out, and with one alone all others', () => {
    const plates = [{ solo: false }, { mute: true }, { solo: true }, { solo: true, mute: true }]
    expect(plates.map((_, k) => isIn(plates, k))).toEqual([false, false, true, false])
    expect([{}, { mute: true }].map((_, k) => isIn([{}, { mute: true }], k))).toEqual([true, false])
    expect(isIn([], 0)).toBe(false)
  })
  it('counts stops as factors of two and a warmer colour as more red than blue', () => {
    const [half, out, warm] = factorsOf([{ stops: -1 }, { mute: true }, { mired: 100 }])
    expect(half).toEqual([0.5, 0.5, 0.5])
    expect(out).toEqual([0, 0, 0])
    expect(warm?.[0]).toBeGreaterThan(1)
    expect(warm?.[2]).toBeLessThan(1)
    expect(warm?.[1]).toBe(1)
  })
})

describe('the filter a light wears', () => {
  const table = [
    { id: 'blue', name: 'full blue', mired: -137, loss_stops: 1.5 },
    { id: 'red', name: 'red', mired: 0, rgb: [1, 0.03, 0.02] as [number, number, number], loss_stops: 3.2 },
  ]
  const light = { name: 'key', source: { kind: 'disc', diameter_m: 0.5 }, level: { stops: 0 } } as const
  it('is found by its shift or its colour, and none is none', () => {
    expect(gelOf(table, { ...light, gel_mired: -137 })?.id).toBe('blue')
    expect(gelOf(table, { ...light, gel_rgb: [1, 0.03, 0.02] })?.id).toBe('red')
    expect(gelOf(table, { ...light, gel_mired: 0 })).toBeUndefined()
    expect(gelOf(table, { ...light, gel_mired: -100 })).toBeUndefined()
  })
})
