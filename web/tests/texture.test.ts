import { describe, expect, it } from 'vitest'
import { upClose } from '../src/look/texture'

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
