// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Readings } from '../src/api/client'
import { useCase } from '../src/cases/case'
import SunPanel from '../src/look/SunPanel.vue'

const SUN = { says: 'The key may be the sun.', height_deg: 33.4, compass_deg: 214, azimuth_deg: -42, direction_sd_deg: 8, key_height_deg: 31, day_height_deg: Array.from({ length: 97 }, (_, i) => 50 * Math.sin((Math.PI * i) / 96) - 20), as_high: [{ clock: '10:12', sd_minutes: 9, lens_heading_deg: 95 }] }

function panel(sun: object | null = null, facts: object | null = null) {
  const c = useCase()
  c.readings = { sun } as unknown as Readings
  c.marks = { format: 'slant-marks/1', marks: [], ...(facts ? { sun: facts } : {}) } as never
  const w = mount(SunPanel, { global: { stubs: { TermHint: { template: '<span><slot /></span>' } } } })
  const put = async (values: Record<string, string>) => {
    for (const [name, v] of Object.entries(values)) await w.get(`[data-test="sun-${name}"]`).setValue(v)
    await w.get('form').trigger('change')
  }
  return { w, c, put }
}
const VIENNA = { latitude: '48,2', longitude: '16.4°', day: '2026-06-21', time: '16:20' }

describe('the sun by place and time', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('is asked for once place, day and time are there', async () => {
    const { c, put } = panel()
    await put({ latitude: '48,2', longitude: '16.4°' })
    expect(c.marks.sun).toBeUndefined()
    await put({ day: '2026-06-21', time: '16:20' })
    expect(c.marks.sun).toEqual({ latitude_deg: 48.2, longitude_deg: 16.4, at: '2026-06-21T16:20:00+00:00', lens_heading_deg: null, lens_heading_sd_deg: null })
    await put({ heading: '200', offset: '+02:00' })
    expect(c.marks.sun).toMatchObject({ at: '2026-06-21T16:20:00+02:00', lens_heading_deg: 200 })
  })

  it('names what is no place and no heading, and keeps what was there', async () => {
    const { w, c, put } = panel()
    await put(VIENNA)
    const before = JSON.stringify(c.marks.sun)
    for (const [name, text, says] of [
      ['latitude', '95', 'degrees north from -90 to 90'],
      ['latitude', 'Vienna', 'degrees north'],
      ['longitude', '-190', 'degrees east'],
      ['heading', '400', '0 to 360'],
      ['heading', 'south', '0 to 360'],
      ['sure', '-3', 'How sure the compass is'],
    ] as const) {
      const good = { latitude: '48.2', longitude: '16.4', heading: '', sure: '' }[name]
      await put({ [name]: text })
      expect(w.get('[role=alert]').text(), text).toContain(says)
      expect(JSON.stringify(c.marks.sun)).toBe(before)
      await put({ [name]: good })
      expect(w.find('[role=alert]').exists()).toBe(false)
    }
  })

  it('takes south and west, and the poles', async () => {
    const { c, put } = panel()
    await put({ ...VIENNA, latitude: '-33.9', longitude: '-70' })
    expect(c.marks.sun).toMatchObject({ latitude_deg: -33.9, longitude_deg: -70 })
    await put({ latitude: '90' })
    expect(c.marks.sun).toMatchObject({ latitude_deg: 90 })
  })

  it('is taken away when its fields are emptied', async () => {
    const { c, put } = panel()
    await put(VIENNA)
    await put({ latitude: '', longitude: '', day: '', time: '' })
    expect(c.marks.sun).toBeNull()
  })

  it('shows what was typed before, whatever its clock', () => {
    const { w } = panel(null, { latitude_deg: 1.5, longitude_deg: 2, at: '2026-01-02T03:04:05+05:30', lens_heading_deg: 10, lens_heading_sd_deg: null })
    const value = (name: string) => w.get<HTMLInputElement>(`[data-test="sun-${name}"]`).element.value
    expect(['latitude', 'day', 'time', 'offset', 'heading', 'sure'].map(value)).toEqual(['1.5', '2026-01-02', '03:04', '+05:30', '10', ''])
    const utc = panel(null, { latitude_deg: 1, longitude_deg: 2, at: '2026-01-02T03:04:05Z' })
    expect(utc.w.get<HTMLSelectElement>('[data-test="sun-offset"]').element.value).toBe('+00:00')
  })

  it('says where it stands, when it stands so again, and never to look into it', () => {
    const { w } = panel(SUN, { latitude_deg: 48, longitude_deg: 16, at: '2026-06-21T16:00:00+02:00' })
    const text = w.get('[data-test="sun"]').text()
    expect(text).toContain('from the lens 42° left ± 8.0°')
    expect(w.get('[data-test="sun-times"]').text()).toContain('10:12 ± 9 min')
    expect(text).toContain('Never look into the sun')
    // the line of now stands at its hour: four units an hour
    expect(w.get('.now').attributes('x1')).toBe('64')
    expect(w.get('.key').attributes('y1')).toBe('-31')
  })

  it('says so where it never stands as high as the key', () => {
    const { w } = panel({ ...SUN, as_high: [] }, { latitude_deg: 48, longitude_deg: 16, at: '2026-06-21T16:00:00+02:00' })
    expect(w.text()).toContain('never stands as high as the key (31° up)')
  })
})
