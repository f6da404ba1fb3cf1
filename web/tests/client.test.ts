// @vitest-environment happy-dom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

const fetched = vi.hoisted(() => {
  const f = vi.fn()
  globalThis.fetch = f as unknown as typeof fetch
  return f
})
const { api, ApiProblem, data, drawSet, mendings, upload, wholeKit, wholeSet, lightMapUrl, pictureUrl } = await import('../src/api/client')

const json = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status, headers: { 'content-type': status < 300 ? 'application/json' : 'application/problem+json' } })
const thrown = (p: Promise<unknown>) =>
  p.then(
    () => null,
    (e: unknown) => e,
  )

/** An answer that comes in pieces as they are. */
function pieces(parts: (string | Uint8Array)[]): Response {
  const bytes = new TextEncoder()
  const body = new ReadableStream<Uint8Array>({
    start(c) {
      for (const p of parts) c.enqueue(typeof p === 'string' ? bytes.encode(p) : p)
      c.close()
    },
  })
  return { ok: true, status: 200, body } as unknown as Response
}

describe('calls to the server', () => {
  beforeEach(() => void fetched.mockReset())

  it('hand over what was answered', async () => {
    fetched.mockResolvedValue(json([{ id: 'low_key' }]))
    expect(await data(api.GET('/api/briefs'))).toEqual([{ id: 'low_key' }])
  })

  it('throw the sentence of a problem document, with its status', async () => {
    const problem = { type: 'urn:slantcast:stale', title: 'Changed elsewhere', status: 409, detail: 'Someone saved before you.', current: { version: 7 } }
    fetched.mockResolvedValue(json(problem, 409))
    const e = await thrown(data(api.GET('/api/briefs')))
    expect(e).toBeInstanceOf(ApiProblem)
    expect((e as InstanceType<typeof ApiProblem>).message).toBe('Someone saved before you.')
    expect((e as InstanceType<typeof ApiProblem>).status).toBe(409)
    expect((e as InstanceType<typeof ApiProblem>).problem.current).toEqual({ version: 7 })
  })

  it('say in words that something else answered, and that nothing is lost', async () => {
    for (const answer of [new Response('<html>Bad gateway</html>', { status: 502 }), json(null, 500), json({ error: 'x' }, 418)]) {
      fetched.mockResolvedValue(answer)
      const e = (await thrown(data(api.GET('/api/briefs')))) as InstanceType<typeof ApiProblem>
      expect(e).toBeInstanceOf(ApiProblem)
      expect(e.message).toContain('Nothing that was saved is lost')
      expect(e.status).toBe(answer.status)
    }
  })

  it('say that the server cannot be reached', async () => {
    fetched.mockRejectedValue(new TypeError('Failed to fetch'))
    const e = (await thrown(data(api.GET('/api/briefs')))) as InstanceType<typeof ApiProblem>
    expect(e.status).toBe(0)
    expect(e.message).toContain('cannot be reached')
  })
})

describe('answers that come line by line', () => {
  beforeEach(() => void fetched.mockReset())
  const lines = async (parts: (string | Uint8Array)[]) => {
    fetched.mockResolvedValue(pieces(parts))
    const got: unknown[] = []
    await mendings('f', new AbortController().signal, (l) => got.push(l))
    return got
  }

  it('are whole wherever the network cuts them', async () => {
    const text = '{"a":1}\n{"b":"zwei"}\n{"c":[3]}\n'
    const whole = [{ a: 1 }, { b: 'zwei' }, { c: [3] }]
    for (let cut = 0; cut <= text.length; cut++) expect(await lines([text.slice(0, cut), text.slice(cut)])).toEqual(whole)
    expect(await lines([...text])).toEqual(whole)
  })

  it('may be cut within a letter of several bytes', async () => {
    const bytes = new TextEncoder().encode('{"says":"½ stop – größer"}\n')
    for (let cut = 1; cut < bytes.length; cut++) expect(await lines([bytes.slice(0, cut), bytes.slice(cut)])).toEqual([{ says: '½ stop – größer' }])
  })

  it('may hold empty lines, and nothing at all', async () => {
    expect(await lines(['\n\n{"a":1}\n\n'])).toEqual([{ a: 1 }])
    expect(await lines([])).toEqual([])
  })

  it('throw the sentence of a refusal before the first line', async () => {
    fetched.mockResolvedValue(json({ type: 't', title: 't', status: 422, detail: 'The set has no lamp.' }, 422))
    const set = wholeSet({} as Parameters<typeof wholeSet>[0])
    const e = await thrown(drawSet('c', set, new AbortController().signal, () => {}))
    expect((e as Error).message).toBe('The set has no lamp.')
    const [path, init] = fetched.mock.calls[0] as [string, RequestInit]
    expect(path).toBe('/api/cases/c/set/draw')
    expect(JSON.parse(String(init.body))).toEqual({ subjects: [], lights: [], boards: [], flags: [], walls: [] })
  })
})

/** A request as old browsers have it: fetch cannot tell how much was sent. */
class Request {
  static last: Request
  upload: { onprogress?: (e: unknown) => void } = {}
  onload?: () => void
  onerror?: () => void
  status = 0
  response: unknown = null
  responseType = ''
  opened: string[] = []
  sent: FormData | null = null
  constructor() {
    Request.last = this
  }
  open(...how: string[]) {
    this.opened = how
  }
  send(form: FormData) {
    this.sent = form
  }
  answer(status: number, response: unknown) {
    this.status = status
    this.response = response
    this.onload?.()
  }
}

describe('a picture that is sent', () => {
  beforeEach(() => void vi.stubGlobal('XMLHttpRequest', Request))
  afterEach(() => void vi.unstubAllGlobals())
  const file = new File(['x'], 'scene.jpg', { type: 'image/jpeg' })

  it('tells how much has gone, and goes to its case with what it belongs to', async () => {
    const shares: number[] = []
    const done = upload('c-1', file, (s) => shares.push(s), { role: 'take', time_s: 2.5 })
    const r = Request.last
    expect(r.opened).toEqual(['POST', '/api/cases/c-1/frames'])
    expect([...(r.sent?.keys() ?? [])]).toEqual(['role', 'time_s', 'file'])
    expect(r.sent?.get('time_s')).toBe('2.5')
    r.upload.onprogress?.({ lengthComputable: true, loaded: 1, total: 4 })
    r.upload.onprogress?.({ lengthComputable: false, loaded: 2, total: 0 })
    r.upload.onprogress?.({ lengthComputable: true, loaded: 4, total: 4 })
    r.answer(201, { id: 'f-1' })
    expect(await done).toEqual({ id: 'f-1' })
    expect(shares).toEqual([0.25, 1])
  })

  it('says why it was refused', async () => {
    const done = thrown(upload('c-1', file, () => {}))
    Request.last.answer(413, { type: 't', title: 't', status: 413, detail: 'The picture is larger than 64 MB.' })
    expect(((await done) as Error).message).toBe('The picture is larger than 64 MB.')
  })

  it('says so where the connection broke off', async () => {
    const done = thrown(upload('c-1', file, () => {}))
    Request.last.onerror?.()
    const e = (await done) as InstanceType<typeof ApiProblem>
    expect(e).toBeInstanceOf(ApiProblem)
    expect(e.status).toBe(0)
  })
})

describe('what the server leaves out', () => {
  it('is an empty list: a kit without shelves, a set without walls', () => {
    const kit = wholeKit({ format: 'slant-kit/1' } as Parameters<typeof wholeKit>[0])
    expect([kit.lamp, kit.modifier, kit.sheet, kit.board, kit.stand]).toEqual([[], [], [], [], []])
    expect(wholeKit({ ...kit, lamp: [{ name: 'a' }] } as never).lamp.length).toBe(1)
    const set = wholeSet({ lights: [{ name: 'key' }] } as never)
    expect(set.lights.length).toBe(1)
    expect([set.subjects, set.boards, set.flags, set.walls]).toEqual([[], [], [], []])
  })
  it('addresses pictures and maps by their frame', () => {
    expect(pictureUrl('f', 'thumb')).toBe('/api/frames/f/picture?size=thumb')
    expect(lightMapUrl('f', 'exr')).toBe('/api/frames/f/light-map?format=exr')
  })
})
