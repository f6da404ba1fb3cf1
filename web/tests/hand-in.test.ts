// @vitest-environment happy-dom
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { AssignmentView } from '../src/api/client'
import type { FakeServer } from './fakes/server'

const held = vi.hoisted(() => ({ server: null as unknown as FakeServer, went: [] as unknown[], sent: null as unknown as (c: string) => Promise<{ id: string }> }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  held.server = new FakeServer()
  return { ...(await original<object>()), api: held.server.api, upload: (c: string) => held.sent(c) }
})
vi.mock('vue-router', () => ({ useRouter: () => ({ push: async (to: unknown) => void held.went.push(to) }), RouterLink: { template: '<a><slot /></a>' } }))
const { default: HandIn } = await import('../src/class/HandIn.vue')

const OF = { id: 'a', mine: null, brief: { id: 'low_key', based_on: null }, assignment: { title: 'A low key', again: true, groups: false, hand_in: { takes: 3, paragraph: true } } } as unknown as AssignmentView
const PUT = 'PUT /api/assignments/{id}/draft'
const stubs = { PeerTasks: true, SubmissionCard: true, BFormRadioGroup: { template: '<div><slot /></div>' }, BFormRadio: { props: ['value'], template: '<label><slot /></label>' } }

async function page(of: AssignmentView = OF) {
  const w = mount(HandIn, { props: { of }, global: { stubs } })
  await flushPromises()
  return w
}
async function choose(w: Awaited<ReturnType<typeof page>>) {
  const input = w.get<HTMLInputElement>('input[type=file]')
  Object.defineProperty(input.element, 'files', { value: [new File(['x'], 'a.jpg')], configurable: true })
  await input.trigger('change')
  await flushPromises()
}

describe('a picture that is handed in', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    held.server.reset()
    held.went.length = 0
    held.sent = async () => ({ id: 'sent' })
    held.server
      .on('GET /api/cases', () => [{ id: 'c', title: 'Scene', frame_id: 'f' }, { id: 'empty', title: 'Empty', frame_id: null }])
      .on('GET /api/assignments/{id}/draft', () => null)
      .on(PUT, () => ({}))
      .on('POST /api/cases', () => ({ id: 'new' }))
      .on('DELETE /api/cases/{id}', () => ({}))
      .on('POST /api/assignments/{id}/submissions', () => ({}))
  })
  afterEach(() => void vi.useRealTimers())

  it('says what has to go with it, and offers the cases that have one', async () => {
    const w = await page()
    expect(w.text()).toContain('With it go at least 3 takes, a paragraph.')
    expect(w.findAll('[data-test="hand-in-case"]').length).toBe(1)
    expect(w.get('[data-test="hand-in"]').attributes('disabled')).toBeDefined()
  })

  it('keeps what is begun, once it rests, and at once where the page is left', async () => {
    const w = await page()
    const words = w.get('[data-test="hand-in-words"]')
    await words.setValue('I tr')
    await vi.advanceTimersByTimeAsync(300)
    await words.setValue('I tried')
    await vi.advanceTimersByTimeAsync(500)
    expect(held.server.calls(PUT).length).toBe(0)
    await vi.advanceTimersByTimeAsync(400)
    expect(held.server.calls(PUT).map((a) => (a.body as { paragraph: string }).paragraph)).toEqual(['I tried'])
    expect(w.get('[data-test="draft-kept"]').text()).toContain('Nobody else sees it')
    await words.setValue('I tried it twice')
    w.unmount()
    await flushPromises()
    expect((held.server.calls(PUT).at(-1)?.body as { paragraph: string }).paragraph).toBe('I tried it twice')
  })

  it('begins where the draft was left', async () => {
    held.server.on('GET /api/assignments/{id}/draft', () => ({ frame: 'f', paragraph: 'half', may_show: true, who: 'Lin' }))
    const w = await page()
    expect(w.get<HTMLTextAreaElement>('[data-test="hand-in-words"]').element.value).toBe('half')
    await vi.advanceTimersByTimeAsync(3000)
    // what was only loaded is not kept again
    expect(held.server.calls(PUT).length).toBe(0)
    await w.get('form').trigger('submit')
    await flushPromises()
    expect(held.server.calls('POST /api/assignments/{id}/submissions')[0]?.body).toEqual({ frame: 'f', paragraph: 'half', may_show: true, who: 'Lin' })
    expect(w.emitted('changed')?.length).toBe(1)
  })

  it('makes a case of a new picture, keeps it in the draft and leads to Read', async () => {
    const w = await page()
    await w.get('[data-test="hand-in-words"]').setValue('mine')
    await choose(w)
    expect(held.server.calls('POST /api/cases')[0]?.body).toEqual({ title: 'A low key', brief: 'low_key' })
    expect(held.server.calls(PUT).map((a) => a.body)).toEqual([{ frame: 'sent', paragraph: 'mine', may_show: false, who: '' }])
    expect(held.went).toEqual([{ name: 'read', params: { caseId: 'new' } }])
    await vi.advanceTimersByTimeAsync(3000)
    // the pause that was running does not put the draft back as it was
    expect(held.server.calls(PUT).length).toBe(1)
  })

  it('leaves no empty case behind where a file is no picture', async () => {
    held.sent = async () => {
      throw new Error('This is no picture.')
    }
    const w = await page()
    await choose(w)
    expect(w.get('[data-test="hand-in-problem"]').text()).toBe('This is no picture.')
    expect(held.server.calls('DELETE /api/cases/{id}').map((a) => a.path.id)).toEqual(['new'])
    expect(held.went).toEqual([])
  })

  it('keeps the case where only the draft could not be kept', async () => {
    held.server.on(PUT, () => {
      throw new Error('The server cannot be reached.')
    })
    const w = await page()
    await choose(w)
    expect(held.server.calls('DELETE /api/cases/{id}').length).toBe(0)
    expect(w.get('[data-test="hand-in-problem"]').text()).toContain('reached')
  })

  it('says why it was not taken, and can be handed in again', async () => {
    held.server.on('GET /api/assignments/{id}/draft', () => ({ frame: 'f', paragraph: '', may_show: false, who: '' }))
    held.server.on('POST /api/assignments/{id}/submissions', () => {
      throw new Error('With it have to go at least 3 takes.')
    })
    const w = await page()
    await w.get('form').trigger('submit')
    await flushPromises()
    expect(w.get('[data-test="hand-in-problem"]').text()).toContain('3 takes')
    expect(w.emitted('changed')).toBeUndefined()
    expect(w.get('[data-test="hand-in"]').attributes('disabled')).toBeUndefined()
  })

  it('is closed once it was handed in, where one may not do so again', async () => {
    const w = await page({ ...OF, mine: 's', assignment: { ...OF.assignment, again: false } } as AssignmentView)
    expect(w.find('form').exists()).toBe(false)
    expect((await page({ ...OF, mine: 's' } as AssignmentView)).find('h2').text()).toBe('Hand in again')
  })
})
