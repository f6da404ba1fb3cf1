// @vitest-environment happy-dom
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { settled, type FakeServer } from './fakes/server'

const server = vi.hoisted(() => ({ it: null as unknown as FakeServer }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  server.it = new FakeServer()
  return { ...(await original<object>()), api: server.it.api }
})
const { useCase } = await import('../src/cases/case')
const { ApiProblem } = await import('../src/api/client')

const frame = (id: string, role: string) => ({ id, role, facts: { width: 600, height: 400 } })
const CASE = { id: 'c', version: 3, title: 'Scene four', brief: 'low_key', frames: [frame('ref', 'reference'), frame('take', 'take')] }
const marks = (...ids: string[]) => ({ format: 'slant-marks/1', marks: ids.map((id) => ({ id, kind: 'ball', finish: 'matte', centre: [10, 10], radius_px: 5 })) })

/** A server with one case of two pictures, which reads what it is sent: the reading says which marks it is of. */
function ready() {
  const kept: Record<string, { version: number; marks: ReturnType<typeof marks> }> = { ref: { version: 1, marks: marks('ball-1') }, take: { version: 5, marks: marks() } }
  const of = (path?: Record<string, string>) => kept[path?.id ?? '']
  const read = (m: unknown) => ({ of: (m as ReturnType<typeof marks>).marks.map((k) => k.id).join(' ') })
  server.it
    .on('GET /api/cases/{id}', () => structuredClone(CASE))
    .on('GET /api/frames/{id}/marks', (_, { path }) => ({ ...structuredClone(of(path)), readings: read(of(path)?.marks) }))
    .on('PUT /api/frames/{id}/marks', (body, { path }) => {
      const b = body as { version: number; marks: ReturnType<typeof marks> }
      const now = of(path)
      if (!now) throw new Error('no such picture')
      now.version = b.version + 1
      now.marks = structuredClone(JSON.parse(JSON.stringify(b.marks)) as ReturnType<typeof marks>)
      return { ...structuredClone(now), readings: read(now.marks) }
    })
    .on('POST /api/frames/{id}/read', (body) => read(body))
  return kept
}
const readingOf = (c: ReturnType<typeof useCase>) => (c.readings as unknown as { of: string } | null)?.of
const READ = 'POST /api/frames/{id}/read'

describe('the open case', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    server.it.reset()
    setActivePinia(createPinia())
  })
  afterEach(() => void vi.useRealTimers())

  /** Draws a further ball, as a tool does. */
  const put = (c: ReturnType<typeof useCase>, id: string) => {
    c.remember()
    c.marks = { ...c.marks, marks: [...c.list, ...(marks(id).marks as never[])] }
    c.changed()
  }

  it('opens on its reference, with its marks and what was read of them', async () => {
    ready()
    const c = useCase()
    await c.open('c')
    expect(c.frame?.id).toBe('ref')
    expect(c.list.map((m) => m.id)).toEqual(['ball-1'])
    expect(readingOf(c)).toBe('ball-1')
    expect(server.it.calls(READ).length).toBe(0)
  })

  it('has no picture at work where there is none, and says so to a page that needs one', async () => {
    ready()
    server.it.on('GET /api/cases/{id}', () => ({ ...CASE, frames: [] }))
    const c = useCase()
    await c.open('c')
    expect(c.frame).toBeNull()
    expect(() => c.shown).toThrow('No picture')
    await c.readNow()
    expect(server.it.calls(READ).length).toBe(0)
  })

  it('takes the last picture where none is a reference', async () => {
    ready()
    server.it.on('GET /api/cases/{id}', () => ({ ...CASE, frames: [frame('a', 'take'), frame('take', 'take')] }))
    const c = useCase()
    await c.open('c')
    expect(c.frame?.id).toBe('take')
  })

  it('reads one state at a time while marks are dragged, and always the last', async () => {
    ready()
    const c = useCase()
    await c.open('c')
    server.it.hold = true
    for (const id of ['ball-2', 'ball-3', 'ball-4', 'ball-5']) {
      put(c, id)
      await settled()
    }
    expect(server.it.calls(READ).length).toBe(1)
    server.it.hold = false
    server.it.answer()
    await settled(40)
    expect(server.it.calls(READ).length).toBe(2)
    expect(readingOf(c)).toBe('ball-1 ball-2 ball-3 ball-4 ball-5')
  })

  it('drops a reading of the picture that was left', async () => {
    ready()
    const c = useCase()
    await c.open('c')
    server.it.hold = true
    put(c, 'ball-2')
    await settled()
    const asked = server.it.calls(READ)[0]
    server.it.hold = false
    const turned = c.show('take')
    await vi.advanceTimersByTimeAsync(2000)
    await turned
    expect(asked?.signal?.aborted).toBe(true)
    server.it.answer()
    await settled(40)
    expect(c.frame?.id).toBe('take')
    expect(readingOf(c)).toBe('')
    expect(c.list).toEqual([])
  })

  it('keeps what was drawn before it turns to another picture', async () => {
    const kept = ready()
    const c = useCase()
    await c.open('c')
    put(c, 'ball-2')
    const turned = c.show('take')
    await vi.advanceTimersByTimeAsync(2000)
    await turned
    expect(kept.ref?.marks.marks.map((m) => m.id)).toEqual(['ball-1', 'ball-2'])
    expect(kept.take?.version).toBe(5)
  })

  it('says why a reading failed, and forgets it with the next that does not', async () => {
    ready()
    const c = useCase()
    await c.open('c')
    server.it.on(READ, () => {
      throw new Error('A face needs its seven points.')
    })
    put(c, 'ball-2')
    await settled(40)
    expect(c.problem).toBe('A face needs its seven points.')
    expect(readingOf(c)).toBe('ball-1')
    server.it.on(READ, () => ({ of: 'again' }))
    put(c, 'ball-3')
    await settled(40)
    expect(c.problem).toBe('')
    expect(readingOf(c)).toBe('again')
  })

  it('undoes a mark, and the reading follows', async () => {
    ready()
    const c = useCase()
    await c.open('c')
    put(c, 'ball-2')
    await vi.advanceTimersByTimeAsync(3000)
    c.undo()
    await vi.advanceTimersByTimeAsync(3000)
    expect(c.list.map((m) => m.id)).toEqual(['ball-1'])
    expect(readingOf(c)).toBe('ball-1')
    c.redo()
    await vi.advanceTimersByTimeAsync(3000)
    expect(readingOf(c)).toBe('ball-1 ball-2')
  })

  it('is renamed by its version; a stale title loads what is there and says so', async () => {
    ready()
    const c = useCase()
    await c.open('c')
    server.it.on('PATCH /api/cases/{id}', (body) => ({ ...CASE, ...(body as object), version: 4 }))
    await c.edit({ title: 'Scene five' })
    expect(server.it.calls('PATCH /api/cases/{id}')[0]?.body).toEqual({ version: 3, title: 'Scene five' })
    expect(c.view?.title).toBe('Scene five')
    server.it.on('PATCH /api/cases/{id}', () => {
      throw new ApiProblem({ type: 't', title: 't', status: 409, detail: 'Someone saved before you.', current: { ...CASE, title: 'Theirs', version: 9 } } as never)
    })
    await c.edit({ title: 'Mine' })
    expect(c.view?.title).toBe('Theirs')
    expect(c.problem).toBe('Someone saved before you.')
  })

  it('reads anew when the brief changes: it says where parts should lie', async () => {
    ready()
    const c = useCase()
    await c.open('c')
    server.it.on('PATCH /api/cases/{id}', (body) => ({ ...CASE, ...(body as object), version: 4 }))
    await c.edit({ note: 'after lunch' })
    expect(server.it.calls(READ).length).toBe(0)
    await c.edit({ brief: 'high_key' })
    expect(server.it.calls(READ).length).toBe(1)
  })
})
