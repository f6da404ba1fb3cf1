import { computed, ref, shallowRef, type Ref } from 'vue'

/** What the server keeps of a document: a version, and beside the body whatever else it works out. */
export interface Versioned {
  version: number
}

/** How one document is loaded, saved and taken apart. */
export interface Source<Body, View extends Versioned> {
  load: (signal: AbortSignal) => Promise<View>
  save: (version: number, body: Body) => Promise<View>
}

export type Saving = 'saved' | 'waiting' | 'saving' | 'failed' | 'stale'

const WORDS: Record<Saving, string> = { saved: 'Saved', waiting: 'Saving…', saving: 'Saving…', failed: 'Not saved yet', stale: 'Changed elsewhere' }

export interface Options<Body, View extends Versioned> {
  /** The body within what the server answers. */
  bodyOf: (view: View) => Body
  /** Called with each answer of the server to a load, and to a save when nothing was changed since. */
  onKept?: (view: View) => void
  /** Called after each edit. */
  onEdit?: () => void
  /** Of a failed save: the newer version if someone else saved before, and whether trying again may help. */
  failure: (e: unknown) => { message: string; newer: View | null; again: boolean }
  /** Milliseconds without an edit before it is saved, and before a failed save is tried again. */
  pauseMs?: number
  retryMs?: number
}

/** Whether two documents say the same, whatever the order of their fields; a field that is absent says nothing. */
function same(a: unknown, b: unknown): boolean {
  if (a === b || (a ?? null) === (b ?? null)) return true
  if (!a || !b || typeof a !== 'object' || typeof b !== 'object' || Array.isArray(a) !== Array.isArray(b)) return false
  const [x, y] = [a as Record<string, unknown>, b as Record<string, unknown>]
  return [...new Set([...Object.keys(x), ...Object.keys(y)])].every((k) => same(x[k], y[k]))
}

/**
 * A document that is edited here and kept by version on the server: undo, saving by itself, one save at a time, and a
 * stale edit that waits for the person to choose. An answer that belongs to a document that was closed since is dropped.
 */
export function useDocument<Body, View extends Versioned>(o: Options<Body, View>) {
  const body = ref(null) as Ref<Body | null>
  const version = ref(0)
  const saving = ref<Saving>('saved')
  const problem = ref('')
  const theirs = shallowRef<View | null>(null)
  const past = ref<string[]>([])
  const future = ref<string[]>([])
  let source: Source<Body, View> | null = null
  let loading: AbortController | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  let inFlight: Promise<void> | null = null
  let edits = 0
  /** Sent, and no answer came: the server may have kept it. */
  let unanswered: Body | null = null

  const saveText = computed(() => WORDS[saving.value])

  function adopt(view: View) {
    body.value = o.bodyOf(view)
    version.value = view.version
    o.onKept?.(view)
  }

  /** Saves what is waiting, then loads another document. */
  async function open(next: Source<Body, View>): Promise<void> {
    await flush()
    close()
    source = next
    loading = new AbortController()
    const { signal } = loading
    const view = await next.load(signal)
    if (source === next) adopt(view)
  }

  /** Leaves the document: nothing that arrives later lands. */
  function close() {
    clearTimeout(timer)
    loading?.abort()
    source = null
    unanswered = null
    body.value = null
    theirs.value = null
    problem.value = ''
    saving.value = 'saved'
    past.value = []
    future.value = []
  }

  /** Remembers the state before an edit, for undo. Call once per gesture. */
  function remember() {
    if (body.value === null) return
    past.value.push(JSON.stringify(body.value))
    if (past.value.length > 200) past.value.shift()
    future.value = []
  }

  function later(ms: number) {
    clearTimeout(timer)
    timer = setTimeout(() => void save(), ms)
  }

  /** After any change of the body: saved a little later. */
  function changed() {
    edits += 1
    o.onEdit?.()
    if (saving.value === 'stale') return
    if (saving.value !== 'saving') saving.value = 'waiting'
    later(o.pauseMs ?? 700)
  }

  /** Saves now. While a save is under way the next one follows it. */
  async function save(): Promise<void> {
    // those that waited for one go on one after another
    while (inFlight) await inFlight
    if (!source || body.value === null || saving.value === 'stale' || saving.value === 'saved') return
    clearTimeout(timer)
    const [mine, sent, sending] = [source, edits, body.value]
    saving.value = 'saving'
    inFlight = (async () => {
      try {
        const view = await mine.save(version.value, sending)
        if (source !== mine) return
        version.value = view.version
        problem.value = ''
        unanswered = null
        if (sent === edits) {
          saving.value = 'saved'
          o.onKept?.(view)
        } else {
          saving.value = 'waiting'
          later(400)
        }
      } catch (e) {
        if (source !== mine) return
        const f = o.failure(e)
        // our own save whose answer was lost: nobody else changed it
        const kept = f.newer ? o.bodyOf(f.newer) : null
        const whole = same(kept, sending)
        if (f.newer && (whole || (unanswered !== null && same(kept, unanswered)))) {
          version.value = f.newer.version
          problem.value = ''
          unanswered = null
          saving.value = whole && sent === edits ? 'saved' : 'waiting'
          if (saving.value === 'saved') o.onKept?.(f.newer)
          else later(400)
          return
        }
        if (!f.newer) unanswered = sending
        problem.value = f.message
        if (f.newer) {
          saving.value = 'stale'
          theirs.value = f.newer
        } else {
          saving.value = 'failed'
          if (f.again) later(o.retryMs ?? 4000)
        }
      }
    })()
    await inFlight
    inFlight = null
  }

  /** Sees that nothing is left waiting. */
  async function flush(): Promise<void> {
    if (inFlight) await inFlight
    if (saving.value === 'waiting' || saving.value === 'failed') await save()
  }

  /** After a stale edit: mine becomes the next version after theirs. */
  async function keepMine() {
    if (!theirs.value) return
    version.value = theirs.value.version
    theirs.value = null
    saving.value = 'waiting'
    await save()
  }

  /** After a stale edit: theirs comes in, mine stays one undo away. */
  function takeTheirs() {
    if (!theirs.value) return
    remember()
    adopt(theirs.value)
    theirs.value = null
    problem.value = ''
    saving.value = 'saved'
    o.onEdit?.()
  }

  function step(from: Ref<string[]>, to: Ref<string[]>) {
    const state = from.value.pop()
    if (!state || body.value === null) return
    to.value.push(JSON.stringify(body.value))
    body.value = JSON.parse(state)
    changed()
  }

  return {
    body, version, saving, saveText, problem, theirs, past, future,
    open, close, remember, changed, save, flush, keepMine, takeTheirs,
    undo: () => step(past, future),
    redo: () => step(future, past),
    /** The key of the document now open, to tell whether an answer still belongs to it. */
    belongs: (s: Source<Body, View>) => source === s,
  }
}
