import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, ApiProblem, data, type CaseView, type Mark, type MarkedFrame, type Marks, type Readings } from '../api/client'

/** The open case: its marks with undo, autosave and the reading that follows while dragging. */
export const useCase = defineStore('case', () => {
  const view = ref<CaseView | null>(null)
  const marks = ref<Marks>({ format: 'slant-marks/1', marks: [] })
  const readings = shallowRef<Readings | null>(null)
  const version = ref(0)
  const saving = ref<'saved' | 'waiting' | 'saving' | 'failed' | 'stale'>('saved')
  const problem = ref('')
  const theirs = shallowRef<MarkedFrame | null>(null)
  const past = ref<string[]>([])
  const future = ref<string[]>([])
  let timer: ReturnType<typeof setTimeout> | undefined
  let reading = false
  let readAgain = false
  let changes = 0

  const frameId = ref<string | null>(null)
  /** The picture sets are rebuilt from. */
  const reference = computed(() => view.value?.frames.filter((f) => f.role === 'reference').at(-1) ?? null)
  /** The picture at work: the one that was chosen, else the reference. */
  const frame = computed(() => view.value?.frames.find((f) => f.id === frameId.value) ?? reference.value ?? view.value?.frames.at(-1) ?? null)
  const saveText = computed(
    () => ({ saved: 'Saved', waiting: 'Saving…', saving: 'Saving…', failed: 'Not saved yet', stale: 'Changed elsewhere' })[saving.value],
  )
  const list = computed<Mark[]>(() => marks.value.marks ?? [])

  async function open(id: string) {
    await flush()
    if (view.value?.id !== id) frameId.value = null
    view.value = await data(api.GET('/api/cases/{id}', { params: { path: { id } } }))
    past.value = []
    future.value = []
    readings.value = null
    marks.value = { format: 'slant-marks/1', marks: [] }
    problem.value = ''
    theirs.value = null
    saving.value = 'saved'
    if (frame.value) adopt(await data(api.GET('/api/frames/{id}/marks', { params: { path: { id: frame.value.id } } })))
  }

  /** Turns to another picture of the case; with no argument, loads the case again. */
  async function show(frame?: string) {
    if (!view.value) return
    await flush()
    if (frame) frameId.value = frame
    await open(view.value.id)
  }

  function adopt(m: MarkedFrame) {
    marks.value = m.marks
    version.value = m.version
    readings.value = m.readings
  }

  /** Remembers the state before an edit, for undo. Call once per gesture. */
  function remember() {
    past.value.push(JSON.stringify(marks.value))
    if (past.value.length > 200) past.value.shift()
    future.value = []
  }

  /** After any change: read at once, save soon. */
  function changed() {
    changes += 1
    void readNow()
    clearTimeout(timer)
    if (saving.value !== 'stale') {
      saving.value = 'waiting'
      timer = setTimeout(() => void save(), 700)
    }
  }

  /** One request at a time; the last state always gets read. */
  async function readNow() {
    if (!frame.value) return
    if (reading) {
      readAgain = true
      return
    }
    reading = true
    do {
      readAgain = false
      try {
        readings.value = await data(api.POST('/api/frames/{id}/read', { params: { path: { id: frame.value.id } }, body: marks.value }))
        problem.value = ''
      } catch (e) {
        problem.value = (e as Error).message
      }
    } while (readAgain)
    reading = false
  }

  async function save() {
    if (!frame.value) return
    clearTimeout(timer)
    saving.value = 'saving'
    const sent = changes
    try {
      const m = await data(
        api.PUT('/api/frames/{id}/marks', { params: { path: { id: frame.value.id } }, body: { version: version.value, marks: marks.value } }),
      )
      version.value = m.version
      if (sent === changes) {
        readings.value = m.readings
        saving.value = 'saved'
      } else {
        saving.value = 'waiting'
        timer = setTimeout(() => void save(), 400)
      }
      problem.value = ''
    } catch (e) {
      problem.value = (e as Error).message
      if (e instanceof ApiProblem && e.status === 409) {
        saving.value = 'stale'
        theirs.value = e.problem.current as MarkedFrame
      } else {
        saving.value = 'failed'
        if (!(e instanceof ApiProblem) || e.status === 0 || e.status >= 500) timer = setTimeout(() => void save(), 4000)
      }
    }
  }

  async function flush() {
    if (saving.value === 'waiting') await save()
  }

  async function keepMine() {
    if (theirs.value) version.value = theirs.value.version
    theirs.value = null
    await save()
  }

  function takeTheirs() {
    if (!theirs.value) return
    remember()
    adopt(theirs.value)
    theirs.value = null
    problem.value = ''
    saving.value = 'saved'
  }

  function step(from: typeof past, to: typeof past) {
    const state = from.value.pop()
    if (!state) return
    to.value.push(JSON.stringify(marks.value))
    marks.value = JSON.parse(state) as Marks
    changed()
  }
  const undo = () => step(past, future)
  const redo = () => step(future, past)

  /** Changes title, brief or note; a stale edit loads the current case and says so. */
  async function edit(change: { title?: string; brief?: string; note?: string }) {
    if (!view.value) return
    try {
      view.value = await data(
        api.PATCH('/api/cases/{id}', { params: { path: { id: view.value.id } }, body: { version: view.value.version, ...change } }),
      )
      problem.value = ''
      // where marked parts should lie is asked of the brief
      if (change.brief) await readNow()
    } catch (e) {
      problem.value = (e as Error).message
      if (e instanceof ApiProblem && e.status === 409) view.value = e.problem.current as CaseView
    }
  }

  return { view, frame, reference, frameId, show, marks, list, readings, version, saving, saveText, problem, theirs, past, future, open, remember, changed, readNow, save, flush, keepMine, takeTheirs, undo, redo, edit }
})
