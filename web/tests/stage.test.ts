// @vitest-environment happy-dom
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { settled, type FakeServer } from './fakes/server'

/** A drawing that was asked for: lines come when the test says so. */
interface Drawing {
  set: { lights: { name: string }[] }
  signal: AbortSignal
  take: (line: unknown) => void
  end: () => void
  fail: (e: Error) => void
}
const held = vi.hoisted(() => ({ server: null as unknown as FakeServer, drawings: [] as unknown[] }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  held.server = new FakeServer()
  const drawSet = (_: string, set: unknown, signal: AbortSignal, take: (l: unknown) => void) =>
    new Promise<void>((end, fail) => {
      signal.addEventListener('abort', () => fail(new DOMException('aborted', 'AbortError')))
      held.drawings.push({ set: JSON.parse(JSON.stringify(set)), signal, take, end, fail })
    })
  return { ...(await original<object>()), api: held.server.api, drawSet }
})
const { useStage } = await import('../src/rebuild/stage')

const drawings = held.drawings as Drawing[]
const SET = { format: 'slant-set/1', subjects: [], lights: [{ name: 'key' }], boards: [], flags: [], walls: [] }
const look = (k: number, more: object = {}) => ({ jpeg: `picture${k}`, samples: k, of: 4, after_ms: 40 * k, ...more })

async function opened() {
  held.server
    .on('GET /api/cases/{id}/set', () => ({ version: 1, set: structuredClone(SET), meter: { first: true } }))
    .on('PUT /api/cases/{id}/set', (body) => ({ version: (body as { version: number }).version + 1, set: (body as { set: unknown }).set, meter: { kept: true } }))
  const s = useStage()
  await s.load('c')
  await settled()
  return s
}
const add = (s: ReturnType<typeof useStage>, name: string) => s.change((set) => set.lights.push({ name } as never))

describe('a set that is moved about', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    held.server.reset()
    drawings.length = 0
    setActivePinia(createPinia())
  })
  afterEach(() => void vi.useRealTimers())

  it('is drawn as it opens, coarse first, and says how far it is', async () => {
    const s = await opened()
    expect(drawings.length).toBe(1)
    expect([s.drawing, s.progress]).toEqual([true, 0])
    drawings[0]?.take({ meter: { lux: 300 } })
    expect(s.meter).toEqual({ lux: 300 })
    drawings[0]?.take(look(0))
    // a first look is not nothing
    expect(s.progress).toBeCloseTo(0.1)
    drawings[0]?.take(look(4, { done: true }))
    drawings[0]?.end()
    await settled()
    expect([s.progress, s.drawing, s.tookMs]).toEqual([1, false, 160])
    expect(s.picture).toBe('data:image/jpeg;base64,picture4')
  })

  it('is seen moving: a drawing that showed nothing yet is let finish its first look', async () => {
    const s = await opened()
    add(s, 'fill')
    add(s, 'rim')
    await settled()
    expect(drawings.length).toBe(1)
    drawings[0]?.take(look(1))
    await settled()
    expect(drawings.length).toBe(2)
    expect(drawings[0]?.signal.aborted).toBe(true)
    expect(drawings[1]?.set.lights.map((l) => l.name)).toEqual(['key', 'fill', 'rim'])
  })

  it('gives up a drawing that was seen, once something is moved', async () => {
    const s = await opened()
    drawings[0]?.take(look(1))
    add(s, 'fill')
    await settled()
    expect(drawings[0]?.signal.aborted).toBe(true)
    expect(drawings.length).toBe(2)
    // what comes late of the old one does not land
    drawings[0]?.take(look(3))
    expect(s.picture).toContain('picture1')
    expect(s.problem).toBe('')
  })

  it('draws the last state when the one before ended without a look', async () => {
    const s = await opened()
    add(s, 'fill')
    drawings[0]?.end()
    await settled()
    expect(drawings.length).toBe(2)
    expect(drawings[1]?.set.lights.length).toBe(2)
  })

  it('says why a set cannot be drawn, and forgets it with the next that can', async () => {
    const s = await opened()
    drawings[0]?.fail(new Error('A lamp stands in the lens.'))
    await settled()
    expect([s.problem, s.drawing]).toEqual(['A lamp stands in the lens.', false])
    add(s, 'fill')
    drawings[1]?.take(look(4, { done: true }))
    drawings[1]?.end()
    await settled()
    expect(s.problem).toBe('')
  })

  it('shows the person relit, and puts that away when the last look has none', async () => {
    const s = await opened()
    drawings[0]?.take(look(1, { relit: 'face' }))
    expect(s.relit).toContain('face')
    drawings[0]?.take(look(2))
    expect(s.relit).toContain('face')
    drawings[0]?.take(look(4, { done: true }))
    expect(s.relit).toBe('')
  })

  it('is saved a little after the last change, once, and the meter is the kept one', async () => {
    const s = await opened()
    add(s, 'fill')
    await vi.advanceTimersByTimeAsync(500)
    add(s, 'rim')
    await vi.advanceTimersByTimeAsync(500)
    expect(held.server.calls('PUT /api/cases/{id}/set').length).toBe(0)
    await vi.advanceTimersByTimeAsync(1000)
    const saves = held.server.calls('PUT /api/cases/{id}/set')
    expect(saves.length).toBe(1)
    expect((saves[0]?.body as { set: typeof SET }).set.lights.length).toBe(3)
    expect(s.meter).toEqual({ kept: true })
    expect(s.version).toBe(2)
  })

  it('takes the set of a reading, one undo away from mine', async () => {
    const s = await opened()
    add(s, 'mine')
    held.server.on('GET /api/cases/{id}/set/from-reading', () => ({ set: { lights: [{ name: 'read' }] } }))
    await s.fromReading()
    expect(s.set?.lights.map((l) => l.name)).toEqual(['read'])
    s.undo()
    expect(s.set?.lights.map((l) => l.name)).toEqual(['key', 'mine'])
  })

  it('keeps the set where nothing can be read, and says why', async () => {
    const s = await opened()
    held.server.on('GET /api/cases/{id}/set/from-reading', () => {
      throw new Error('Nothing is marked yet.')
    })
    await s.fromReading()
    expect(s.problem).toBe('Nothing is marked yet.')
    expect(s.set?.lights.map((l) => l.name)).toEqual(['key'])
  })

  it('stops where the page is left', async () => {
    const s = await opened()
    s.stop()
    await settled()
    expect([drawings[0]?.signal.aborted, s.drawing, s.problem]).toEqual([true, false, ''])
  })
})
