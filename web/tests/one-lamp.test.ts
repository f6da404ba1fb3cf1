// @vitest-environment happy-dom
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { FakeServer } from './fakes/server'

const server = vi.hoisted(() => ({ it: null as unknown as FakeServer }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  server.it = new FakeServer()
  return { ...(await original<object>()), api: server.it.api }
})
const { default: OneLamp } = await import('../src/build/OneLamp.vue')

const PLAN = {
  lamp: 'torch',
  setting: 'full',
  sd_stops: 0.3,
  total_s: 14,
  says: ['Nothing else may be lit.'],
  others: [
    ['torch', 'torch'],
    ['panel', 'LED panel'],
  ],
  steps: [
    { light: 'key', place: '45° left', plate: 'f/8, 2 s.', burns_s: [0, 4] },
    { light: 'rim', place: 'behind', plate: 'f/8, 1 s.', burns_s: [10, 12] },
  ],
}
const PATH = 'GET /api/cases/{id}/build/one-lamp'

describe('the clock of one lamp', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    server.it.reset()
    server.it.on(PATH, () => PLAN)
  })
  afterEach(() => void vi.useRealTimers())
  async function page() {
    const w = mount(OneLamp, { props: { caseId: 'c' } })
    await flushPromises()
    return w
  }
  const says = (w: Awaited<ReturnType<typeof page>>) => w.get('[data-test="clock-does"]').text()
  async function after(ms: number) {
    await vi.advanceTimersByTimeAsync(ms)
    await nextTick()
  }

  it('tells each place with its plate, and the one exposure', async () => {
    const w = await page()
    const steps = w.findAll('[data-test="one-lamp-step"]').map((s) => s.text())
    expect(steps[0]).toContain('key: 45° left. As a plate: f/8, 2 s. In one exposure: 4.0 s.')
    expect(w.text()).toContain('One exposure of 14.0 s with the lamp at full')
    expect(w.text()).toContain('Nothing else may be lit.')
  })

  it('says burn, cover and carry, burn, close, each at its time', async () => {
    const w = await page()
    await w.get('[data-test="clock-start"]').trigger('click')
    expect(says(w)).toBe('Burn: key')
    await after(3900)
    expect(says(w)).toBe('Burn: key')
    expect(w.get('.clock').classes()).toContain('burns')
    await after(300)
    expect(says(w)).toBe('Covered. Carry it to: rim, behind')
    expect(w.get('.clock').classes()).not.toContain('burns')
    expect(Number(w.get('.left').text())).toBeCloseTo(5.8, 1)
    await after(6000)
    expect(says(w)).toBe('Burn: rim')
    await after(2000)
    expect(says(w)).toBe('Close the shutter.')
    // and ends by itself
    await after(4000)
    expect(w.find('[data-test="clock-start"]').exists()).toBe(true)
  })

  it('follows the time, not its own ticks', async () => {
    const w = await page()
    await w.get('[data-test="clock-start"]').trigger('click')
    // a phone that slept: one tick after ten and a half seconds
    vi.setSystemTime(Date.now())
    await after(10_500)
    expect(says(w)).toBe('Burn: rim')
  })

  it('is stopped, and begins anew', async () => {
    const w = await page()
    await w.get('[data-test="clock-start"]').trigger('click')
    await after(5000)
    await w.get('[data-test="clock-stop"]').trigger('click')
    await w.get('[data-test="clock-start"]').trigger('click')
    expect(says(w)).toBe('Burn: key')
    w.unmount()
    expect(vi.getTimerCount()).toBe(0)
  })

  it('asks for another lamp, and says why there is no plan', async () => {
    const w = await page()
    await w.get('[data-test="one-lamp-pick"]').setValue('panel')
    await flushPromises()
    expect(server.it.calls(PATH).length).toBe(2)
    server.it.on(PATH, () => {
      throw new Error('The set has no lamp that can be carried.')
    })
    await w.get('[data-test="one-lamp-pick"]').setValue('torch')
    await flushPromises()
    expect(w.get('[role=alert]').text()).toBe('The set has no lamp that can be carried.')
  })

  it('has no clock where one exposure cannot hold it', async () => {
    server.it.on(PATH, () => ({ ...PLAN, total_s: 0, steps: PLAN.steps.map((s) => ({ ...s, burns_s: null })) }))
    const w = await page()
    expect(w.find('.clock').exists()).toBe(false)
    expect(w.findAll('[data-test="one-lamp-step"]').length).toBe(2)
  })
})
