// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { FrameView } from '../src/api/client'
import PicturePair from '../src/takes/PicturePair.vue'

/** What the page is told of its own width. */
let told: ((w: number) => void) | null = null
class Watcher {
  constructor(private readonly says: (entries: { contentRect: { width: number } }[]) => void) {}
  observe() {
    told = (width) => this.says([{ contentRect: { width } }])
  }
  disconnect() {
    told = null
  }
}
vi.stubGlobal('ResizeObserver', Watcher)

const frame = (id: string, width: number, height: number) => ({ id, file_name: `${id}.jpg`, facts: { width, height } }) as FrameView
const pair = (props: object = {}) => mount(PicturePair, { props: { reference: frame('ref', 1000, 500), take: frame('take', 2000, 1000), mode: 'beside' as const, swapped: false, back: null, ...props } })
const shiftOf = (w: ReturnType<typeof pair>) => {
  const m = /translate\(([-\d.e]+)px, ([-\d.e]+)px\) scale\(([-\d.e]+)\)/.exec(w.get('.frame img').attributes('style') ?? '')
  return { x: Number(m?.[1]), y: Number(m?.[2]), k: Number(m?.[3]) }
}

describe('reference and take beside each other', () => {
  beforeEach(() => (told = null))

  it('have one zoom for both', async () => {
    const w = pair()
    const group = w.get('[role=group]')
    await group.trigger('keydown', { key: '+' })
    await group.trigger('keydown', { key: '+' })
    const styles = w.findAll('.frame img').map((i) => i.attributes('style'))
    expect(styles.length).toBe(2)
    expect(styles[0]).toBe(styles[1])
    expect(shiftOf(w).k).toBeCloseTo(1.69, 2)
    await group.trigger('keydown', { key: '0' })
    expect(shiftOf(w)).toEqual({ x: 0, y: 0, k: 1 })
  })

  it('zoom to twelve times, not below the whole picture, which lies straight', async () => {
    const w = pair()
    const group = w.get('[role=group]')
    for (let i = 0; i < 40; i++) await group.trigger('keydown', { key: '+' })
    expect(shiftOf(w).k).toBe(12)
    await group.trigger('keydown', { key: 'ArrowLeft' })
    expect(shiftOf(w).x).toBe(40)
    for (let i = 0; i < 40; i++) await group.trigger('keydown', { key: '-' })
    expect(shiftOf(w)).toEqual({ x: 0, y: 0, k: 1 })
    // the whole picture is not moved aside
    await group.trigger('keydown', { key: 'ArrowLeft' })
    expect(shiftOf(w).x).toBe(0)
  })

  it('keep the place under the wheel where it is', async () => {
    const w = pair()
    const first = w.get('.frame')
    first.element.getBoundingClientRect = () => new DOMRect(100, 50, 400, 200)
    // a place 100 right of the middle and 20 under it
    await first.trigger('wheel', { deltaY: -400, clientX: 400, clientY: 170 })
    const a = shiftOf(w)
    expect(a.k).toBeCloseTo(Math.E, 3)
    // what was there before at 100, 20 is there still
    expect(a.x + a.k * 100).toBeCloseTo(100, 3)
    expect(a.y + a.k * 20).toBeCloseTo(20, 3)
  })

  it('are dragged once they are near', async () => {
    const w = pair()
    const first = w.get('.frame')
    ;(first.element as unknown as { setPointerCapture: () => void }).setPointerCapture = () => {}
    await first.trigger('pointerdown', { clientX: 10, clientY: 10, pointerId: 1 })
    await first.trigger('pointermove', { clientX: 60, clientY: 10 })
    expect(shiftOf(w).x).toBe(0)
    await w.get('[role=group]').trigger('keydown', { key: '=' })
    await first.trigger('pointerdown', { clientX: 10, clientY: 10, pointerId: 1 })
    await first.trigger('pointermove', { clientX: 60, clientY: -5 })
    expect(shiftOf(w)).toMatchObject({ x: 50, y: -15 })
    await first.trigger('pointerup')
    await first.trigger('pointermove', { clientX: 600, clientY: 500 })
    expect(shiftOf(w).x).toBe(50)
  })

  it('change places while they are swapped, with their names', async () => {
    const w = pair()
    const names = () => w.findAll('figcaption').map((c) => c.text().slice(0, 4))
    expect(names()).toEqual(['Refe', 'Take'])
    await w.setProps({ swapped: true })
    expect(names()).toEqual(['Take', 'Refe'])
    expect(w.find('img').attributes('src')).toContain('/take/')
  })
})

describe('the take laid over the reference', () => {
  /** Where a pixel of the take comes to lie on the screen, by the browser's rule for matrix3d (CSS Transforms 2: column by column). */
  function lies(style: string, [x, y]: [number, number]): [number, number] {
    const m = (/matrix3d\(([^)]+)\)/.exec(style)?.[1] ?? '').split(',').map(Number)
    const at = (i: number) => m[i] ?? NaN
    const w = at(3) * x + at(7) * y + at(15)
    return [(at(0) * x + at(4) * y + at(12)) / w, (at(1) * x + at(5) * y + at(13)) / w]
  }

  it('lies where the alignment says, in perspective too', async () => {
    // take pixels to reference pixels: half the size, moved, a little turned, with perspective
    const back = [0.5, 0.02, 30, -0.01, 0.5, -12, 1e-5, -2e-5, 1.1]
    const w = pair({ mode: 'wipe', back })
    told?.(250)
    await nextTick()
    const style = w.get('.cover img').attributes('style') ?? ''
    for (const [x, y] of [[0, 0], [2000, 0], [700, 333], [2000, 1000]] as [number, number][]) {
      const [a11, a12, a13, a21, a22, a23, a31, a32, a33] = back as [number, number, number, number, number, number, number, number, number]
      const down = a31 * x + a32 * y + a33
      // the reference is a thousand pixels wide, and 250 on the screen
      const want = [(0.25 * (a11 * x + a12 * y + a13)) / down, (0.25 * (a21 * x + a22 * y + a23)) / down]
      const got = lies(style, [x, y])
      expect(got[0]).toBeCloseTo(want[0] ?? NaN, 4)
      expect(got[1]).toBeCloseTo(want[1] ?? NaN, 4)
    }
  })

  it('fills the frame where nothing was aligned, or when it is not laid', async () => {
    const w = pair({ mode: 'wipe' })
    told?.(480)
    await nextTick()
    expect(w.get('.cover img').attributes('style')).toContain('width: 480px')
    expect(w.find('[type=checkbox]').exists()).toBe(false)
    const laid = pair({ mode: 'wipe', back: [1, 0, 0, 0, 1, 0, 0, 0, 1] })
    await laid.get('[type=checkbox]').setValue(false)
    expect(laid.get('.cover img').attributes('style')).toContain('transform: none')
  })

  it('begins at the line, and covers all while swapped', async () => {
    const w = pair({ mode: 'wipe' })
    await w.get('[data-test="wipe"]').setValue('30')
    expect(w.get('.cover').attributes('style')).toContain('30%')
    await w.setProps({ swapped: true })
    expect(w.get('.cover').attributes('style')).toMatch(/inset\(0(px)? 0(px)? 0(px)? 0%\)/)
    expect(w.find('.edge').exists()).toBe(false)
  })
})
