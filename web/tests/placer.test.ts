// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { directionAt, onBand, place, wideBox, type Direction } from '../src/halo/band'
import HaloPlacer from '../src/live/HaloPlacer.vue'

// places on the drawing are told by the browser: here a pixel is a unit of the drawing
vi.mock('../src/shell/svg', () => ({ pointIn: (_: unknown, e: { clientX: number; clientY: number }) => [e.clientX, e.clientY] }))

const SIDE = 340
const box = wideBox(SIDE)
const at = (d: Direction) => {
  const p = place(box, onBand(d))
  return { clientX: p.x, clientY: p.y, pointerId: 1 }
}
function placer(props: object = {}) {
  const w = mount(HaloPlacer, { props: { label: 'Where is the key?', armed: true, ...props } })
  const svg = w.get<SVGSVGElement>('[data-test="halo-placer"]')
  ;(svg.element as unknown as { setPointerCapture: () => void }).setPointerCapture = () => {}
  return { w, svg, placed: () => (w.emitted<[Direction]>('place') ?? []).map(([d]) => d), done: () => (w.emitted<[Direction]>('done') ?? []).map(([d]) => d) }
}

describe('a light that is placed on the halo', () => {
  it('is where the finger is, and counts once it is lifted', async () => {
    const { svg, placed, done } = placer()
    const [a, b] = [{ azimuth_deg: -45, elevation_deg: 30 }, { azimuth_deg: 120, elevation_deg: -10 }]
    await svg.trigger('pointerdown', at(a))
    expect(done()).toEqual([])
    await svg.trigger('pointermove', at(b))
    await svg.trigger('pointerup', at(b))
    expect(placed().length).toBe(2)
    for (const [got, want] of [[placed()[0], a], [done()[0], b]] as const) {
      expect(got?.azimuth_deg).toBeCloseTo(want.azimuth_deg, 6)
      expect(got?.elevation_deg).toBeCloseTo(want.elevation_deg, 6)
    }
    // a finger that only passes places nothing
    await svg.trigger('pointermove', at(a))
    expect(placed().length).toBe(2)
  })

  it('is not placed by a touch that the system took', async () => {
    const { svg, done } = placer()
    await svg.trigger('pointerdown', at({ azimuth_deg: 10, elevation_deg: 10 }))
    await svg.trigger('pointercancel')
    await svg.trigger('pointerup', at({ azimuth_deg: 50, elevation_deg: 10 }))
    expect(done()).toEqual([])
  })

  it('moves by arrows, further with shift, round the back and not over the top', async () => {
    const { svg, w, done } = placer({ mine: { azimuth_deg: 178, elevation_deg: 85 } })
    await svg.trigger('keydown', { key: 'ArrowRight', shiftKey: true })
    expect(done().at(-1)).toEqual({ azimuth_deg: -172, elevation_deg: 85 })
    await svg.trigger('keydown', { key: 'ArrowUp', shiftKey: true })
    expect(done().at(-1)).toEqual({ azimuth_deg: 178, elevation_deg: 90 })
    await w.setProps({ mine: { azimuth_deg: -179, elevation_deg: 0 } })
    await svg.trigger('keydown', { key: 'ArrowLeft' })
    expect(done().at(-1)).toEqual({ azimuth_deg: 179, elevation_deg: 0 })
    await svg.trigger('keydown', { key: 'x' })
    expect(done().length).toBe(3)
  })

  it('begins at the lens by keys, and says where it is', async () => {
    const { w, svg, done } = placer()
    expect(svg.attributes('aria-label')).toContain('Nothing is placed yet')
    await svg.trigger('keydown', { key: 'ArrowDown' })
    expect(done()).toEqual([{ azimuth_deg: 0, elevation_deg: -2 }])
    await w.setProps({ mine: { azimuth_deg: -40, elevation_deg: 30 } })
    expect(svg.attributes('aria-label')).not.toContain('Nothing')
    expect(w.find('[data-test="own-place"]').exists()).toBe(true)
  })

  it('takes nothing while it is shut', async () => {
    const { svg, placed } = placer({ armed: false })
    await svg.trigger('pointerdown', at({ azimuth_deg: 10, elevation_deg: 10 }))
    await svg.trigger('keydown', { key: 'ArrowUp' })
    expect(placed()).toEqual([])
    expect(svg.attributes('role')).toBe('img')
    expect(svg.attributes('tabindex')).toBeUndefined()
  })

  it('shows the places of a class, their mean and the light, each where it is', () => {
    const places = [{ azimuth_deg: -30, elevation_deg: 20 }, { azimuth_deg: -60, elevation_deg: 40 }]
    const truth = { azimuth_deg: -45, elevation_deg: 30, sd_deg: 5 }
    const { w } = placer({ armed: false, places, mean: places[0], truth })
    const dots = w.findAll('[data-test="place"]').map((c) => directionAt(box, Number(c.attributes('cx')), Number(c.attributes('cy'))))
    dots.forEach((d, i) => {
      expect(d.azimuth_deg).toBeCloseTo(places[i]?.azimuth_deg ?? 0, 6)
      expect(d.elevation_deg).toBeCloseTo(places[i]?.elevation_deg ?? 0, 6)
    })
    expect(w.find('[data-test="mean"]').exists()).toBe(true)
    expect(w.find('[data-test="truth"]').exists()).toBe(true)
  })
})
