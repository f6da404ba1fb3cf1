// @vitest-environment happy-dom
// The brush over the picture: strokes by pointer and by keys.
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import MaskLayer from '../src/plates/MaskLayer.vue'
import { MOST_STROKES, Painter } from '../src/plates/mask'
import type { MaskStroke, PlateMask } from '../src/api/client'

function layer(mask: PlateMask = { ground: 'all', strokes: [] }) {
  const painter = new Painter([200, 100], mask)
  const w = mount(MaskLayer, { props: { painter, mask, name: 'key', radius: 0.05, soft: 0.5, adds: false } })
  const box = w.get('[data-test=mask-layer]')
  Object.assign(box.element, { getBoundingClientRect: () => ({ left: 100, top: 50, width: 400, height: 200 }), setPointerCapture: () => {} })
  const strokes = () => (w.emitted<[MaskStroke]>('stroke') ?? []).map((e) => e[0])
  const at = (type: string, x: number, y: number) => box.trigger(type, { button: 0, clientX: x, clientY: y, pointerId: 1 })
  return { w, box, painter, strokes, at }
}

describe('a brush over the picture', () => {
  it('paints where the pointer goes, in shares of the picture, and says so once it is lifted', async () => {
    const { at, strokes, painter } = layer()
    await at('pointerdown', 200, 150)
    await at('pointermove', 300, 150)
    await at('pointermove', 300.4, 150)
    expect(strokes()).toEqual([])
    await at('pointerup', 300, 150)
    // what hardly moved is no point of its own
    expect(strokes()).toEqual([{ points: [[0.25, 0.5], [0.5, 0.5]], radius: 0.05, soft: 0.5, adds: false }])
    expect(painter.grey()[50 * 200 + 75]).toBe(0)
    await at('pointermove', 400, 150)
    expect(strokes().length).toBe(1)
  })
  it('goes by keys as well', async () => {
    const { box, strokes, w } = layer()
    await box.trigger('keydown', { key: 'ArrowRight', shiftKey: true })
    await box.trigger('keydown', { key: 'ArrowUp' })
    await box.trigger('keydown', { key: ' ' })
    expect(strokes()[0]?.points).toEqual([[0.55, 0.49]])
    await box.trigger('keydown', { key: ']' })
    await box.trigger('keydown', { key: '[' })
    await box.trigger('keydown', { key: 'x' })
    expect([w.emitted('size'), w.emitted('swap')?.length]).toEqual([[[1], [-1]], 1])
    // steps back are the page's
    await box.trigger('keydown', { key: 'z', ctrlKey: true })
    expect(strokes().length).toBe(1)
  })
  it('says when a mask is full', async () => {
    const dab: MaskStroke = { points: [[0.5, 0.5]], radius: 0.01 }
    const { at, strokes, w } = layer({ ground: 'all', strokes: Array.from({ length: MOST_STROKES }, () => dab) })
    await at('pointerdown', 200, 150)
    await at('pointerup', 200, 150)
    expect([strokes(), w.emitted('full')?.length]).toEqual([[], 1])
  })
})
