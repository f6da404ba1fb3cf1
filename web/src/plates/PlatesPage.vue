<script setup lang="ts">
// Plates: one picture for each lamp. Whether they add up, what mix meets a picture or levels, which plate wins where, and files of them.
import { computed, nextTick, onBeforeUnmount, onMounted, reactive, ref, shallowRef, watch } from 'vue'
import { api, data, pictureUrl, upload, type Desk, type DeskPlate, type DeskView, type MergePlan, type PatchWanted, type SumCheck } from '../api/client'
import { useCase } from '../cases/case'
import PickFiles from '../shell/PickFiles.vue'
import PickOne from '../shell/PickOne.vue'
import NumberField from '../shell/NumberField.vue'
import { PICTURES } from '../shell/pictures'
import ConflictBar from '../shell/ConflictBar.vue'
import { useDocument } from '../shell/document'
import { failureOf } from '../shell/kept'
import { isTyping, withCommand } from '../shell/events'
import { messageOf } from '../shell/events'
import { copy } from '../shell/copy'
import { factorsOf, gainsOf, Mixer } from './mixer'
import type { Painter } from './mask'
import { useMasks } from './masks'
import MaskLayer from './MaskLayer.vue'
import MaskTools from './MaskTools.vue'
import PlateRow from './PlateRow.vue'
import PlatesFile from './PlatesFile.vue'

const current = useCase()
const view = ref<DeskView | null>(null)
const problem = ref('')
const path = computed(() => ({ params: { path: { id: current.id } } }))
const EMPTY: Desk = { plates: [] }
/** The desk as it is worked on; saved a moment after the last change, one save at a time. */
const kept = reactive(useDocument<Desk, DeskView>({
  bodyOf: (v) => ({ ...copy(v.desk), plates: copy(v.desk.plates ?? []) }),
  onKept: (v) => (view.value = v),
  onEdit: changed,
  failure: failureOf,
  pauseMs: 450,
}))
const desk = computed(() => kept.body ?? EMPTY)
const plates = computed<DeskPlate[]>(() => desk.value.plates ?? [])
const busy = ref('')
const shows = ref<'mix' | 'winners' | 'plate'>('mix')
const chosen = ref(0)
const sum = shallowRef<SumCheck | null>(null)
const merge = shallowRef<MergePlan | null>(null)
const told = ref<string[]>([])
const patches = ref<PatchWanted[]>([])
const frames = computed(() => current.view?.frames ?? [])

async function load() {
  try {
    await kept.open({
      load: (signal) => data(api.GET('/api/cases/{id}/plates', { ...path.value, signal })),
      save: (version, desk) => data(api.PUT('/api/cases/{id}/plates', { ...path.value, body: { version, desk } })),
    })
    await textures()
    void checked()
  } catch (e) {
    problem.value = messageOf(e)
  }
}
// the picture while sliders move
const canvas = ref<HTMLCanvasElement>()
let mixer: Mixer | null = null
const MOST_SHOWN = 1100
async function bitmap(frame: string, width: number) {
  const blob = await (await fetch(pictureUrl(frame, 'view'))).blob()
  return createImageBitmap(blob, width ? { resizeWidth: width, resizeQuality: 'medium' } : {})
}
async function textures() {
  const [first] = plates.value
  if (!first) return
  await nextTick()
  // a page that was loaded anew has another canvas
  if (mixer && canvas.value && !mixer.isOn(canvas.value)) {
    mixer.close()
    mixer = null
  }
  mixer ??= canvas.value ? Mixer.on(canvas.value) : null
  const probe = await bitmap(first.frame, 0)
  const width = Math.min(probe.width, MOST_SHOWN)
  const full: [number, number] = [width, Math.round((probe.height * width) / probe.width)]
  if (!mixer) return masks.all(full)
  const all = await Promise.all(plates.value.map((p) => bitmap(p.frame, width)))
  const dark = desk.value.dark ? await bitmap(desk.value.dark, width) : null
  const size = (b: ImageBitmap) => `${b.width} ${b.height}`
  const odd = [...all, ...(dark ? [dark] : [])].find((b) => all[0] && size(b) !== size(all[0]))
  if (!odd) {
    mixer.load(all, dark)
    await masks.all(full)
  }
  draw()
}
const masks = reactive(
  useMasks({
    caseId: () => current.id,
    desk: () => desk.value,
    put,
    lay,
  }),
)
function lay(k: number, p: Painter) {
  mixer?.mask(k, p.grey(), p.width, p.height)
  draw()
}
function paint(k: number) {
  shows.value = 'mix'
  chosen.value = k
  void masks.paint(k)
}
let waiting = 0
function draw() {
  cancelAnimationFrame(waiting)
  waiting = requestAnimationFrame(() => mixer?.draw(factorsOf(plates.value, view.value?.tints ?? []), gains()))
}
/** Pictures that were exposed more or less than the others, by their settings. */
const exposed = computed(() => view.value?.exposed ?? [])
const gains = () => gainsOf([...plates.value.map((p) => p.frame), desk.value.dark], exposed.value, !!desk.value.as_taken)
const over = (frame: string) => exposed.value.find((e) => e.frame === frame)?.stops ?? 0
async function undone(yes: boolean) {
  edit((d) => (d.as_taken = !yes))
  await settle()
  await checked()
}
// and the picture of record once they rest
const exact = ref('')
let timer: ReturnType<typeof setTimeout> | undefined
let asked: AbortController | null = null
/** Lets a picture go once nothing can still be loading it. */
function letGo(url: string) {
  if (url) setTimeout(() => URL.revokeObjectURL(url), 10_000)
}
async function picture() {
  asked?.abort()
  asked = new AbortController()
  const { signal } = asked
  try {
    const answer = await fetch(`/api/cases/${current.id}/plates/picture`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(desk.value), signal })
    if (!answer.ok) return
    const blob = await answer.blob()
    letGo(exact.value)
    exact.value = URL.createObjectURL(blob)
  } catch {
    // a newer one is on its way
  }
}
const moving = ref(false)
function changed() {
  moving.value = true
  draw()
  clearTimeout(timer)
  timer = setTimeout(() => void settle(), 450)
}
/** Changes the desk: one step back takes a whole gesture back. */
function edit(change: (d: Desk & { plates: DeskPlate[] }) => void) {
  if (!kept.body) return
  if (!moving.value) kept.remember()
  const mine = { ...kept.body, plates: [...(kept.body.plates ?? [])] }
  change(mine)
  kept.body = mine
  kept.changed()
}
async function settle() {
  clearTimeout(timer)
  await kept.flush()
  await picture()
  moving.value = false
  void masks.follow()
  stamp.value++
  if (shows.value === 'winners') void merged()
}
const stamp = ref(0)
function put(k: number, change: Partial<DeskPlate>) {
  edit((d) => (d.plates = d.plates.map((p, i) => (i === k ? { ...p, ...change } : p))))
}
function order(k: number, by: -1 | 1) {
  if (k + by < 0 || k + by >= plates.value.length) return
  edit((d) => d.plates.splice(k + by, 0, ...d.plates.splice(k, 1)))
  chosen.value = k + by
  void textures()
}
async function special(which: 'dark' | 'all_on', frame: string | null) {
  edit((d) => Object.assign(d, { plates: d.plates.filter((p) => p.frame !== frame), [which]: frame }))
  await settle()
  await load()
}
async function checked() {
  if (!plates.value.length) return
  busy.value = 'Adding up…'
  try {
    sum.value = await data(api.GET('/api/cases/{id}/plates/check', path.value))
    problem.value = ''
    await picture()
  } catch (e) {
    sum.value = null
    problem.value = messageOf(e)
  }
  busy.value = ''
}
/** The camera's curve: taken from the sum, or plain sRGB again. All pictures of the case are then read anew. */
const curve = computed(() => current.view?.calibration ?? null)
async function readThrough(found: boolean) {
  busy.value = found ? 'Finding the curve…' : 'Reading as plain sRGB…'
  try {
    await settle()
    if (found) await data(api.PUT('/api/cases/{id}/plates/curve', path.value))
    else await data(api.DELETE('/api/cases/{id}/calibration', path.value))
    await current.show()
    await load()
  } catch (e) {
    problem.value = messageOf(e)
  }
  busy.value = ''
}
async function merged() {
  try {
    merge.value = await data(api.GET('/api/cases/{id}/plates/merge', path.value))
  } catch (e) {
    problem.value = messageOf(e)
  }
}
watch(shows, (s) => s === 'winners' && void merged())
const add = async (files: File[]) => {
  problem.value = ''
  try {
    for (const [i, file] of files.entries()) {
      busy.value = `Sending ${i + 1} of ${files.length}…`
      await upload(current.id, file, () => {}, { role: 'plate' })
    }
  } catch (e) {
    problem.value = messageOf(e)
  }
  busy.value = ''
  await current.show()
  await load()
}
const levels = (stops: readonly (number | null | undefined)[]) => {
  edit((d) => {
    d.plates = d.plates.map((p, k) => {
      const s = stops[k]
      return s == null ? { ...p, mute: true, solo: false } : { ...p, stops: Math.round(Math.max(-8, Math.min(8, s)) * 100) / 100, mute: false, solo: false }
    })
  })
}
const target = ref('')
const targets = computed(() => frames.value.filter((f) => !plates.value.some((p) => p.frame === f.id) && f.id !== desk.value.dark).map((f) => ({ value: f.id, text: `${f.role}: ${f.file_name}` })))
async function solve() {
  busy.value = 'Solving…'
  try {
    const mix = await data(api.POST('/api/cases/{id}/plates/mix', { ...path.value, body: { frame: target.value } }))
    told.value = [
      `${(100 * mix.residual_share).toFixed(1)} % of the picture is left over.`,
      ...plates.value.map((p, k) => (mix.stops[k] == null ? `${p.name}: off` : `${p.name}: ${mix.stops[k].toFixed(3)} ± ${(mix.sd_stops[k] ?? 0).toFixed(3)} stops`.replace(': -', ': −'))),
      ...mix.warnings.map((w) => w.text),
    ]
    levels(mix.stops)
  } catch (e) {
    problem.value = messageOf(e)
  }
  busy.value = ''
}
/** A place in the picture that is wanted at a level. */
function place(e: MouseEvent) {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  addPlace((e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height)
}
const MOST_PLACES = 24
function addPlace(across: number, down: number) {
  if (patches.value.length < MOST_PLACES) patches.value.push({ at: [across, down], radius: 0.02, stops: 0 })
}
async function meet() {
  try {
    await settle()
    const met = await data(api.POST('/api/cases/{id}/plates/patches', { ...path.value, body: { patches: patches.value } }))
    told.value = met.says.length ? met.says : ['All places are met.']
    levels(met.stops)
  } catch (e) {
    problem.value = messageOf(e)
  }
}
const shownPlate = computed(() => plates.value[chosen.value])
const names = computed(() => plates.value.map((p) => p.name))
onMounted(load)
function keys(e: KeyboardEvent) {
  const slides = e.target instanceof HTMLInputElement && e.target.type === 'range'
  if ((isTyping(e) && !slides) || !withCommand(e) || e.key.toLowerCase() !== 'z') return
  e.preventDefault()
  if (e.shiftKey) kept.redo()
  else kept.undo()
  void textures()
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => {
  window.removeEventListener('keydown', keys)
  clearTimeout(timer)
  void kept.flush().then(() => kept.close())
  asked?.abort()
  mixer?.close()
  letGo(exact.value)
})
</script>

<template>
  <div class="plates">
    <section class="left" aria-label="The mix">
      <p v-if="problem" role="alert" class="problem" data-test="plates-problem">{{ problem }}</p>
      <div v-if="view && !plates.length" class="none">
        <h1>Plates</h1>
        <p>One picture for each lamp, camera and product untouched. Then one with all lamps off, and one with all of them on. Name the files for what they show: “left edge”, “label”, “dark”, “all”.</p>
        <PickFiles label="Choose pictures" variant="primary" multiple :accept="PICTURES" data-test="add-plates" @files="add" />
        <p role="status" class="quiet">{{ busy }}</p>
      </div>
      <template v-else>
        <div class="head">
          <h1 class="m-0">Plates</h1>
          <BButtonGroup size="sm" aria-label="What is shown">
            <BButton v-for="s in [['mix', 'the mix'], ['winners', 'who wins where'], ['plate', 'one plate']] as const" :key="s[0]" variant="secondary" :class="{ active: shows === s[0] }" :aria-pressed="shows === s[0]" :data-test="`shows-${s[0]}`" @click="shows = s[0]">{{ s[1] }}</BButton>
          </BButtonGroup>
          <span class="quiet small" role="status" data-test="plates-saved">{{ busy || kept.saveText }}</span>
          <BButton size="sm" variant="secondary" :disabled="!kept.past.length" data-test="undo" @click="(kept.undo(), textures())">Undo</BButton>
          <BButton size="sm" variant="secondary" :disabled="!kept.future.length" data-test="redo" @click="(kept.redo(), textures())">Redo</BButton>
        </div>
        <ConflictBar :document="kept" />
        <MaskTools v-if="shows === 'mix' && masks.painted?.mask" v-model:radius="masks.brush.radius" v-model:soft="masks.brush.soft" v-model:adds="masks.brush.adds" :mask="masks.painted.mask" :name="masks.painted.name" @ground="masks.ground" @without="masks.without" @done="masks.done" />
        <div class="picture" @click="shows === 'mix' && !masks.painted && place($event)">
          <canvas v-show="shows === 'mix'" ref="canvas" role="img" :aria-label="`The mix of ${plates.length} plates`" data-test="mix-canvas" />
          <img v-if="shows === 'mix' && exact && !moving && !masks.painted" :src="exact" class="exact" alt="" data-test="mix-picture" />
          <img v-else-if="shows === 'winners'" :src="`/api/cases/${current.id}/plates/winners?${stamp}`" alt="Which plate is the lightest where" data-test="winners" />
          <img v-else-if="shows === 'plate' && shownPlate" :src="pictureUrl(shownPlate.frame, 'view')" :alt="`Plate ${shownPlate.name}`" />
          <MaskLayer v-if="shows === 'mix' && masks.painter && masks.painted?.mask" :painter="masks.painter" :mask="masks.painted.mask" :name="masks.painted.name" v-bind="masks.brush" @live="masks.painter && lay(masks.painting, masks.painter)" @stroke="masks.stroke" @size="masks.resize" @swap="masks.brush.adds = !masks.brush.adds" @full="problem = 'This mask is full: take some strokes back, or begin another plate.'" />
          <span v-for="(p, i) in shows === 'mix' ? patches : []" :key="i" class="spot" :style="{ left: `${100 * p.at[0]}%`, top: `${100 * p.at[1]}%` }" aria-hidden="true">{{ i + 1 }}</span>
        </div>
        <p v-if="shows === 'mix' && !masks.painted" class="quiet small m-0"><BButton size="sm" variant="secondary" data-test="add-place" :disabled="patches.length >= MOST_PLACES" @click="addPlace(0.5, 0.5)">Add a place</BButton> A place in the picture is to have a level; a click in it sets one too.</p>
        <div v-if="patches.length" class="sheet places" aria-label="Places with levels">
          <div v-for="(p, i) in patches" :key="i" class="place">
            <NumberField :label="`Place ${i + 1}: stops from grey`" :value="p.stops" :least="-12" :most="12" :data-test="`patch-${i}`" @change="(v) => v !== null && (p.stops = v)" />
            <NumberField label="across, %" :value="100 * p.at[0]" :least="0" :most="100" :digits="0" :data-test="`across-${i}`" @change="(v) => v !== null && (p.at = [v / 100, p.at[1]])" />
            <NumberField label="down, %" :value="100 * p.at[1]" :least="0" :most="100" :digits="0" @change="(v) => v !== null && (p.at = [p.at[0], v / 100])" />
            <BButton size="sm" variant="secondary" :aria-label="`Remove place ${i + 1}`" @click="patches.splice(i, 1)">×</BButton>
          </div>
          <BButton size="sm" variant="primary" data-test="meet" @click="meet">Solve for these levels</BButton>
        </div>
        <div v-if="shows === 'winners' && merge" class="sheet" data-test="merge">
          <BTableSimple small class="m-0">
            <thead><tr><th scope="col">Plate</th><th scope="col">wins</th></tr></thead>
            <tbody><tr v-for="(w, k) in merge.wins" :key="k"><td><span class="swatch" :style="{ background: merge.colours[k] }" aria-hidden="true" /> {{ names[k] }}</td><td><span class="figure">{{ (100 * w).toFixed(0) }} %</span></td></tr></tbody>
          </BTableSimple>
          <p v-for="s in merge.says" :key="s" class="m-0">{{ s }}</p>
        </div>
        <div v-if="sum" class="sheet" data-test="sum">
          <p v-for="(s, i) in sum.says" :key="s" class="m-0" :class="{ lead: i === 0 }">{{ s }}</p>
          <BButton v-if="sum.curve && !curve" size="sm" variant="primary" class="mt-1" data-test="take-curve" @click="readThrough(true)">Read this camera through that curve</BButton>
          <p v-if="curve" class="m-0" data-test="curve">Read through a tone curve ({{ curve.by }}): {{ curve.says }} <BButton size="sm" variant="secondary" data-test="plain-curve" @click="readThrough(false)">As plain sRGB again</BButton></p>
        </div>
        <div v-if="told.length" class="sheet small" role="status" data-test="told"><p v-for="t in told" :key="t" class="m-0">{{ t }}</p></div>
      </template>
    </section>
    <section v-if="plates.length" class="right" aria-label="Plates">
      <PlateRow v-for="(p, k) in plates" :key="p.frame" :plate="p" :index="k" :last="k === plates.length - 1" :here="chosen === k" :over="over(p.frame)" :undone="!desk.as_taken" @choose="chosen = k" @put="put(k, $event)" @order="order(k, $event)" @mask="masks.painting === k ? masks.done() : paint(k)" />
      <div class="sheet tools">
        <label>Dark frame<PickOne :value="desk.dark ?? ''" none="none" :options="frames.filter((f) => f.id !== desk.all_on).map((f) => ({ value: f.id, text: f.file_name }))" aria-label="Dark frame" data-test="dark" @pick="special('dark', $event)" @clear="special('dark', null)" /></label>
        <label>All lights on<PickOne :value="desk.all_on ?? ''" none="none" :options="frames.filter((f) => f.id !== desk.dark).map((f) => ({ value: f.id, text: f.file_name }))" aria-label="Picture with all lights on" data-test="all-on" @pick="special('all_on', $event)" @clear="special('all_on', null)" /></label>
        <BFormCheckbox v-if="exposed.length" class="m-0" :model-value="!desk.as_taken" data-test="undo-exposure" @update:model-value="(v) => void undone(!!v)">Undo the differences of exposure: {{ exposed.length === 1 ? 'one picture was' : `${exposed.length} pictures were` }} exposed otherwise, by their settings</BFormCheckbox>
        <div class="row-of">
          <label class="wide">Solve for<PickOne :value="target" none="a picture of this case" :options="targets" aria-label="Picture to be met" data-test="target" @pick="target = $event" /></label>
          <BButton size="sm" variant="primary" :disabled="!target || busy !== ''" data-test="solve" @click="solve">Solve</BButton>
        </div>
        <div class="row-of">
          <BButton size="sm" variant="secondary" data-test="all-zero" @click="levels(plates.map(() => 0))">All as taken</BButton>
          <BButton size="sm" variant="secondary" data-test="check" @click="checked">Add up again</BButton>
          <PickFiles label="More plates" multiple :accept="PICTURES" @files="add" />
        </div>
        <PlatesFile :case-id="current.id" :before="settle" />
      </div>
      <details class="sheet" data-test="in-camera">
        <summary>In one exposure, without mixing</summary>
        <ul class="m-0"><li v-for="c in view?.in_camera ?? []" :key="c.name">{{ c.says }}<template v-if="c.seconds"> Laid over each other in one frame: {{ c.seconds < 0.3 ? `1/${(1 / c.seconds).toFixed(0)}` : c.seconds.toFixed(1) }} s.</template></li></ul>
      </details>
    </section>
  </div>
</template>

<style scoped>
.plates {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 25rem;
  gap: 0.9rem;
  padding: 0.7rem 0.9rem;
}
.left,
.right {
  display: grid;
  gap: 0.5rem;
  align-content: start;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 0.7rem;
  align-items: center;
}
.picture {
  position: relative;
  background: var(--band-2);
  border-radius: 6px;
  overflow: hidden;
  justify-self: center;
  max-width: 100%;
}
.picture canvas,
.picture img {
  display: block;
  max-width: 100%;
  max-height: 68vh;
}
.picture canvas {
  width: min(calc(var(--wide, 300) * 1px), calc(68vh * var(--wide, 300) / var(--high, 300)));
  aspect-ratio: var(--wide, 300) / var(--high, 300);
  height: auto;
}
.picture .exact {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.spot {
  position: absolute;
  transform: translate(-50%, -50%);
  min-width: 1.4rem;
  text-align: center;
  border: 2px solid var(--light);
  border-radius: 50%;
  background: var(--dark);
  color: var(--light);
  font-size: 0.8rem;
  font-weight: 700;
}
.swatch {
  display: inline-block;
  width: 0.9rem;
  height: 0.9rem;
  border-radius: 3px;
  vertical-align: -0.1rem;
}
.places {
  display: grid;
  gap: 0.4rem;
  align-items: end;
}
.place,
.row-of {
  display: flex;
  gap: 0.4rem;
  align-items: end;
  flex-wrap: wrap;
}
.wide {
  flex: 1;
}
.lead {
  font-weight: 600;
}
.tools {
  display: grid;
  gap: 0.5rem;
}
ul {
  padding-left: 1.2rem;
}
.none {
  max-width: 40rem;
}
@media (max-width: 900px) {
  .plates {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
