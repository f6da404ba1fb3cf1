// @vitest-environment happy-dom
import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { LightSet, SetMeter } from '../src/api/client'
import type { FakeServer } from './fakes/server'

const server = vi.hoisted(() => ({ it: null as unknown as FakeServer }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  server.it = new FakeServer()
  return { ...(await original<object>()), api: server.it.api }
})
const { default: FlagEditor } = await import('../src/rebuild/FlagEditor.vue')

type Flag = LightSet['flags'][number]
const CUT = 'POST /api/cases/{id}/set/cutter'
const FLAG = { position_m: [0.3, 0.4, 0.5], width_m: 0.6, height_m: 0.4, pattern: { kind: 'slit', open_m: 0.05 } } as unknown as Flag
const SET = { lights: [{ name: 'key' }, { name: 'fill' }], flags: [FLAG] } as unknown as LightSet
const METER = { flags: [{ flag: 0, light: 'fill', says: 'A band 48 mm high.', band: { height_m: 0.048, edge_m: 0.013, at_m: [0, 0.02, 0] } }] } as unknown as SetMeter

function editor(flag: Flag = FLAG, meter: SetMeter = METER) {
  const w = mount(FlagEditor, { props: { flag, index: 0, set: SET, meter, units: 'm' as const, caseId: 'c' } })
  const last = () => w.emitted<[Flag]>('edit')?.at(-1)?.[0]
  return { w, last }
}
const wanted = () => server.it.calls(CUT).map((a) => a.body as { light: number; band: { height_m: number; edge_m: number; apart_m?: number; at_m: number[] } })

describe('a cutter before a lamp', () => {
  beforeEach(() => {
    server.it.reset()
    server.it.on(CUT, (body) => ({ flag: { ...FLAG, width_m: (body as { band: { height_m: number } }).band.height_m }, says: ['It stands 0.4 m before the lamp.'] }))
  })

  it('begins with what it leaves as it stands, of the light it cuts', async () => {
    const { w } = editor()
    expect(w.get('[data-test="leaves-1"]').text()).toBe('A band 48 mm high.')
    await w.get('[data-test="cut-1"]').trigger('click')
    await flushPromises()
    expect(wanted()[0]).toMatchObject({ light: 1, band: { height_m: 0.048, edge_m: 0.013, at_m: [0, 0.02, 0] } })
  })

  it('is placed anew for the band that is wanted, in metres', async () => {
    const { w, last } = editor()
    await w.get('[data-test="band-1"]').setValue('60')
    await flushPromises()
    expect(wanted()[0]?.band.height_m).toBeCloseTo(0.06, 9)
    expect(wanted()[0]?.band.edge_m).toBeCloseTo(0.013, 9)
    expect(last()?.width_m).toBeCloseTo(0.06, 9)
    expect(w.text()).toContain('It stands 0.4 m before the lamp.')
  })

  it('takes no band out of its range', async () => {
    const { w } = editor()
    await w.get('[data-test="band-1"]').setValue('0')
    await flushPromises()
    expect(wanted()).toEqual([])
    expect(w.text()).toContain('At least 2')
  })

  it('is where it was asked for last, whichever answer comes last', async () => {
    const { w } = editor()
    server.it.hold = true
    await w.get('[data-test="band-1"]').setValue('60')
    server.it.hold = false
    await w.get('[data-test="band-1"]').setValue('90')
    await flushPromises()
    server.it.answer()
    await flushPromises()
    expect(w.emitted<[Flag]>('edit')?.map(([f]) => f.width_m)).toEqual([0.09])
  })

  it('says why it cannot stand there, and can be tried again', async () => {
    const { w, last } = editor()
    server.it.on(CUT, () => {
      throw new Error('Nearer to the lamp than its face is wide: no edge is sharp there.')
    })
    await w.get('[data-test="cut-1"]').trigger('click')
    await flushPromises()
    expect(w.get('[data-test="uncut-1"]').text()).toContain('Nearer to the lamp')
    expect(last()).toBeUndefined()
    expect(w.get('[data-test="cut-1"]').attributes('disabled')).toBeUndefined()
  })

  it('becomes blinds as far apart as its band is high, leaves, lace, or whole again', async () => {
    const { w, last } = editor()
    const kind = w.get('select')
    await kind.setValue('blinds')
    await flushPromises()
    expect(wanted()[0]?.band.apart_m).toBeCloseTo(0.048, 9)
    await kind.setValue('leaves')
    expect(last()?.pattern).toEqual({ kind: 'leaves', leaf_m: 0.12, open: 0.4 })
    await kind.setValue('lace')
    expect(last()?.pattern).toEqual({ kind: 'lace', pitch_m: 0.04, open: 0.35 })
    await kind.setValue('solid')
    expect(last()?.pattern).toEqual({ kind: 'solid' })
    await kind.setValue('slit')
    await flushPromises()
    expect(wanted().at(-1)?.band).not.toHaveProperty('apart_m')
  })

  it('has leaves in millimetres and per cent', async () => {
    const { w, last } = editor({ ...FLAG, pattern: { kind: 'leaves', leaf_m: 0.12, open: 0.4 } } as Flag)
    const [leaf, open] = w.findAll('input')
    expect([leaf?.element.value, open?.element.value]).toEqual(['120', '40'])
    await leaf?.setValue('80')
    expect(last()?.pattern).toEqual({ kind: 'leaves', leaf_m: 0.08, open: 0.4 })
    await open?.setValue('55')
    expect(last()?.pattern).toEqual({ kind: 'leaves', leaf_m: 0.12, open: 0.55 })
  })

  it('is taken away by its own button, and cuts the key where nothing is known', async () => {
    const { w } = editor(FLAG, {} as SetMeter)
    await w.get('[aria-label="Remove cutter 1"]').trigger('click')
    expect(w.emitted('remove')?.length).toBe(1)
    await w.get('[data-test="cut-1"]').trigger('click')
    await flushPromises()
    expect(wanted()[0]?.light).toBe(0)
  })
})
