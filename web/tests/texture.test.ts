import { describe, expect, it } from 'vitest'
import { framed, upClose } from '../src/look/texture'

const t = { noise_percent: 0.83, blocks_percent: 0.02, edge_permille: 2.04, subject_edge_permille: 2.5, subject: 'e', smear_permille: 0.4, smear_deg: 0, pixel_permille: 0.63 }

describe('a picture up close', () => {
  it('says what was measured with its unit', () => {
    expect(upClose(t)).toBe('Noise 0.8 % of the range. No blocks of compression. Sharpest edges 2.0 thousandths of the longer side wide (± 0.6). At the subject 2.5.')
  })
  it('says a smear only where it is more than a pixel and a half', () => {
    expect(upClose({ ...t, smear_permille: 9, smear_deg: 90 })).toContain('9.0 thousandths wider upright')
    expect(upClose({ ...t, edge_permille: null })).toContain('Too few clear edges')
  })
  it('says nothing of what was not measured', () => {
    expect(upClose(null)).toBe('')
  })
})

describe('how level and upright lines lie', () => {
  const at: [number, number] = [10, 20]
  it('says which way and how sure', () => {
    expect(framed({ level: { tilt_deg: -2.31, tilt_sd_deg: 0.1, at, lines: 1 } })).toBe('The longest level line falls to the left by 2.3 ± 0.1°.')
    expect(framed({ upright: { tilt_deg: 1.5, tilt_sd_deg: 0.2, at, lines: 2 }, converging_deg: 4, converging_sd_deg: 0.3 })).toBe(
      'Uprights lean to the right by 1.5 ± 0.2°. They meet above: the camera looks up (4.0 ± 0.3°).',
    )
  })
  it('says nothing of what is not there, and level of what lies within its spread', () => {
    expect(framed(undefined)).toBe('')
    expect(framed({ level: { tilt_deg: 0.1, tilt_sd_deg: 0.1, at, lines: 1 }, converging_deg: 0.1, converging_sd_deg: 0.3 })).toBe('The longest level line is level (± 0.1°).')
  })
})
