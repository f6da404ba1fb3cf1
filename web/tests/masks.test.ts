// Masks of a desk while they are painted: which, what is drawn again when, and what is asked of the server.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { useMasks } from '../src/plates/masks'
import type { Desk, DeskPlate } from '../src/api/client'
import type { Painter } from '../src/plates/mask'

const plate = (frame: string, more: Partial<DeskPlate> = {}): DeskPlate => ({ frame, name: frame, ...more })
function desk(...plates: DeskPlate[]) {
  const kept = ref<Desk>({ plates })
  const laid: [number, Painter][] = []
  const masks = useMasks({
    caseId: () => 'c',
    desk: () => kept.value,
    put: (k, change) => (kept.value = { ...kept.value, plates: (kept.value.plates ?? []).map((p, i) => (i === k ? { ...p, ...change } : p)) }),
    lay: (k, p) => void laid.push([k, p]),
  })
  return { kept, masks, laid, of: (k: number) => kept.value.plates?.[k]?.mask }
}
const DAB = { points: [[0.5, 0.5]] as [number, number][], radius: 0.1, soft: 0, adds: false }
const asked: { url: string; desk: Desk }[] = []

describe('masks of a desk', () => {
  beforeEach(() => {
    asked.length = 0
    vi.stubGlobal('fetch', async (url: string, init: { body: string }) => {
      asked.push({ url, desk: JSON.parse(init.body) as Desk })
      return { ok: false }
    })
  })
  afterEach(() => vi.unstubAllGlobals())

  it('begin everywhere when a plate is first painted, and keep what is there already', async () => {
    const { masks, of, laid } = desk(plate('a'), plate('b', { mask: { ground: 'none', strokes: [DAB] } }))
    await masks.paint(0)
    expect(of(0)).toEqual({ ground: 'all', strokes: [] })
    expect([masks.painting.value, laid.at(-1)?.[0]]).toEqual([0, 0])
    await masks.paint(1)
    expect(of(1)).toEqual({ ground: 'none', strokes: [DAB] })
    expect(masks.painted.value?.name).toBe('b')
    expect(asked).toEqual([])
  })

  it('take strokes one after the other, and go without one again', async () => {
    const { masks, of, laid } = desk(plate('a'))
    await masks.all([100, 80])
    await masks.paint(0)
    masks.stroke(DAB)
    masks.stroke({ ...DAB, adds: true })
    expect(of(0)?.strokes?.map((s) => s.adds)).toEqual([false, true])
    masks.without()
    expect(of(0)).toBeNull()
    expect(masks.painted.value).toBeUndefined()
    // what is drawn then is the whole plate
    expect(laid.at(-1)?.[1].grey().every((v) => v === 255)).toBe(true)
  })

  it('stay with their plate when plates change places, and are left when the plate goes', async () => {
    const { kept, masks } = desk(plate('a'), plate('b'))
    await masks.paint(0)
    kept.value = { plates: [...(kept.value.plates ?? [])].reverse() }
    expect([masks.painting.value, masks.painted.value?.frame]).toEqual([1, 'a'])
    kept.value = { plates: [plate('b')] }
    await masks.all()
    expect(masks.painter.value).toBeNull()
  })

  it('ask the server only for the ground that it alone knows, with nothing but that', async () => {
    const { masks } = desk(plate('a', { mask: { ground: 'lightest', strokes: [DAB] } }), plate('b', { mask: { ground: 'none', strokes: [DAB] } }))
    await masks.all([100, 80])
    expect(asked.map((a) => a.url)).toEqual(['/api/cases/c/plates/mask/a'])
    expect(asked[0]?.desk.plates?.map((p) => p.mask)).toEqual([{ ground: 'lightest', strokes: [] }, null])
  })

  it('follow the levels where they count by the lightest, and only when those have changed', async () => {
    const { kept, masks } = desk(plate('a', { mask: { ground: 'lightest', strokes: [] } }), plate('b'))
    await masks.all([100, 80])
    await masks.follow()
    expect(asked.length).toBe(1)
    kept.value = { plates: (kept.value.plates ?? []).map((p) => ({ ...p, stops: 1 })) }
    await masks.follow()
    await masks.follow()
    expect(asked.length).toBe(2)
  })

  it('show what was painted while the server was asked', async () => {
    const { masks, laid } = desk(plate('a', { mask: { ground: 'lightest', strokes: [] } }))
    await masks.all([100, 80])
    let answer: (v: unknown) => void = () => {}
    vi.stubGlobal('fetch', () => new Promise((done) => (answer = done)))
    const drawn = masks.paint(0)
    masks.stroke(DAB)
    answer({ ok: false })
    await drawn
    expect(laid.at(-1)?.[1].grey()[40 * 100 + 50]).toBe(0)
  })

  it('have a brush that stays within what can be seen', () => {
    const { masks } = desk(plate('a'))
    for (let k = 0; k < 30; k++) masks.resize(1)
    expect(masks.brush.radius).toBe(0.25)
    for (let k = 0; k < 30; k++) masks.resize(-1)
    expect(masks.brush.radius).toBe(0.005)
  })
})
