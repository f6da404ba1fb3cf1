import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, data, drawSet, wholeSet, type LightSet, type SetMeter, type SetView } from '../api/client'
import { useDocument } from '../shell/document'
import { failureOf } from '../shell/kept'
import { messageOf } from '../shell/events'

/** The set being moved about: its picture and meter follow, edits are undone and saved. */
export const useStage = defineStore('stage', () => {
  const caseId = ref('')
  const meter = shallowRef<SetMeter | null>(null)
  const picture = ref('')
  /** The reference's person under the lights of the set. */
  const relit = ref('')
  const samples = ref(-1)
  const of = ref(0)
  const tookMs = ref(0)
  const drawing = ref(false)
  let running: AbortController | null = null
  let seenFirst = false
  let again = false

  const kept = useDocument<LightSet, SetView>({
    bodyOf: (v) => wholeSet(v.set),
    onKept: (v) => (meter.value = v.meter),
    onEdit: () => void draw(),
    failure: failureOf,
    pauseMs: 800,
  })
  const set = kept.body
  const progress = computed(() => (samples.value < 0 ? 0 : of.value ? Math.max(samples.value, 0.4) / of.value : 0))

  async function load(id: string) {
    caseId.value = id
    picture.value = ''
    relit.value = ''
    const params = { params: { path: { id } } }
    try {
      await kept.open({
        load: (signal) => data(api.GET('/api/cases/{id}/set', { ...params, signal })),
        save: (version, set) => data(api.PUT('/api/cases/{id}/set', { ...params, body: { version, set } })),
      })
      void draw()
    } catch (e) {
      kept.problem.value = messageOf(e)
    }
  }

  /** Draws the set as it is built. While nothing has come of the drawing before, it is let finish its
   *  first look, so that a dragged light is seen moving. */
  async function draw() {
    if (!set.value) return
    if (running && !seenFirst) {
      again = true
      return
    }
    running?.abort()
    const mine = new AbortController()
    running = mine
    seenFirst = false
    again = false
    drawing.value = true
    try {
      await drawSet(caseId.value, set.value, mine.signal, (line) => {
        if (running !== mine) return
        if (line.meter) meter.value = line.meter
        if (line.jpeg) {
          picture.value = `data:image/jpeg;base64,${line.jpeg}`
          if (line.relit) relit.value = `data:image/jpeg;base64,${line.relit}`
          else if (line.done) relit.value = ''
          samples.value = line.samples
          of.value = line.of
          tookMs.value = line.after_ms
          seenFirst = true
          if (again) void draw()
        }
      })
      if (running === mine) kept.problem.value = ''
    } catch (e) {
      if (running === mine && !mine.signal.aborted) kept.problem.value = messageOf(e)
    } finally {
      if (running === mine) {
        running = null
        drawing.value = false
        if (again) void draw()
      }
    }
  }

  function stop() {
    running?.abort()
    running = null
    drawing.value = false
  }

  /** Changes the set: the picture follows at once, saving a little later. */
  function change(edit: (s: LightSet) => void) {
    if (!set.value) return
    edit(set.value)
    kept.changed()
  }

  async function fromReading() {
    try {
      const v = await data(api.GET('/api/cases/{id}/set/from-reading', { params: { path: { id: caseId.value } } }))
      kept.remember()
      change((s) => Object.assign(s, v.set))
    } catch (e) {
      kept.problem.value = messageOf(e)
    }
  }

  const { version, saving, saveText, problem, theirs, past, future, remember, save, flush, keepMine, takeTheirs, undo, redo } = kept
  return { caseId, set, meter, version, picture, relit, samples, of, tookMs, drawing, progress, problem, saving, saveText, theirs, past, future, load, draw, stop, remember, change, save, flush, fromReading, keepMine, takeTheirs, undo, redo }
})
