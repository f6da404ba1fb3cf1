// A server for tests: answers by method and path, when it is told to.

type Answer = (body: unknown, params: { path?: Record<string, string>; query?: Record<string, unknown> }) => unknown

export interface Asked {
  call: string
  body: unknown
  path: Record<string, string>
  signal: AbortSignal | undefined
}

interface Init {
  params?: { path?: Record<string, string>; query?: Record<string, unknown> }
  body?: unknown
  signal?: AbortSignal
}

/** Stands in for the client: `on('GET /api/cases/{id}', ...)` gives what is answered, `asked` tells what was asked for. */
export class FakeServer {
  asked: Asked[] = []
  private answers = new Map<string, Answer>()
  private waiting: (() => void)[] = []
  /** Answers wait until `answer` is called. */
  hold = false

  on(call: string, answer: Answer): this {
    this.answers.set(call, answer)
    return this
  }
  reset() {
    this.asked = []
    this.answers.clear()
    this.waiting = []
    this.hold = false
  }
  /** Lets what waits be answered, in the order it was asked for. */
  answer() {
    this.waiting.splice(0).forEach((go) => go())
  }
  get open(): number {
    return this.waiting.length
  }
  calls(call: string): Asked[] {
    return this.asked.filter((a) => a.call === call)
  }

  private method(name: string) {
    return async (path: string, init: Init = {}) => {
      const call = `${name} ${path}`
      this.asked.push({ call, body: structuredClone(plain(init.body)), path: init.params?.path ?? {}, signal: init.signal })
      if (this.hold) await new Promise<void>((go) => this.waiting.push(go))
      if (init.signal?.aborted) throw new DOMException('aborted', 'AbortError')
      const answer = this.answers.get(call)
      if (!answer) throw new Error(`nothing answers ${call}`)
      return { data: await answer(init.body, init.params ?? {}) }
    }
  }
  readonly api = {
    GET: this.method('GET'),
    POST: this.method('POST'),
    PUT: this.method('PUT'),
    PATCH: this.method('PATCH'),
    DELETE: this.method('DELETE'),
  }
}

/** What would be sent. */
const plain = (body: unknown): unknown => (body === undefined ? undefined : (JSON.parse(JSON.stringify(body)) as unknown))

/** Lets everything that was promised come about. */
export async function settled(rounds = 12) {
  for (let k = 0; k < rounds; k++) await Promise.resolve()
}
