// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import type { Readings } from '../src/api/client'
import { useCase } from '../src/cases/case'
import ExposurePanel from '../src/look/ExposurePanel.vue'

const EXPOSURE = {
  median_stops_from_grey: -1.24,
  clipped_fraction: 0.0004,
  clipped_areas: [{ from: [0, 0], to: [9, 9], share: 0.0003 }],
  histogram: Array.from({ length: 20 }, (_, i) => (i === 9 ? 0.6 : 0.02)),
  zones: [{ name: 'skin', share: 0.12 }],
  ev100: 9.97,
  incident_lux: 2640.4,
  grey_luminance: 125,
}

function panel(exposure: object = EXPOSURE, settings: object | null = null) {
  const c = useCase()
  c.readings = { exposure } as unknown as Readings
  c.marks = { format: 'slant-marks/1', marks: [], ...(settings ? { exposure: settings } : {}) } as never
  const w = mount(ExposurePanel)
  const put = async (test: string, text: string) => {
    await w.get(`[data-test="${test}"]`).setValue(text)
    await w.get('form').trigger('change')
  }
  return { w, c, put }
}

describe('exposure of a picture', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('is told in stops from middle grey, with what is clipped', () => {
    const { w } = panel()
    const text = w.text()
    expect(text).toContain('Median −1.2 stops from middle grey')
    expect(text).toContain('under 0.1 % clipped, in 1 area')
    expect(text).toContain('EV 10.0 at ISO 100: right for 2640 lux')
    expect(w.findAll('.bar').length).toBe(20)
    // the tallest bar is where most of the picture lies, each titled by its half stop
    const heights = w.findAll('.bar').map((b) => Number(b.attributes('height')))
    expect(Math.max(...heights)).toBe(heights[9])
    expect(w.findAll('.bar')[9]?.text()).toContain('-1.5 to -1 stops: 60.0 %')
  })

  it('is set as on a camera: commas, fractions, seconds', async () => {
    const { c, put } = panel()
    await put('f-number', '5,6')
    await put('shutter', '1/125')
    // not before all three are there
    expect(c.marks.exposure).toBeUndefined()
    await put('iso', '400')
    expect(c.marks.exposure).toEqual({ f_number: 5.6, shutter_s: 1 / 125, iso: 400 })
    await put('shutter', '0.5 s')
    expect(c.marks.exposure?.shutter_s).toBe(0.5)
    await put('f-number', 'f/8')
    expect(c.marks.exposure?.f_number).toBe(8)
    expect(c.past.length).toBeGreaterThan(0)
  })

  it('is refused in words where a figure is none, and what was there stays', async () => {
    const { w, c, put } = panel(EXPOSURE, { f_number: 4, shutter_s: 0.01, iso: 100 })
    for (const [test, text] of [['f-number', 'wide'], ['shutter', '1/0'], ['shutter', '-1'], ['iso', '0']] as const) {
      await put(test, text)
      expect(w.get('[role=alert]').text()).toContain('above zero')
      expect(c.marks.exposure).toEqual({ f_number: 4, shutter_s: 0.01, iso: 100 })
      await put(test, { 'f-number': '4', shutter: '0.01', iso: '100' }[test])
      expect(w.find('[role=alert]').exists()).toBe(false)
    }
  })

  it('shows what the picture was taken with as a camera writes it, and is taken away when all three are emptied', async () => {
    const { w, c, put } = panel(EXPOSURE, { f_number: 4, shutter_s: 1 / 60, iso: 100 })
    expect(w.get<HTMLInputElement>('[data-test="shutter"]').element.value).toBe('1/60')
    await put('f-number', '')
    await put('shutter', '')
    expect(c.marks.exposure).toBeTruthy()
    await put('iso', '')
    expect(c.marks.exposure).toBeNull()
    c.marks = { ...c.marks, exposure: { f_number: 11, shutter_s: 2, iso: 50 } }
    await nextTick()
    expect(w.get<HTMLInputElement>('[data-test="shutter"]').element.value).toBe('2')
  })

  it('says when marked parts pull both ways: contrast is the matter then', () => {
    const { w } = panel({ ...EXPOSURE, correction: { stops: 0, agreed: false, ways: [] } })
    expect(w.get('[data-test="correction"]').text()).toContain('No exposure suits all marked parts')
    expect(w.get('[data-test="correction"]').text()).toContain('the contrast of the light is the matter')
  })

  it('says what to set for what would place every part', () => {
    const correction = { stops: 0.7, agreed: true, ways: [{ by: 'shutter', to: '1/80', also: 'more blur' }] }
    const { w } = panel({ ...EXPOSURE, correction })
    expect(w.get('[data-test="correction"]').text()).toContain('+0.7 stops would place every marked part')
    expect(w.get('[data-test="correction"] li').text()).toContain('shutter to 1/80: more blur')
  })

  it('says by how much a part lies off what is usual, with its spread', () => {
    const placed = { mark: 'forehead', stops_from_grey: 2.34, spread_stops: 0.02, usual_stops: [0.5, 1.5], says: 'light skin', off_stops: 0.8 }
    const { w } = panel({ ...EXPOSURE, placements: [placed, { ...placed, mark: 'chin', stops_from_grey: 1, off_stops: 0 }] })
    const [first, second] = w.findAll('[data-test="placements"] li').map((l) => l.text())
    // no spread is told as nought
    expect(first).toContain('+2.3 ± 0.1')
    expect(first).toContain('0.8 stops too bright')
    expect(second).not.toContain('too')
  })

  it('takes the curve that was declared, and keeps one of its own that marks bring', async () => {
    const { w, c } = panel()
    await w.get('[data-test="encoding"]').setValue('hlg')
    expect(c.marks.encoding).toBe('hlg')
    await w.get('[data-test="encoding"]').setValue('auto')
    expect(c.marks.encoding).toBeNull()
    c.marks = { ...c.marks, encoding: { gamma: 2.2 } }
    await nextTick()
    expect(w.get<HTMLSelectElement>('[data-test="encoding"]').element.value).toBe('own')
  })
})
