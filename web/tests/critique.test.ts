// @vitest-environment happy-dom
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { settled, type FakeServer } from './fakes/server'

interface Stream {
  frame: string
  signal: AbortSignal
  take: (line: unknown) => void
  end: () => void
  fail: (e: Error) => void
}
const held = vi.hoisted(() => ({ server: null as unknown as FakeServer, streams: [] as unknown[] }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  held.server = new FakeServer()
  const mendings = (frame: string, signal: AbortSignal, take: (l: unknown) => void) =>
    new Promise<void>((end, fail) => {
      signal.addEventListener('abort', () => fail(new DOMException('aborted', 'AbortError')))
      held.streams.push({ frame, signal, take, end, fail })
    })
  return { ...(await original<object>()), api: held.server.api, mendings }
})
const { useVerdict } = await import('../src/verdict/verdict')
const { ApiProblem } = await import('../src/api/client')

const streams = held.streams as Stream[]
const finding = (rule: string, outcome: string) => ({ rule, title: rule, outcome, says: rule })
const VERDICT = { brief: 'low_key', findings: [finding('exposure', 'holds'), finding('ratio', 'fault'), finding('chin', 'fault'), finding('glare', 'unsure')] }
const mend = (rule: string) => ({ change: rule, foreseen: [{ rule, before: 'fault', after: 'holds' }] })

interface Remark {
  id: string
  mine: boolean
  rule: string | null
  stance: string
  text: string
}

/** A server that keeps remarks. */
function ready(remarks: Remark[] = []) {
  let next = 1
  held.server
    .on('GET /api/frames/{id}/verdict', () => VERDICT)
    .on('GET /api/briefs', () => [{ id: 'high_key' }, { id: 'low_key' }])
    .on('GET /api/frames/{id}/remarks', () => [...remarks])
    .on('POST /api/frames/{id}/remarks', (body) => {
      const b = body as Partial<Remark>
      // one stance of a person on a rule
      const before = b.stance === 'note' ? -1 : remarks.findIndex((r) => r.mine && r.rule === b.rule && r.stance !== 'note')
      if (before >= 0) remarks.splice(before, 1)
      remarks.push({ id: `r${next++}`, mine: true, rule: b.rule ?? null, stance: b.stance ?? 'note', text: b.text ?? '' })
      return [...remarks]
    })
    .on('PUT /api/frames/{id}/remarks/{remark}', (body, { path }) => remarks.map((r) => (r.id === path?.remark ? { ...r, ...(body as object) } : r)))
    .on('DELETE /api/frames/{id}/remarks/{remark}', (_, { path }) => {
      remarks.splice(remarks.findIndex((r) => r.id === path?.remark), 1)
      return [...remarks]
    })
  return remarks
}

describe('an open verdict', () => {
  beforeEach(() => {
    held.server.reset()
    streams.length = 0
    setActivePinia(createPinia())
  })
  async function opened(frame = 'f', remarks: Remark[] = []) {
    ready(remarks)
    const v = useVerdict()
    await v.load(frame)
    return v
  }

  it('numbers findings as the server has them, and sorts them by what they say', async () => {
    const v = await opened()
    expect(v.findings.map((f) => f.n)).toEqual([1, 2, 3, 4])
    expect(v.of('fault').map((f) => f.rule)).toEqual(['ratio', 'chin'])
    expect(v.of('holds').map((f) => f.n)).toEqual([1])
    expect(v.chosen?.id).toBe('low_key')
  })

  it('turns what to change first to the front as soon as it is worked out', async () => {
    const v = await opened()
    expect(v.working).toBe(true)
    expect(v.faults.map((f) => f.rule)).toEqual(['ratio', 'chin'])
    streams[0]?.take({ mend: mend('chin') })
    expect(v.faults.map((f) => f.rule)).toEqual(['chin', 'ratio'])
    // numbers stay: pins in the picture bear them
    expect(v.faults.map((f) => f.n)).toEqual([3, 2])
    streams[0]?.take({ jpeg: 'after' })
    streams[0]?.take({ before: 'before', relit: 'relit' })
    streams[0]?.end()
    await settled()
    expect(v.working).toBe(false)
    expect(v.drawn).toEqual({ before: 'data:image/jpeg;base64,before', after: 'data:image/jpeg;base64,after', relit: 'data:image/jpeg;base64,relit' })
  })

  it('lets nothing of one picture land on the next', async () => {
    const v = await opened('one')
    const first = streams[0]
    await v.load('two')
    expect(first?.signal.aborted).toBe(true)
    first?.take({ mend: mend('ratio') })
    await settled()
    expect(v.mends).toEqual([])
    expect([v.problem, v.working]).toEqual(['', true])
    expect(streams[1]?.frame).toBe('two')
  })

  it('keeps to the picture that was asked for last, whichever answers first', async () => {
    ready()
    const v = useVerdict()
    held.server.hold = true
    const slow = v.load('slow')
    await settled()
    held.server.hold = false
    held.server.on('GET /api/frames/{id}/verdict', () => ({ ...VERDICT, findings: [] }))
    await v.load('fast')
    held.server.on('GET /api/frames/{id}/verdict', () => VERDICT)
    held.server.answer()
    await slow
    await settled()
    expect(v.findings).toEqual([])
    expect(streams.map((s) => s.frame)).toEqual(['fast'])
  })

  it('keeps the findings when the connection breaks off, and says what is missing', async () => {
    const v = await opened()
    streams[0]?.take({ mend: mend('ratio') })
    streams[0]?.fail(new TypeError('network error'))
    await settled()
    expect(v.problem).toContain('broke off')
    expect(v.findings.length).toBe(4)
    expect(v.mends.length).toBe(1)
    expect(v.working).toBe(false)
  })

  it('says what the server says where it cannot', async () => {
    const v = await opened()
    streams[0]?.fail(new ApiProblem({ type: 't', title: 't', status: 503, detail: 'Too much is worked on already.' } as never))
    await settled()
    expect(v.problem).toBe('Too much is worked on already.')
    const w = await opened()
    streams[1]?.take({ problem: 'No light was read.' })
    expect(w.problem).toBe('No light was read.')
  })

  it('says why there is no verdict, and works nothing out', async () => {
    ready()
    held.server.on('GET /api/frames/{id}/verdict', () => {
      throw new Error('This picture was deleted.')
    })
    const v = useVerdict()
    await v.load('gone')
    expect(v.problem).toBe('This picture was deleted.')
    expect(streams.length).toBe(0)
  })

  it('says nothing of a picture that was left while it failed', async () => {
    ready()
    const v = useVerdict()
    held.server.hold = true
    const slow = v.load('gone')
    await settled()
    held.server.hold = false
    await v.load('here')
    held.server.on('GET /api/frames/{id}/verdict', () => {
      throw new Error('This picture was deleted.')
    })
    held.server.answer()
    await slow
    expect([v.problem, v.findings.length]).toEqual(['', 4])
  })

  it('stops working it out where the page is left', async () => {
    const v = await opened()
    v.leave()
    await settled()
    expect([streams[0]?.signal.aborted, v.working, v.problem]).toEqual([true, false, ''])
  })

  it('agrees, disagrees instead, and takes that back; the text goes along', async () => {
    const remarks: Remark[] = [{ id: 'theirs', mine: false, rule: 'ratio', stance: 'disagrees', text: 'no' }]
    const v = await opened('f', remarks)
    expect(v.stance('ratio')).toBeUndefined()
    await v.judge('ratio', 'agrees')
    expect(v.stance('ratio')?.stance).toBe('agrees')
    await v.resay(v.stance('ratio')?.id ?? '', { stance: 'agrees', rule: 'ratio', text: 'look at the chin' })
    expect(v.stance('ratio')?.text).toBe('look at the chin')
    await v.judge('ratio', 'disagrees')
    const posts = held.server.calls('POST /api/frames/{id}/remarks').map((a) => a.body)
    expect(posts.at(-1)).toEqual({ stance: 'disagrees', rule: 'ratio', text: 'look at the chin' })
    await v.judge('ratio', 'disagrees')
    expect(v.stance('ratio')).toBeUndefined()
    expect(v.remarks.map((r) => r.id)).toEqual(['theirs'])
  })

  it('does not take a note on a rule for a stance', async () => {
    const v = await opened()
    await v.say({ stance: 'note', rule: 'chin', text: 'ask her' })
    expect(v.remarks.length).toBe(1)
    expect(v.stance('chin')).toBeUndefined()
  })
})
