// @vitest-environment happy-dom
import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { FakeServer } from './fakes/server'

const server = vi.hoisted(() => ({ it: null as unknown as FakeServer }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  server.it = new FakeServer()
  return { ...(await original<object>()), api: server.it.api, mendings: async () => {} }
})
const { default: RemarksPanel } = await import('../src/verdict/RemarksPanel.vue')
const { useVerdict } = await import('../src/verdict/verdict')
const { useCase } = await import('../src/cases/case')

const remark = (id: string, more: object = {}) => ({ id, author: 'Ilse', mine: false, stance: 'note', rule: null, text: `text of ${id}`, pin: null, ...more })
const POST = 'POST /api/frames/{id}/remarks'
const stubs = { PhrasesEditor: true, BDropdown: { template: '<div><slot /></div>' }, BDropdownItemButton: { emits: ['click'], template: '<button type="button" class="phrase" @click="$emit(\'click\')"><slot /></button>' }, BDropdownDivider: true }

async function panel(remarks: object[] = [], pin: [number, number] | null = null) {
  setActivePinia(createPinia())
  server.it
    .on('GET /api/frames/{id}/verdict', () => ({ brief: 'b', findings: [{ rule: 'chin', title: 'Shadow under the chin', outcome: 'fault', says: '' }] }))
    .on('GET /api/briefs', () => [])
    .on('GET /api/frames/{id}/remarks', () => remarks)
    .on('GET /api/frames/{id}/phrases', () => ['The key is ± 3°.', 'Look at the chin.'])
    .on(POST, (body) => [...remarks, remark('new', { ...(body as object), mine: true })])
    .on('PUT /api/frames/{id}/remarks/{remark}', (body, { path }) => remarks.map((r) => ((r as { id: string }).id === path?.remark ? { ...r, ...(body as object) } : r)))
    .on('DELETE /api/frames/{id}/remarks/{remark}', (_, { path }) => remarks.filter((r) => (r as { id: string }).id !== path?.remark))
  useCase().view = { id: 'c', frames: [{ id: 'f', role: 'reference', facts: { width: 1, height: 1 } }] } as never
  await useVerdict().load('f')
  const w = mount(RemarksPanel, { props: { pin, placing: false, 'onUpdate:pin': (p: unknown) => w.setProps({ pin: p as never }), 'onUpdate:placing': (p: unknown) => w.setProps({ placing: p as boolean }) }, global: { stubs } })
  await flushPromises()
  const text = () => w.get<HTMLTextAreaElement>('[data-test="remark-text"]')
  return { w, text }
}

describe('remarks of people', () => {
  beforeEach(() => server.it.reset())

  it('are said with a pin, and the field is free again', async () => {
    const { w, text } = await panel([], [0.4, 0.6])
    expect(w.get('[data-test="remark-say"]').attributes('disabled')).toBeDefined()
    await text().setValue('Too deep')
    await w.get('form').trigger('submit')
    await flushPromises()
    expect(server.it.calls(POST)[0]?.body).toEqual({ stance: 'note', rule: null, text: 'Too deep', pin: [0.4, 0.6] })
    expect(text().element.value).toBe('')
    expect(w.props('pin')).toBeNull()
    expect(w.findAll('[data-test="remark"]').length).toBe(1)
  })

  it('lose nothing that was typed where they cannot be kept', async () => {
    const { w, text } = await panel([], [0.1, 0.2])
    server.it.on(POST, () => {
      throw new Error('The server cannot be reached.')
    })
    await text().setValue('Too deep')
    await w.get('form').trigger('submit')
    await flushPromises()
    expect(w.get('[role=alert]').text()).toContain('reached')
    expect(text().element.value).toBe('Too deep')
    expect(w.props('pin')).toEqual([0.1, 0.2])
  })

  it('take phrases of the book after what was typed', async () => {
    const { w, text } = await panel()
    await text().setValue('Good. ')
    const phrases = w.findAll('.phrase')
    await phrases[1]?.trigger('click')
    await phrases[0]?.trigger('click')
    expect(text().element.value).toBe('Good. Look at the chin. The key is ± 3°.')
  })

  it('are changed by who said them, keeping stance, rule and pin', async () => {
    const { w, text } = await panel([remark('a', { mine: true, stance: 'disagrees', rule: 'chin', pin: [0.5, 0.5] }), remark('b')])
    const change = w.findAll('button').filter((b) => b.text() === 'Change')
    expect(change.length).toBe(1)
    await change[0]?.trigger('click')
    expect(text().element.value).toBe('text of a')
    await text().setValue('It is meant.')
    await w.get('form').trigger('submit')
    await flushPromises()
    const put = server.it.calls('PUT /api/frames/{id}/remarks/{remark}')[0]
    expect(put?.path).toEqual({ id: 'f', remark: 'a' })
    expect(put?.body).toEqual({ stance: 'disagrees', rule: 'chin', text: 'It is meant.', pin: [0.5, 0.5] })
    expect(server.it.calls(POST)).toEqual([])
  })

  it('are left as they were where one thinks better of it', async () => {
    const { w, text } = await panel([remark('a', { mine: true })])
    await w.findAll('button').find((b) => b.text() === 'Change')?.trigger('click')
    await text().setValue('else')
    await w.findAll('button').find((b) => b.text() === 'Leave it')?.trigger('click')
    expect(text().element.value).toBe('')
    expect(server.it.asked.some((a) => a.call.startsWith('PUT'))).toBe(false)
  })

  it('name who said what of which finding, in any writing', async () => {
    const { w } = await panel([remark('a', { author: 'נועה', stance: 'agrees', rule: 'chin', text: 'כן' }), remark('b', { rule: 'gone' })])
    const [first, second] = w.findAll('[data-test="remark"]')
    expect(first?.text()).toContain('agrees Shadow under the chin')
    expect(first?.findAll('bdi').map((b) => b.text())).toEqual(['נועה', 'כן'])
    expect(first?.attributes('dir')).toBe('auto')
    expect(first?.get('.sign').text()).toBe('A')
    // a rule that is no more is named by itself
    expect(second?.text()).toContain('gone')
  })

  it('show two hundred, each with its sign', async () => {
    const { w } = await panel(Array.from({ length: 200 }, (_, i) => remark(`r${i}`)))
    const signs = w.findAll('.sign').map((s) => s.text())
    expect(signs.length).toBe(200)
    expect(new Set(signs).size).toBe(200)
    expect(signs.at(-1)).toBe('GR')
  })

  it('are taken away, or stay where that fails', async () => {
    const { w } = await panel([remark('a', { mine: true }), remark('b')])
    server.it.on('DELETE /api/frames/{id}/remarks/{remark}', () => {
      throw new Error('Not now.')
    })
    await w.get('[aria-label="Remove remark A"]').trigger('click')
    await flushPromises()
    expect(w.get('[role=alert]').text()).toBe('Not now.')
    expect(w.findAll('[data-test="remark"]').length).toBe(2)
  })
})
