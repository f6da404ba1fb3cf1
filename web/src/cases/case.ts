import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, data, type CaseView, type FrameView, type Mark, type MarkedFrame, type Marks, type Readings } from '../api/client'
import { useDocument } from '../shell/document'
import { currentOf, failureOf } from '../shell/kept'
import { messageOf } from '../shell/events'

const NO_MARKS: Marks = { format: 'slant-marks/1', marks: [] }

/** The open case: the marks of the picture at work, and the reading that follows while they are dragged. */
export const useCase = defineStore('case', () => {
  const view = ref<CaseView | null>(null)
  /** Id of the open case. */
  const id = computed(() => view.value?.id ?? '')
  const readings = shallowRef<Readings | null>(null)
  const frameId = ref<string | null>(null)
  let asked: AbortController | null = null
  let reading = false
  let readAgain = false

  const kept = useDocument<Marks, MarkedFrame>({
    bodyOf: (m) => m.marks,
    onKept: (m) => (readings.value = m.readings),
    onEdit: () => void readNow(),
    failure: failureOf,
  })
  const marks = computed<Marks>({ get: () => kept.body.value ?? NO_MARKS, set: (m) => (kept.body.value = m) })
  const list = computed<Mark[]>(() => marks.value.marks ?? [])

  /** The picture sets are rebuilt from. */
  const reference = computed(() => view.value?.frames.filter((f) => f.role === 'reference').at(-1) ?? null)
  /** The picture at work: the one that was chosen, else the reference. */
  const frame = computed(() => view.value?.frames.find((f) => f.id === frameId.value) ?? reference.value ?? view.value?.frames.at(-1) ?? null)

  /** The same where a page is open on it. */
  const shown = computed<FrameView>(() => {
    if (!frame.value) throw new Error('No picture of this case is open.')
    return frame.value
  })

  async function open(id: string) {
    await kept.flush()
    if (view.value?.id !== id) frameId.value = null
    view.value = await data(api.GET('/api/cases/{id}', { params: { path: { id } } }))
    leave()
    if (frame.value) await marksOf(frame.value.id)
  }

  /** No answer about the picture that was at work lands any more. */
  function leave() {
    asked?.abort()
    readAgain = false
    readings.value = null
    kept.close()
  }

  function marksOf(id: string): Promise<void> {
    const params = { params: { path: { id } } }
    return kept.open({
      load: (signal) => data(api.GET('/api/frames/{id}/marks', { ...params, signal })),
      save: (version, marks) => data(api.PUT('/api/frames/{id}/marks', { ...params, body: { version, marks } })),
    })
  }

  /** Turns to another picture of the case; with no argument, loads the case again. */
  async function show(frame?: string) {
    if (!view.value) return
    await kept.flush()
    if (frame) frameId.value = frame
    await open(view.value.id)
  }

  /** One request at a time; the last state always gets read, and only for the picture that is still at work. */
  async function readNow() {
    const id = frame.value?.id
    if (!id) return
    if (reading) {
      readAgain = true
      return
    }
    reading = true
    do {
      readAgain = false
      const mine = new AbortController()
      asked = mine
      try {
        const found = await data(api.POST('/api/frames/{id}/read', { params: { path: { id } }, body: marks.value, signal: mine.signal }))
        if (!mine.signal.aborted) readings.value = found
        if (kept.saving.value !== 'stale') kept.problem.value = ''
      } catch (e) {
        if (!mine.signal.aborted) kept.problem.value = messageOf(e)
      }
    } while (readAgain && frame.value?.id === id)
    reading = false
    if (readAgain) void readNow()
  }

  /** Changes title, brief or note; a stale edit loads the current case and says so. */
  async function edit(change: { title?: string; brief?: string; note?: string }) {
    if (!view.value) return
    try {
      view.value = await data(
        api.PATCH('/api/cases/{id}', { params: { path: { id: view.value.id } }, body: { version: view.value.version, ...change } }),
      )
      kept.problem.value = ''
      // where marked parts should lie is asked of the brief
      if (change.brief) await readNow()
    } catch (e) {
      kept.problem.value = messageOf(e)
      view.value = currentOf<CaseView>(e) ?? view.value
    }
  }

  const { version, saving, saveText, problem, theirs, past, future, remember, changed, save, flush, keepMine, takeTheirs, undo, redo } = kept
  return { id, view, frame, shown, reference, frameId, show, marks, list, readings, version, saving, saveText, problem, theirs, past, future, open, remember, changed, readNow, save, flush, keepMine, takeTheirs, undo, redo, edit }
})
