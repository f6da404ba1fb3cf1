import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, ApiProblem, data, drawSet, type LightSet, type SetMeter, type SetView } from '../api/client'

/** The set being moved about: its picture and meter follow, edits are undone and saved. */
export const useStage = defineStore('stage', () => {
  const caseId = ref('')
  const set = ref<LightSet | null>(null)
  const meter = shallowRef<SetMeter | null>(null)
  const version = ref(0)
  const picture = ref('')
  const samples = ref(-1)
  const of = ref(0)
  const tookMs = ref(0)
  const drawing = ref(false)
  const problem = ref('')
  const saving = ref<'saved' | 'waiting' | 'saving' | 'failed'>('saved')
  const past = ref<string[]>([])
  const future = ref<string[]>([])
  let timer: ReturnType<typeof setTimeout> | undefined
  let running: AbortController | null = null
  let seenFirst = false
  let again = false

  const progress = computed(() => (samples.value < 0 ? 0 : of.value ? Math.max(samples.value, 0.4) / of.value : 0))

  function adopt(v: SetView) {
    set.value = v.set
    meter.value = v.meter
    version.value = v.version
  }

  async function load(id: string) {
    caseId.value = id
    set.value = null
    picture.value = ''
    problem.value = ''
    past.value = []
    future.value = []
    try {
      adopt(await data(api.GET('/api/cases/{id}/set', { params: { path: { id } } })))
      void draw()
    } catch (e) {
      problem.value = (e as Error).message
    }
  }

  /** Draws the set as it stands. While nothing has come of the drawing before, it is let finish its
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
          samples.value = line.samples
          of.value = line.of
          tookMs.value = line.after_ms
          seenFirst = true
          if (again) void draw()
        }
      })
      if (running === mine) problem.value = ''
    } catch (e) {
      if (running === mine && !mine.signal.aborted) problem.value = (e as Error).message
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

  /** Remembers the state before an edit. Call once per gesture. */
  function remember() {
    if (!set.value) return
    past.value.push(JSON.stringify(set.value))
    if (past.value.length > 100) past.value.shift()
    future.value = []
  }

  /** Changes the set: the picture follows at once, saving a little later. */
  function change(edit: (s: LightSet) => void) {
    if (!set.value) return
    edit(set.value)
    void draw()
    saving.value = 'waiting'
    clearTimeout(timer)
    timer = setTimeout(() => void save(), 800)
  }

  async function save() {
    if (!set.value) return
    clearTimeout(timer)
    saving.value = 'saving'
    try {
      const v = await data(api.PUT('/api/cases/{id}/set', { params: { path: { id: caseId.value } }, body: { version: version.value, set: set.value } }))
      version.value = v.version
      if ((saving.value as string) === 'saving') saving.value = 'saved'
    } catch (e) {
      saving.value = 'failed'
      problem.value = (e as Error).message
      if (e instanceof ApiProblem && e.status === 409) {
        // the other one comes in; mine stays one undo away
        remember()
        adopt(e.problem.current as SetView)
        saving.value = 'saved'
        void draw()
      }
    }
  }

  async function flush() {
    if (saving.value === 'waiting') await save()
  }

  async function fromReading() {
    try {
      const v = await data(api.GET('/api/cases/{id}/set/from-reading', { params: { path: { id: caseId.value } } }))
      remember()
      change((s) => Object.assign(s, v.set))
    } catch (e) {
      problem.value = (e as Error).message
    }
  }

  function step(from: typeof past, to: typeof past) {
    const state = from.value.pop()
    if (!state || !set.value) return
    to.value.push(JSON.stringify(set.value))
    set.value = JSON.parse(state) as LightSet
    change(() => undefined)
  }
  const undo = () => step(past, future)
  const redo = () => step(future, past)

  return { caseId, set, meter, version, picture, samples, of, tookMs, drawing, progress, problem, saving, past, future, load, draw, stop, remember, change, save, flush, fromReading, undo, redo }
})
