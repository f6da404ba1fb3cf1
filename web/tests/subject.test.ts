// @vitest-environment happy-dom
// What stands before the lens: kinds, a box of any size, people.
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import SubjectEditor from '../src/rebuild/SubjectEditor.vue'
import type { LightSet } from '../src/api/client'

type Subject = LightSet['subjects'][number]
const shown = (subject: Partial<Subject>) => mount(SubjectEditor, { props: { subject: { kind: 'carton', ...subject } as Subject } })
type Shown = ReturnType<typeof shown>
const field = (w: Shown, name: string) => {
  const found = w.find(`[data-test=${name}]`)
  return found.element.tagName === 'INPUT' ? found : found.find('input')
}
const told = (w: Shown) => w.emitted('edit')?.at(-1)?.[0]

describe('a box of any size', () => {
  it('shows its sides in centimetres, those of a usual one without a size of its own', () => {
    const plain = shown({})
    expect(['wide', 'high', 'deep'].map((k) => (field(plain, `box-${k}`).element as HTMLInputElement).value)).toEqual(['16', '10', '6'])
    const own = shown({ size_m: [0.3, 0.05, 0.2], scale: 2 })
    expect(['wide', 'high', 'deep'].map((k) => (field(own, `box-${k}`).element as HTMLInputElement).value)).toEqual(['60', '10', '40'])
  })
  it('keeps the other sides when one is given, and counts its scale', async () => {
    const w = shown({ size_m: [0.3, 0.05, 0.2], scale: 2 })
    await field(w, 'box-high').setValue('24')
    expect(told(w)).toEqual({ size_m: [0.3, 0.12, 0.2] })
  })
  it('is not asked of other things, and goes when another thing is chosen', async () => {
    expect(shown({ kind: 'bottle' }).find('[data-test=box-wide]').exists()).toBe(false)
    const w = shown({ size_m: [0.3, 0.05, 0.2] })
    const kinds = w.find('[data-test=subject]')
    await (kinds.element.tagName === 'SELECT' ? kinds : kinds.find('select')).setValue('can')
    expect(told(w)).toMatchObject({ kind: 'can', size_m: null })
  })
})

describe('a person', () => {
  it('becomes somebody else with a head and hair of their own', async () => {
    const w = shown({ kind: 'person', person: { number: 999, shape: [1, 2], hair: 'bald' } })
    await w.find('[data-test=another]').trigger('click')
    expect(told(w)).toEqual({ colour: null, person: { number: 0, shape: [], hair: null } })
  })
  it('nods up where the set counts down', async () => {
    const w = shown({ kind: 'person', pitch_deg: 4 })
    expect((field(w, 'nod').element as HTMLInputElement).value).toBe('-4')
    await field(w, 'nod').setValue('6')
    expect(told(w)).toEqual({ pitch_deg: -6 })
  })
})
