<script setup lang="ts">
// Series: the views a shot list wants, which pictures stand for them, whether they agree, and files cropped alike.
import { computed, onBeforeUnmount, onMounted, reactive, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, pictureUrl, upload, type Placed, type Series, type SeriesComparison, type SeriesView, type ShotList, type WantedView } from '../api/client'
import { useCase } from '../cases/case'
import ConflictBar from '../shell/ConflictBar.vue'
import { copy } from '../shell/copy'
import { useDocument } from '../shell/document'
import { isTyping, messageOf, withCommand } from '../shell/events'
import { useJob } from '../shell/job'
import { failureOf } from '../shell/kept'
import PickFiles from '../shell/PickFiles.vue'
import PickOne from '../shell/PickOne.vue'
import { PICTURES } from '../shell/pictures'
import AgreementTable from './AgreementTable.vue'
import { cornersOf, freeViews } from './guide'
import ViewCamera from './ViewCamera.vue'
import ViewGuide from './ViewGuide.vue'

type Whole = Required<Series>
const EMPTY: Whole = { list: '', placed: [], ticked: [], ready: [], note: '' }
const current = useCase()
const router = useRouter()
const lists = shallowRef<ShotList[]>([])
const compared = shallowRef<SeriesComparison | null>(null)
const problem = ref('')
const busy = ref('')
const path = computed(() => ({ params: { path: { id: current.id } } }))
const kept = reactive(useDocument<Whole, SeriesView>({ bodyOf: (v) => copy({ ...EMPTY, ...v.series }), onKept: () => void compare(), failure: failureOf, pauseMs: 350 }))
const series = computed(() => kept.body ?? EMPTY)
const list = computed(() => lists.value.find((l) => l.id === series.value.list))
const report = computed(() => compared.value?.report)
/** Answers of the pictures to the list's checks. */
const answers = computed(() => new Map(report.value?.checks.map((c) => [c.id, c])))
const SIGNS = new Map<boolean | null | undefined, string>([[true, '✓'], [false, '✗']])
const { job, open: writing, problem: fileProblem, ask } = useJob()

async function load() {
  try {
    lists.value = await data(api.GET('/api/shot-lists'))
    await kept.open({
      load: (signal) => data(api.GET('/api/cases/{id}/series', { ...path.value, signal })),
      save: (version, body) => data(api.PUT('/api/cases/{id}/series', { ...path.value, body: { version, series: body } })),
    })
  } catch (e) {
    problem.value = messageOf(e)
  }
}
let asked = 0
async function compare() {
  const mine = ++asked
  if (!series.value.list || !series.value.placed.length) {
    compared.value = null
    return
  }
  busy.value = 'Comparing…'
  try {
    const found = await data(api.GET('/api/cases/{id}/series/comparison', path.value))
    if (mine === asked) compared.value = found
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
  if (mine === asked) busy.value = ''
}
function edit(change: Partial<Whole>) {
  if (!kept.body) return
  kept.remember()
  kept.body = { ...kept.body, ...change }
  kept.changed()
}
function choose(id: string) {
  const next = lists.value.find((l) => l.id === id)
  if (!next) return
  // pictures stay where the new list has the same view
  const known = (p: Placed) => next.views.some((v) => v.id === p.view)
  edit({ list: id, placed: series.value.placed.filter(known), ticked: [], ready: [] })
  chosen.value = 0
}

// slots: one for each view, and for a list that repeats one for each picture and one more
interface Slot {
  view: WantedView
  frame: string | null
}
const slots = computed<Slot[]>(() => {
  const l = list.value
  if (!l) return []
  const at = (v: WantedView) => series.value.placed.filter((p) => p.view === v.id).map((p) => ({ view: v, frame: p.frame }))
  return l.views.flatMap((v): Slot[] => {
    const here = at(v)
    return l.repeats || !here.length ? [...here, { view: v, frame: null }] : here
  })
})
const chosen = ref(0)
const slot = computed(() => slots.value[Math.min(chosen.value, slots.value.length - 1)])
const nameOf = (s: Slot) => (s.frame && pictureOf(s.frame)?.name) || s.view.name
const pictureOf = (frame: string) => compared.value?.pictures.find((p) => p.frame === frame)
const apartOf = (frame: string | null) => (frame ? (report.value?.apart.filter((a) => a.frame === frame) ?? []) : [])
const shown = computed(() => (slot.value?.frame ? pictureOf(slot.value.frame) : undefined))
const crop = computed(() => {
  const k = compared.value?.pictures.findIndex((p) => p.frame === slot.value?.frame) ?? -1
  return k < 0 ? null : (report.value?.crops[k] ?? null)
})
const withGuide = ref(true)

async function add(files: File[], first?: string) {
  const l = list.value
  if (!l) return
  const views = freeViews(l, series.value.placed, files.length, first)
  problem.value = views.length < files.length ? `${files.length - views.length} of ${files.length} pictures were left out: every view has one.` : ''
  for (const [i, view] of views.entries()) {
    const file = files[i]
    if (!file) break
    busy.value = `Sending ${i + 1} of ${views.length}…`
    try {
      const frame = await upload(current.id, file, () => {}, { role: 'view' })
      const others = series.value.placed.filter((p) => l.repeats || p.view !== view)
      edit({ placed: [...others, { view, frame: frame.id }] })
    } catch (e) {
      problem.value = messageOf(e)
      break
    }
  }
  busy.value = ''
  await kept.flush()
  await current.show()
}
function drop(e: DragEvent, view?: string) {
  const files = [...(e.dataTransfer?.files ?? [])].filter((f) => f.type.startsWith('image/') || /\.(exr|hdr|dng|tif|tiff)$/i.test(f.name))
  if (files.length) void add(files, view)
}
const spare = computed(() => (current.view?.frames ?? []).filter((f) => !series.value.placed.some((p) => p.frame === f.id)))
function place(frame: string) {
  const s = slot.value
  if (!s || !list.value) return
  const others = series.value.placed.filter((p) => p.frame !== s.frame)
  edit({ placed: [...others, { view: s.view.id, frame }] })
}
/** Gives a picture to another view; what stood there changes places with it. */
function moveTo(view: string) {
  const s = slot.value
  if (!s?.frame) return
  edit({ placed: series.value.placed.map((p) => (p.frame === s.frame ? { ...p, view } : p.view === view && !list.value?.repeats ? { ...p, view: s.view.id } : p)) })
  chosen.value = Math.max(0, slots.value.findIndex((q) => q.frame === s.frame))
}
function takeOut() {
  const s = slot.value
  if (s?.frame) edit({ placed: series.value.placed.filter((p) => p.frame !== s.frame) })
}
async function read() {
  if (!slot.value?.frame) return
  await current.show(slot.value.frame)
  await router.push({ name: 'read', params: { caseId: current.id } })
}
const camera = ref(false)
async function taken(file: File) {
  camera.value = false
  await add([file], slot.value?.view.id)
}
const toggle = (which: 'ticked' | 'ready', what: string) => edit({ [which]: series.value[which].includes(what) ? series.value[which].filter((t) => t !== what) : [...series.value[which], what] })
async function files() {
  await kept.flush()
  await ask({ kind: 'series', case: current.id })
}
function keys(e: KeyboardEvent) {
  if (isTyping(e)) return
  if (withCommand(e) && e.key.toLowerCase() === 'z') {
    e.preventDefault()
    if (e.shiftKey) kept.redo()
    else kept.undo()
  } else if (!withCommand(e) && (e.key === '[' || e.key === ']')) {
    chosen.value = Math.max(0, Math.min(slots.value.length - 1, chosen.value + (e.key === ']' ? 1 : -1)))
  }
}
onMounted(load)
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => {
  window.removeEventListener('keydown', keys)
  void kept.flush().then(() => kept.close())
})
</script>

<template>
  <div class="series">
    <section class="left" aria-label="Views">
      <div class="head">
        <h1 class="m-0">Series</h1>
        <PickOne :disabled="!kept.body" :value="series.list" none="choose a shot list" :options="lists.map((l) => ({ value: l.id, text: l.name }))" aria-label="Shot list" data-test="list" @pick="choose" />
        <span class="quiet small" role="status" data-test="series-state">{{ busy || kept.saveText }}</span>
        <BButton size="sm" variant="secondary" :disabled="!kept.past.length" data-test="undo" @click="kept.undo()">Undo</BButton>
        <BButton size="sm" variant="secondary" :disabled="!kept.future.length" data-test="redo" @click="kept.redo()">Redo</BButton>
        <PickFiles v-if="list" label="Add pictures" variant="primary" multiple :accept="PICTURES" data-test="add-views" @files="add($event)" />
      </div>
      <ConflictBar :document="kept" />
      <p v-if="problem" role="alert" class="problem" data-test="series-problem">{{ problem }}</p>
      <p v-if="!kept.body" class="quiet" role="status">{{ problem ? '' : 'Opening…' }}</p>
      <div v-else-if="!list" class="sheet none">
        <p class="m-0">A shot list says which views are wanted and how each lies in the frame. Pictures that stand for them are then held against each other: scale, base line, upright, exposure, balance, background, light.</p>
        <BListGroup>
          <BListGroupItem v-for="l in lists" :key="l.id" button :data-test="`choose-${l.id}`" @click="choose(l.id)"><strong>{{ l.name }}.</strong> {{ l.says }} <span class="quiet">{{ l.repeats ? 'Any number of people.' : `${l.views.length} views.` }}</span></BListGroupItem>
        </BListGroup>
      </div>
      <template v-else>
        <p class="quiet small m-0">{{ list.says }} Crop {{ list.aspect[0] }} : {{ list.aspect[1] }}, f/{{ list.f_number[0] }} to f/{{ list.f_number[1] }}.</p>
        <ul class="slots" aria-label="Wanted views">
          <li v-for="(s, k) in slots" :key="s.frame ?? `${s.view.id}-free`">
            <BButton variant="secondary" class="slot" :class="{ here: slot === s, stands: apartOf(s.frame).length }" :aria-pressed="slot === s" :data-test="`slot-${k}`" @click="chosen = k" @dragover.prevent @drop.prevent="drop($event, s.frame ? undefined : s.view.id)">
              <span class="thumb"><img v-if="s.frame" :src="pictureUrl(s.frame, 'thumb')" alt="" /><ViewGuide v-else :list="list" :view="s.view" :width="80" :height="100" /></span>
              <span class="label">{{ nameOf(s) }}</span>
              <span v-if="!s.frame" class="quiet small">{{ list.repeats ? 'the next one' : 'wanted' }}</span>
              <span v-for="a in apartOf(s.frame)" :key="a.quantity" class="tag">{{ a.quantity }}</span>
            </BButton>
          </li>
        </ul>
        <div v-if="slot" class="sheet one" data-test="chosen-view">
          <div class="stage" @dragover.prevent @drop.prevent="drop($event, slot.frame ? undefined : slot.view.id)">
            <template v-if="slot.frame">
              <img :src="pictureUrl(slot.frame, 'view')" :alt="nameOf(slot)" />
              <svg v-if="shown && withGuide" class="over" :viewBox="`0 0 ${shown.shown.width} ${shown.shown.height}`" preserveAspectRatio="none" aria-hidden="true">
                <polygon v-if="crop" class="crop" :points="cornersOf(crop)" />
                <template v-if="shown.shown.subject">
                  <rect :x="shown.shown.subject.from[0]" :y="shown.shown.subject.from[1]" :width="(shown.shown.subject.to[0] ?? 0) - (shown.shown.subject.from[0] ?? 0)" :height="(shown.shown.subject.to[1] ?? 0) - (shown.shown.subject.from[1] ?? 0)" />
                  <line class="base" x1="0" :x2="shown.shown.width" :y1="shown.shown.subject.base_px" :y2="shown.shown.subject.base_px" />
                </template>
              </svg>
            </template>
            <div v-else class="empty"><ViewGuide :list="list" :view="slot.view" :width="400" :height="500" /></div>
          </div>
          <div class="about">
            <h2>{{ nameOf(slot) }}</h2>
            <p class="m-0">{{ slot.view.says }}</p>
            <p v-for="a in apartOf(slot.frame)" :key="a.quantity" class="m-0 first" data-test="apart-here">{{ a.says }}</p>
            <p v-if="slot.frame && shown && !apartOf(slot.frame).length" class="m-0 quiet">Nothing of it stands out.</p>
            <p v-if="shown && !shown.shown.subject" class="m-0 quiet">No subject stands out from the background.</p>
            <div class="acts">
              <BButton size="sm" variant="primary" data-test="open-camera" @click="camera = true">{{ slot.frame && !list.repeats ? 'Take it again' : 'Take it' }}</BButton>
              <PickFiles label="Choose a picture" :accept="PICTURES" data-test="pick-view" @files="add($event.slice(0, 1), slot.view.id)" />
              <PickOne v-if="!slot.frame && spare.length" value="" none="of this case" :options="spare.map((f) => ({ value: f.id, text: `${f.role}: ${f.file_name}` }))" aria-label="A picture of this case" data-test="from-case" @pick="place" />
              <template v-if="slot.frame">
                <PickOne v-if="!list.repeats" :value="slot.view.id" :options="list.views.map((v) => ({ value: v.id, text: v.name }))" aria-label="Stands for" data-test="move-to" @pick="moveTo" />
                <BButton size="sm" variant="secondary" @click="read">Read it</BButton>
                <BButton size="sm" variant="secondary" data-test="take-out" @click="takeOut">Take it out</BButton>
                <BFormCheckbox v-model="withGuide" switch>crop and base line</BFormCheckbox>
              </template>
            </div>
          </div>
        </div>
      </template>
    </section>
    <section v-if="list" class="right" aria-label="Do they agree">
      <div v-if="report" class="sheet" data-test="series-report">
        <p v-for="(s, i) in report.says" :key="s" class="m-0" :class="{ first: i === 1 }">{{ s }}</p>
        <ol v-if="report.apart.length" class="apart">
          <li v-for="a in report.apart" :key="a.frame + a.quantity" data-test="apart"><BButton size="sm" variant="link" class="p-0" @click="chosen = slots.findIndex((s) => s.frame === a.frame)">{{ a.name }}</BButton>: {{ a.says }}</li>
        </ol>
        <AgreementTable :comparison="compared!" />
        <ul v-if="report.untold.length" class="quiet small m-0"><li v-for="u in report.untold" :key="u">{{ u }}</li></ul>
        <div class="acts">
          <BButton v-if="!writing" size="sm" variant="secondary" :disabled="!report.crops.some((c) => c)" data-test="crop-files" @click="files">Crop alike (zip)</BButton>
          <BProgress v-else class="bar" :value="job?.progress ?? 0" :max="1" aria-label="How many pictures are cropped" />
          <a v-if="job?.state === 'done'" :href="`/api/jobs/${job.id}/result`" download="series.zip" data-test="series-result">series.zip</a>
          <a :href="`/api/cases/${current.id}/series/comparison.csv`" download data-test="series-csv">Table (CSV)</a>
          <span v-if="fileProblem" role="alert" class="problem">{{ fileProblem }}</span>
        </div>
      </div>
      <div v-else class="sheet"><p class="m-0">{{ list.repeats ? 'Add a picture of each sitter.' : `${list.views.length} views are wanted; none is there yet.` }}</p></div>
      <div class="sheet">
        <h2>Checks</h2>
        <ul class="checks">
          <li v-for="c in list.checks" :key="c.id" :data-test="`check-${c.id}`">
            <template v-if="c.measured">
              <span class="sign" aria-hidden="true">{{ SIGNS.get(answers.get(c.id)?.holds) ?? '?' }}</span>
              <span><strong>{{ c.text }}.</strong> <span class="quiet small">{{ answers.get(c.id)?.says ?? 'The pictures will tell.' }}</span></span>
            </template>
            <BFormCheckbox v-else :model-value="series.ticked.includes(c.id)" @update:model-value="toggle('ticked', c.id)">{{ c.text }}</BFormCheckbox>
          </li>
        </ul>
      </div>
      <div class="sheet">
        <h2>Before the first picture</h2>
        <ul class="checks">
          <li v-for="p in list.prep" :key="p.text">
            <BFormCheckbox :model-value="series.ready.includes(p.text)" @update:model-value="toggle('ready', p.text)">{{ p.text }}</BFormCheckbox>
            <p v-if="p.caution" class="caution">{{ p.caution }}</p>
          </li>
        </ul>
        <h2 class="mt-2">Lay out</h2>
        <ul class="props">
          <li v-for="p in list.props" :key="p"><BFormCheckbox :model-value="series.ready.includes(p)" @update:model-value="toggle('ready', p)">{{ p }}</BFormCheckbox></li>
        </ul>
      </div>
    </section>
    <ViewCamera v-if="camera && list && slot" :list="list" :view="slot.view" @taken="taken" @close="camera = false" />
  </div>
</template>

<style scoped>
.series {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 25rem;
  gap: 1rem;
  padding: 0.9rem 1rem;
  align-items: start;
}
.left,
.right {
  display: grid;
  gap: 0.7rem;
  min-width: 0;
}
.left > *,
.right > * {
  min-width: 0;
}
.head,
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
  align-items: center;
}
.head :deep(.form-select),
.acts :deep(.form-select) {
  width: auto;
}
.none {
  display: grid;
  gap: 0.7rem;
}
.slots {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(6.2rem, 1fr));
  gap: 0.5rem;
  list-style: none;
  margin: 0;
  padding: 0;
}
.slot {
  display: grid;
  justify-items: center;
  align-content: start;
  gap: 0.15rem;
  width: 100%;
  height: 100%;
  padding: 0.35rem;
  color: var(--ink);
  background: var(--sheet);
  border: 0;
  border-bottom: 3px solid transparent;
  font-size: 0.84rem;
}
.slot.here {
  border-bottom-color: var(--light);
}
.thumb {
  position: relative;
  width: 5rem;
  height: 6.25rem;
  background: var(--band-2);
  border-radius: 4px;
  overflow: hidden;
}
.thumb img {
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.slot.stands .thumb {
  outline: 3px dashed var(--fault);
  outline-offset: -3px;
}
.tag {
  color: var(--fault);
  font-weight: 600;
}
.one {
  display: grid;
  grid-template-columns: minmax(0, auto) minmax(13rem, 1fr);
  gap: 0.9rem;
}
.stage {
  position: relative;
  align-self: start;
}
.stage img {
  display: block;
  max-width: 100%;
  max-height: 56vh;
  border-radius: 4px;
}
.empty {
  position: relative;
  height: min(50vh, 24rem);
  aspect-ratio: 4 / 5;
  background: var(--band-2);
}
.over {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.over * {
  fill: none;
  stroke: var(--light);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
  filter: drop-shadow(0 0 1px #000);
}
.over rect {
  stroke-dasharray: 5 5;
}
.over .base {
  stroke-width: 2.5;
}
.crop {
  stroke-dasharray: 12 6;
}
.about {
  display: grid;
  gap: 0.5rem;
  align-content: start;
}
.first {
  font-weight: 600;
}
.apart {
  margin: 0.4rem 0;
  padding-left: 1.2rem;
  display: grid;
  gap: 0.3rem;
}
.apart :deep(.btn-link) {
  color: var(--light);
  vertical-align: baseline;
}
.checks,
.props {
  list-style: none;
  padding: 0;
  margin: 0.3rem 0 0;
  display: grid;
  gap: 0.35rem;
}
.props {
  grid-template-columns: repeat(auto-fill, minmax(10rem, 1fr));
}
.checks > li:has(.sign) {
  display: grid;
  grid-template-columns: 1.5rem 1fr;
}
.sign {
  font-weight: 700;
}
.bar {
  width: 8rem;
}
@media (max-width: 900px) {
  .series,
  .one {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
