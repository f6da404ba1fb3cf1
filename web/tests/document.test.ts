import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { useDocument, type Source } from '../src/shell/document'

interface Body {
  text: string
}
interface View {
  version: number
  body: Body
}

class Stale extends Error {
  constructor(readonly newer: View) {
    super('Changed elsewhere.')
  }
}

/** A server that keeps one document by version and answers when it is told to. */
class Server implements Source<Body, View> {
  view: View = { version: 1, body: { text: 'first' } }
  saves: number[] = []
  fail: Error | null = null
  private waiting: (() => void)[] = []
  hold = false

  load = async () => structuredClone(this.view)
  save = async (version: number, body: Body) => {
    this.saves.push(version)
    // what was sent is what is kept, whatever is typed meanwhile
    const sent = structuredClone({ text: body.text })
    if (this.hold) await new Promise<void>((go) => this.waiting.push(go))
    if (this.fail) throw this.fail
    if (version !== this.view.version) throw new Stale(structuredClone(this.view))
    this.view = { version: version + 1, body: sent }
    return structuredClone(this.view)
  }
  answer() {
    this.waiting.splice(0).forEach((go) => go())
  }
}

function open(server: Server) {
  const kept: View[] = []
  const d = useDocument<Body, View>({
    bodyOf: (v) => v.body,
    onKept: (v) => kept.push(v),
    failure: (e) => ({ message: (e as Error).message, newer: e instanceof Stale ? e.newer : null, again: !(e instanceof Stale) }),
    pauseMs: 100,
    retryMs: 500,
  })
  const type = (text: string) => {
    d.remember()
    d.body.value = { text }
    d.changed()
  }
  return { d, kept, type, ready: d.open(server) }
}

describe('a document that saves itself', () => {
  beforeEach(() => void vi.useFakeTimers())

  it('is saved a little after the last edit, once', async () => {
    const server = new Server()
    const { d, type, ready } = open(server)
    await ready
    type('a')
    await vi.advanceTimersByTimeAsync(60)
    type('ab')
    expect(server.saves).toEqual([])
    await vi.advanceTimersByTimeAsync(120)
    expect(server.saves).toEqual([1])
    expect(server.view.body.text).toBe('ab')
    expect(d.saving.value).toBe('saved')
  })

  it('never conflicts with itself while a save is under way', async () => {
    const server = new Server()
    const { d, type, ready } = open(server)
    await ready
    server.hold = true
    type('a')
    await vi.advanceTimersByTimeAsync(150)
    // a face takes a second to read; the pause is shorter
    type('b')
    await vi.advanceTimersByTimeAsync(300)
    expect(server.saves).toEqual([1])
    server.hold = false
    server.answer()
    await vi.advanceTimersByTimeAsync(600)
    expect(server.saves).toEqual([1, 2])
    expect(server.view.body.text).toBe('b')
    expect(d.saving.value).toBe('saved')
    expect(d.theirs.value).toBeNull()
  })

  it('waits for the person when someone saved before, and loses neither', async () => {
    const server = new Server()
    const { d, type, ready } = open(server)
    await ready
    server.view = { version: 2, body: { text: 'theirs' } }
    type('mine')
    await vi.advanceTimersByTimeAsync(150)
    expect(d.saving.value).toBe('stale')
    // further edits do not save over theirs
    type('mine, longer')
    await vi.advanceTimersByTimeAsync(2000)
    expect(server.view.body.text).toBe('theirs')
    await d.keepMine()
    expect(server.view).toEqual({ version: 3, body: { text: 'mine, longer' } })
  })

  it('takes theirs with mine one undo away', async () => {
    const server = new Server()
    const { d, type, ready } = open(server)
    await ready
    server.view = { version: 2, body: { text: 'theirs' } }
    type('mine')
    await vi.advanceTimersByTimeAsync(150)
    d.takeTheirs()
    expect(d.body.value).toEqual({ text: 'theirs' })
    d.undo()
    await nextTick()
    expect(d.body.value).toEqual({ text: 'mine' })
    await vi.advanceTimersByTimeAsync(150)
    expect(server.view.body.text).toBe('mine')
  })

  it('tries again when the server was away', async () => {
    const server = new Server()
    const { d, type, ready } = open(server)
    await ready
    server.fail = new Error('The server cannot be reached.')
    type('a')
    await vi.advanceTimersByTimeAsync(150)
    expect(d.saving.value).toBe('failed')
    expect(d.problem.value).toContain('reached')
    server.fail = null
    await vi.advanceTimersByTimeAsync(600)
    expect(d.saving.value).toBe('saved')
    expect(server.view.body.text).toBe('a')
  })

  it('sends one save at a time, however many were asked for while one was slow', async () => {
    const server = new Server()
    const { d, type, ready } = open(server)
    await ready
    server.hold = true
    for (const text of ['a', 'b', 'c', 'd']) {
      type(text)
      await vi.advanceTimersByTimeAsync(150)
    }
    server.hold = false
    server.answer()
    await vi.advanceTimersByTimeAsync(2000)
    expect(d.saving.value).toBe('saved')
    expect(server.view.body.text).toBe('d')
    expect(new Set(server.saves).size).toBe(server.saves.length)
  })

  it('knows its own save again whose answer was lost', async () => {
    const server = new Server()
    const { d, type, ready } = open(server)
    await ready
    // the server keeps it, and the answer does not come
    server.fail = new Error('The server cannot be reached.')
    type('a')
    await vi.advanceTimersByTimeAsync(150)
    expect(d.saving.value).toBe('failed')
    server.view = { version: 2, body: { text: 'a' } }
    server.fail = null
    await vi.advanceTimersByTimeAsync(600)
    expect(d.saving.value).toBe('saved')
    expect(server.view).toEqual({ version: 2, body: { text: 'a' } })
    // and where more was typed since
    server.fail = new Error('The server cannot be reached.')
    type('b')
    await vi.advanceTimersByTimeAsync(150)
    server.view = { version: 3, body: { text: 'b' } }
    server.fail = null
    type('c')
    await vi.advanceTimersByTimeAsync(1500)
    expect(d.saving.value).toBe('saved')
    expect(server.view).toEqual({ version: 4, body: { text: 'c' } })
  })

  it('drops answers to a document that was closed since', async () => {
    const server = new Server()
    const { d, kept, type, ready } = open(server)
    await ready
    server.hold = true
    type('a')
    await vi.advanceTimersByTimeAsync(150)
    d.close()
    const before = kept.length
    server.hold = false
    server.answer()
    await vi.advanceTimersByTimeAsync(50)
    expect(kept.length).toBe(before)
    expect(d.body.value).toBeNull()
    // and yet what was typed is kept
    expect(server.view.body.text).toBe('a')
  })

  it('undoes and redoes', async () => {
    const server = new Server()
    const { d, type, ready } = open(server)
    await ready
    type('a')
    type('b')
    d.undo()
    expect(d.body.value).toEqual({ text: 'a' })
    d.redo()
    expect(d.body.value).toEqual({ text: 'b' })
    d.undo()
    type('c')
    expect(d.future.value).toEqual([])
  })
})
