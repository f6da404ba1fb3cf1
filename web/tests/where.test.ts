import { describe, expect, it } from 'vitest'
import { few, side, tenths, up } from '../src/read/where'

describe('directions in few words', () => {
  it('says a side and a height, and neither where there is none', () => {
    expect([side(-35.4), side(12), side(0.3), side(-0.3)]).toEqual(['35° left', '12° right', 'on the axis', 'on the axis'])
    expect([up(41.2), up(-9.6), up(0.2)]).toEqual(['41° up', '10° down', 'level'])
  })
  it('writes small spreads to a tenth and large ones whole', () => {
    expect([few(0.04), few(9.94), few(12.4)]).toEqual(['0.0', '9.9', '12'])
  })
  it('writes nothing without a sign', () => {
    expect([tenths(-0.04), tenths(0.04), tenths(-0.06), tenths(-1.25), tenths(2)]).toEqual(['0.0', '0.0', '-0.1', (-1.25).toFixed(1), '2.0'])
  })
})
