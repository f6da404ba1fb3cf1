// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { filesOf, isTyping, messageOf, withCommand } from '../src/shell/events'
import NumberField from '../src/shell/NumberField.vue'
import PickFiles from '../src/shell/PickFiles.vue'
import PickOne from '../src/shell/PickOne.vue'
import TextField from '../src/shell/TextField.vue'

const field = (props: Record<string, unknown>) => mount(NumberField, { props: { label: 'Gap, m', ...props }, attrs: { 'data-test': 'gap' } })
async function type(w: ReturnType<typeof field>, text: string) {
  const input = w.get('input')
  await input.trigger('focus')
  // sets the text and leaves it, as a browser does: input, then change
  await input.setValue(text)
  await input.trigger('blur')
}

describe('a field for a number', () => {
  it('is named by its label and hands over what was typed', async () => {
    const w = field({ value: 0.4 })
    expect(w.get('label').attributes('for')).toBe(w.get('input').attributes('id'))
    expect(w.get('input').attributes('data-test')).toBe('gap')
    await type(w, '0,5')
    expect(w.emitted('change')).toEqual([[0.5]])
  })

  it('keeps a word, says what is wanted and takes nothing', async () => {
    const w = field({ value: 0.4 })
    await type(w, 'half')
    expect(w.emitted('change')).toBeUndefined()
    expect(w.get('[role=alert]').text()).toContain('number')
    expect(w.get('input').element.value).toBe('half')
    await type(w, '0.2')
    expect(w.find('[role=alert]').exists()).toBe(false)
    expect(w.emitted('change')).toEqual([[0.2]])
  })

  it('holds to its range', async () => {
    const w = field({ value: 1, least: 0.1, most: 2 })
    await type(w, '0')
    expect(w.text()).toContain('At least 0.1')
    await type(w, '3')
    expect(w.text()).toContain('At most 2')
    expect(w.emitted('change')).toBeUndefined()
  })

  it('takes the value away when it is emptied, and says nothing when nothing changed', async () => {
    const w = field({ value: 1 })
    await type(w, '1.0')
    expect(w.emitted('change')).toBeUndefined()
    await type(w, '')
    expect(w.emitted('change')).toEqual([[null]])
  })

  it('follows its value while nobody is in it', async () => {
    const w = field({ value: 1, digits: 2 })
    await w.setProps({ value: 2.3456 })
    expect(w.get('input').element.value).toBe('2.35')
    await w.get('input').trigger('focus')
    await w.setProps({ value: 9 })
    expect(w.get('input').element.value).toBe('2.35')
  })
})

describe('one of several', () => {
  it('hands over only values that were offered', async () => {
    const w = mount(PickOne, { props: { value: 'white', options: ['white', 'silver'], none: 'none of them' } })
    expect(w.findAll('option').map((o) => o.text())).toEqual(['none of them', 'white', 'silver'])
    await w.get('select').setValue('silver')
    expect(w.emitted('pick')).toEqual([['silver']])
    await w.get('select').setValue('')
    expect(w.emitted('clear')).toHaveLength(1)
  })
})

describe('files', () => {
  it('are handed over once, and the field is emptied', async () => {
    const w = mount(PickFiles, { props: { label: 'Add', accept: 'image/*' }, attrs: { 'data-test': 'files' } })
    const input = w.get<HTMLInputElement>('input[type=file]')
    expect(input.attributes('data-test')).toBe('files')
    const file = new File(['x'], 'a.png', { type: 'image/png' })
    Object.defineProperty(input.element, 'files', { value: [file], configurable: true })
    await input.trigger('change')
    expect(w.emitted('files')).toEqual([[[file]]])
    expect(filesOf(new Event('change'))).toEqual([])
  })
})

describe('a field for text', () => {
  it('hands over what was typed when it is left', async () => {
    const w = mount(TextField, { props: { value: 'one' } })
    await w.get('input').setValue('two')
    await w.get('input').trigger('change')
    expect(w.emitted('change')?.at(-1)).toEqual(['two'])
    await w.setProps({ value: 'three' })
    await nextTick()
    expect(w.get('input').element.value).toBe('three')
  })
})

describe('keys', () => {
  const pressed = (on: string, with_: KeyboardEventInit = {}) => {
    const e = new KeyboardEvent('keydown', { key: 'n', ...with_ })
    Object.defineProperty(e, 'target', { value: document.createElement(on) })
    return e
  }
  it('belong to the field that has them', () => {
    for (const on of ['input', 'textarea', 'select']) expect(isTyping(pressed(on))).toBe(true)
    expect(isTyping(pressed('div'))).toBe(false)
    expect(isTyping(pressed('div', { altKey: true }))).toBe(true)
    expect(withCommand(pressed('div', { ctrlKey: true }))).toBe(true)
  })
  it('tells the sentence of whatever was thrown', () => {
    expect(messageOf(new Error('why'))).toBe('why')
    expect(messageOf('why')).toBe('why')
  })
})
