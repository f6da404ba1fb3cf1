// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { LightMeter, SetLight } from '../src/api/client'
import LightEditor from '../src/rebuild/LightEditor.vue'
import { lengthWrong, toMetres } from '../src/rebuild/drawing'

const LIGHT: SetLight = { name: 'key softbox', azimuth_deg: -45, elevation_deg: 30, distance_m: 1.5, source: { kind: 'rectangle', width_m: 0.6, height_m: 0.9 }, level: { stops: 0 } }
const METER = { name: 'key softbox', role: 'key', f_number: 8, azimuth_deg: -45, elevation_deg: 30, position_m: [-0.92, 0.75, 0.92], angular_size_deg: 28, feather_deg: 0, notations: { stops: 0, lux: 1250.4, guide_number_m: 12.34, joules: 96.55 } } as unknown as LightMeter

function editor(light: Partial<SetLight> = {}, more: object = {}) {
  const w = mount(LightEditor, { props: { light: { ...LIGHT, ...light }, meter: METER, plan: null, units: 'm' as const, floor: 1.5, here: false, others: ['fill'], ...more } })
  const put = async (test: string, text: string) => {
    // as a browser does: input, then change
    await w.get(`[data-test="${test}"]`).setValue(text)
  }
  const last = () => w.emitted<[Partial<SetLight>]>('edit')?.at(-1)?.[0]
  return { w, put, last }
}

describe('a length that is typed', () => {
  it('is in the units that are shown, or in its own', () => {
    expect(toMetres('1,25', 'm')).toBe(1.25)
    expect(toMetres(' 6 ', 'ft')).toBeCloseTo(1.8288, 9)
    expect(toMetres('90 cm', 'ft')).toBeCloseTo(0.9, 9)
    expect(toMetres("6' 2\"", 'm')).toBeCloseTo(1.8796, 9)
    expect(toMetres('1.2 m', 'ft')).toBeCloseTo(1.2, 9)
    expect(toMetres('−0.4', 'm')).toBe(-0.4)
  })
  it('is none where nothing, or a word, was typed: never nought', () => {
    for (const text of ['', '  ', 'near', '-', '.']) {
      expect(toMetres(text, 'm')).toBeNaN()
      expect(toMetres(text, 'ft')).toBeNaN()
      expect(lengthWrong(text, 'm')).not.toBe('')
    }
    expect(lengthWrong('0', 'm', 0)).toContain('above nought')
    expect(lengthWrong('-1', 'm')).toBe('')
  })
})

describe('a light of the set', () => {
  it('says where it stands and what a meter shows', () => {
    const { w } = editor()
    expect(w.get('[data-test="light-meter"]').text()).toBe('f/8.0 alone')
    expect(w.get('[data-test="stand"]').text()).toContain('1.30 m along the floor, 2.25 m high')
    expect(w.get('[data-test="stand"]').text()).toContain('fills 28°')
  })

  it('turns round the subject, the other two staying as they are', async () => {
    const { put, last } = editor({ position_m: [-0.92, 0.75, 0.92] })
    await put('azimuth', '60°')
    expect(last()).toMatchObject({ position_m: null, azimuth_deg: 60, elevation_deg: 30 })
    expect(last()?.distance_m).toBeCloseTo(1.503, 2)
    await put('elevation', '−10')
    expect(last()).toMatchObject({ azimuth_deg: -45, elevation_deg: -10 })
    await put('distance', '2,4')
    expect(last()).toMatchObject({ azimuth_deg: -45, elevation_deg: 30, distance_m: 2.4 })
  })

  it('stays where it is when a field is emptied, and says what is wanted', async () => {
    const { w, put } = editor()
    for (const [test, text, says] of [
      ['azimuth', '', 'Degrees'],
      ['elevation', 'high', 'Degrees'],
      ['distance', '', 'above nought'],
      ['distance', '0', 'above nought'],
      ['size-width_m', '', 'above nought'],
      ['size-height_m', '-1', 'above nought'],
      ['aim-up', 'up', 'length'],
    ] as const) {
      await put(test, text)
      expect(w.emitted('edit'), test).toBeUndefined()
      expect(w.get('[data-test="light-problem"]').text()).toContain(says)
      expect(w.get(`[data-test="${test}"]`).attributes('aria-invalid')).toBe('true')
      // what was typed is still there to be mended
      expect(w.get<HTMLInputElement>(`[data-test="${test}"]`).element.value).toBe(text)
    }
    await put('distance', '1.8')
    expect(w.find('[data-test="light-problem"]').exists()).toBe(false)
    expect(w.emitted('edit')?.length).toBe(1)
  })

  it('has its sizes in feet where feet are shown', async () => {
    const { w, put, last } = editor({}, { units: 'ft' })
    expect(w.get<HTMLInputElement>('[data-test="size-width_m"]').element.value).toBe('1.97')
    await put('size-width_m', '2')
    expect(last()?.source).toMatchObject({ kind: 'rectangle', height_m: 0.9 })
    expect((last()?.source as { width_m: number }).width_m).toBeCloseTo(0.6096, 6)
  })

  it('is the same light in another notation: the meter says how much that is', async () => {
    const { w, last } = editor()
    const notation = w.get('[data-test="notation"]')
    await notation.setValue('lux')
    expect(last()).toEqual({ level: { lux: 1250 } })
    await notation.setValue('joules')
    expect(last()).toEqual({ level: { joules: 96.55, power: undefined } })
    expect(w.emitted('grab')?.length).toBe(2)
  })

  it('keeps the power of a flash when its energy changes, and takes none that is nothing', async () => {
    const { w, put, last } = editor({ level: { joules: 400, power: '1/4' } })
    await put('level-joules', '200')
    expect(last()).toEqual({ level: { joules: 200, power: '1/4' } })
    await put('level-joules', '0')
    await put('level-joules', '')
    expect(w.emitted('edit')?.length).toBe(1)
    await put('level-power', '  ')
    expect(last()).toEqual({ level: { joules: 400, power: null } })
  })

  it('follows the slider, one undo for a pull', async () => {
    const { w } = editor()
    const slider = w.get('[data-test="level"]')
    await slider.trigger('pointerdown')
    await slider.setValue('-1.5')
    await slider.setValue('-2')
    expect(w.emitted('grab')?.length).toBe(1)
    expect(w.emitted<[Partial<SetLight>]>('edit')?.at(-1)?.[0]).toEqual({ level: { stops: -2 } })
  })

  it('is for something else under a name that says so and that no other has', async () => {
    const { w, last } = editor()
    await w.get('[data-test="role"]').setValue('fill')
    expect(last()).toEqual({ name: 'fill softbox' })
    await w.get('[data-test="name"]').setValue('fill')
    expect(last()).toEqual({ name: 'fill 2' })
  })

  it('gets sheets, at most two, each with gap, place and share', async () => {
    const { w, put, last } = editor({ scrims: [{ gap_m: 0.5, width_m: 1.5, height_m: 1.5, transmission: 0.5 }] })
    await put('gap-0', '80 cm')
    expect(last()?.scrims?.[0]).toMatchObject({ gap_m: 0.8, transmission: 0.5 })
    await put('aside-0', '-0.3')
    expect(last()?.scrims?.[0]).toMatchObject({ aside_m: -0.3, gap_m: 0.5 })
    await put('share-0', '250 %')
    expect(last()?.scrims?.[0]?.transmission).toBe(1)
    const edits = w.emitted('edit')?.length
    await put('gap-0', '')
    await put('share-0', '0')
    expect(w.emitted('edit')?.length).toBe(edits)
    await w.get('[data-test="add-sheet"]').trigger('click')
    expect(last()?.scrims?.length).toBe(2)
    await w.setProps({ light: { ...LIGHT, scrims: last()?.scrims } })
    expect(w.find('[data-test="add-sheet"]').exists()).toBe(false)
  })

  it('is switched off and on, and is off by its word', async () => {
    const { w, last } = editor({ off: true })
    expect(w.get('[data-test="light-meter"]').text()).toBe('off')
    await w.get('[data-test="light-on"]').setValue(true)
    expect(last()).toEqual({ off: false })
  })

  it('is aimed at the subject again from beside it', async () => {
    const { w, put, last } = editor({ aim_m: [0.2, 0, 0.1] }, { meter: { ...METER, feather_deg: 12 } })
    await put('aim-up', '0.5')
    expect(last()).toEqual({ aim_m: [0.2, 0.5, 0.1] })
    await w.findAll('button').find((b) => b.text() === 'At the subject')?.trigger('click')
    expect(last()).toEqual({ aim_m: [0, 0, 0] })
  })
})
