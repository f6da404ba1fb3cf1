// @vitest-environment happy-dom
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { DeskPlate, LinePlan, LineWanted } from '../src/api/client'
import type { FakeServer } from './fakes/server'

const server = vi.hoisted(() => ({ it: null as unknown as FakeServer }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  server.it = new FakeServer()
  return { ...(await original<object>()), api: server.it.api }
})
const { default: PlateRow } = await import('../src/plates/PlateRow.vue')
const { default: PlatesFile } = await import('../src/plates/PlatesFile.vue')
const { default: LineEditor } = await import('../src/rebuild/LineEditor.vue')
const { default: ConflictBar } = await import('../src/shell/ConflictBar.vue')

const PLATE: DeskPlate = { frame: 'f', name: 'left line', lamp: '', stops: -1.25, mired: 20, mute: false, solo: false }

describe('a plate of the desk', () => {
  const row = (props: object = {}) => mount(PlateRow, { props: { plate: PLATE, index: 1, last: false, here: false, ...props } })

  it('says its level with a sign and its colour in mired', () => {
    const [level, colour] = row().findAll('output').map((o) => o.text())
    expect([level, colour]).toEqual(['−1.3', '20'])
    expect(row({ plate: { ...PLATE, stops: 0 } }).get('output').text()).toBe('+0.0')
  })

  it('keeps its name where nothing is typed in its place', async () => {
    const w = row()
    const name = w.get('[data-test="plate-name-1"]')
    await name.setValue('   ')
    expect(w.emitted('put')).toBeUndefined()
    await name.setValue(' label ')
    expect(w.emitted('put')).toEqual([[{ name: 'label' }]])
  })

  it('is alone or out by its buttons, which say so to those who do not see', async () => {
    const w = row({ plate: { ...PLATE, solo: true } })
    expect(w.get('[data-test="solo-1"]').attributes('aria-pressed')).toBe('true')
    await w.get('[data-test="solo-1"]').trigger('click')
    await w.get('[data-test="mute-1"]').trigger('click')
    expect(w.emitted('put')).toEqual([[{ solo: false }], [{ mute: true }]])
    expect(row({ plate: { ...PLATE, mute: true } }).get('article').classes()).toContain('out')
  })

  it('goes up and down among the layers, as far as there are any', async () => {
    const w = row()
    await w.get('[aria-label="left line one down"]').trigger('click')
    await w.get('[aria-label="left line one up"]').trigger('click')
    expect(w.emitted('order')).toEqual([[-1], [1]])
    expect(row({ index: 0 }).get('[aria-label="left line one down"]').attributes('disabled')).toBeDefined()
    expect(row({ last: true }).get('[aria-label="left line one up"]').attributes('disabled')).toBeDefined()
  })

  it('says how it was exposed, and whether that is undone', () => {
    expect(row().find('[data-test="exposed-1"]').exists()).toBe(false)
    expect(row({ over: 1 }).get('[data-test="exposed-1"]').text()).toBe('Exposed +1.0 stops against the others, undone.')
    expect(row({ over: -0.33, undone: false }).get('[data-test="exposed-1"]').text()).toContain('−0.3 stops against the others, as it was')
  })

  it('follows its sliders', async () => {
    const w = row()
    await w.get('[data-test="stops-1"]').setValue('-2.5')
    expect(w.emitted('put')?.at(-1)).toEqual([{ stops: -2.5 }])
    await w.get('[data-test="mired-1"]').setValue('-40')
    expect(w.emitted('put')?.at(-1)).toEqual([{ mired: -40 }])
    await w.get('article').trigger('pointerdown')
    expect(w.emitted('choose')?.length).toBe(1)
  })
})

describe('plates as a file', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    server.it.reset()
  })
  afterEach(() => void vi.useRealTimers())

  it('is asked for once the desk is kept, followed, and offered under its name', async () => {
    const order: string[] = []
    let looks = 0
    server.it
      .on('POST /api/jobs', () => (order.push('asked'), { id: 'j', state: 'waiting', progress: 0 }))
      .on('GET /api/jobs/{id}', () => ({ id: 'j', state: ++looks > 1 ? 'done' : 'running', progress: 0.5 }))
    const w = mount(PlatesFile, { props: { caseId: 'c', before: async () => void order.push('kept') } })
    await w.get('[data-test="file-masks"]').trigger('click')
    await flushPromises()
    expect(order).toEqual(['kept', 'asked'])
    expect(server.it.calls('POST /api/jobs')[0]?.body).toEqual({ kind: 'plates', case: 'c', file: 'masks' })
    expect(w.find('[data-test="file-masks"]').exists()).toBe(false)
    await vi.advanceTimersByTimeAsync(2000)
    const link = w.get('[data-test="plates-result"]')
    expect([link.attributes('href'), link.attributes('download')]).toEqual(['/api/jobs/j/result', 'plates.zip'])
  })

  it('is stopped, and says why it failed', async () => {
    server.it
      .on('POST /api/jobs', () => ({ id: 'j', state: 'waiting', progress: 0 }))
      .on('GET /api/jobs/{id}', () => ({ id: 'j', state: 'running', progress: 0.1 }))
      .on('DELETE /api/jobs/{id}', () => ({ id: 'j', state: 'failed', problem: null }))
    const w = mount(PlatesFile, { props: { caseId: 'c', before: async () => {} } })
    await w.get('[data-test="file-layers"]').trigger('click')
    await flushPromises()
    await w.findAll('button').find((b) => b.text() === 'Stop')?.trigger('click')
    await flushPromises()
    expect(w.find('[data-test="file-layers"]').exists()).toBe(true)
    server.it.on('POST /api/jobs', () => {
      throw new Error('Too many jobs wait already.')
    })
    await w.get('[data-test="file-layers"]').trigger('click')
    await flushPromises()
    expect(w.get('[role=alert]').text()).toBe('Too many jobs wait already.')
  })
})

describe('a bright line that is wanted', () => {
  const wanted = { from: [0, 0], to: [1, 1], fade: null } as unknown as LineWanted
  const plan = {
    directions: { azimuth_from_deg: -30, azimuth_to_deg: -58, elevation_bottom_deg: -12, elevation_top_deg: 25 },
    says: ['The shoulder mirrors up to 25°.'],
    ways: [
      { name: 'strip', gives_it: true, says: ['Strip at -44°.'] },
      { name: 'card', gives_it: false, says: ['Too narrow by 4 cm.'] },
    ],
  } as unknown as LinePlan
  const line = (props: object = {}) => mount(LineEditor, { props: { wanted, plan, problem: '', isBox: false, ...props }, global: { stubs: { HaloRing: true } } })

  it('says which directions a source must fill, the smaller first, with true minus signs', () => {
    const text = line().get('[data-test="line-directions"]').text()
    expect(text).toContain('−58° to −30° round the product')
    expect(text).toContain('−12° to 25° up')
    expect(text).not.toMatch(/-\d/)
  })

  it('says which thing of the kit gives it, and stands it there', async () => {
    const w = line()
    const ways = w.findAll('[data-test="line-way"]')
    expect(ways[0]?.text()).toContain('Gives it. Strip at −44°.')
    expect(ways[1]?.text()).not.toContain('Gives it')
    await w.findAll('[data-test="take-line"]')[0]?.trigger('click')
    expect(w.emitted('take')?.[0]).toEqual([plan.ways[0]])
  })

  it('fades to an edge by a usual share, keeps the share, and is crisp again', async () => {
    const w = line()
    await w.get('[data-test="line-fade"]').setValue('left')
    expect(w.emitted<[LineWanted]>('edit')?.at(-1)?.[0].fade).toEqual({ side: 'left', share: 0.6 })
    await w.setProps({ wanted: { ...wanted, fade: { side: 'left', share: 0.3 } } as LineWanted })
    expect(w.text()).toContain('over 30 % of its width')
    await w.get('[data-test="line-fade"]').setValue('right')
    expect(w.emitted<[LineWanted]>('edit')?.at(-1)?.[0].fade).toEqual({ side: 'right', share: 0.3 })
    await w.get('[data-test="line-fade"]').setValue('none')
    expect(w.emitted<[LineWanted]>('edit')?.at(-1)?.[0].fade).toBeNull()
  })

  it('asks on which side of a box, and only of a box', async () => {
    expect(line().find('[data-test="line-side"]').exists()).toBe(false)
    const w = line({ isBox: true })
    await w.get('[data-test="line-side"]').setValue('top')
    expect(w.emitted<[LineWanted]>('edit')?.at(-1)?.[0].side).toBe('top')
  })

  it('says why none is worked out, and that a kit has nothing for it', () => {
    expect(line({ plan: null, problem: 'The line lies beside the product.' }).get('[data-test="line-problem"]').text()).toContain('beside the product')
    expect(line({ plan: { ...plan, says: [], ways: [] } }).text()).toContain('Nothing in the kit has a size to give a line')
  })
})

describe('a change that someone else made before', () => {
  it('is told, and both ways out are at hand', async () => {
    const keepMine = vi.fn(async () => {})
    const takeTheirs = vi.fn()
    const w = mount(ConflictBar, { props: { document: { theirs: {}, problem: 'Ilse saved before you.', keepMine, takeTheirs } } })
    expect(w.get('[data-test="stale"]').text()).toContain('Ilse saved before you.')
    await w.get('[data-test="keep-mine"]').trigger('click')
    await w.get('[data-test="take-theirs"]').trigger('click')
    expect([keepMine.mock.calls.length, takeTheirs.mock.calls.length]).toEqual([1, 1])
  })
  it('is silent where there is nothing to say, and a mere problem has no choice', () => {
    const quiet = { keepMine: async () => {}, takeTheirs: () => {} }
    expect(mount(ConflictBar, { props: { document: { theirs: null, problem: '', ...quiet } } }).find('.conflict').exists()).toBe(false)
    const w = mount(ConflictBar, { props: { document: { theirs: null, problem: 'Not saved yet.', ...quiet } } })
    expect(w.get('[data-test="case-problem"]').text()).toBe('Not saved yet.')
    expect(w.findAll('button')).toEqual([])
  })
})
