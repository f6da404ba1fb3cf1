<script setup lang="ts">
// The set, its picture beside the reference, and everything that can be moved.
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { api, data, pictureUrl, type Choices, type LightSet, type LineWay, type PlanView, type SetLight, type Thing } from '../api/client'
import { useRouter } from 'vue-router'
import type { components } from '../api/schema'
import { useBench } from '../bench/bench'
import { useCase } from '../cases/case'
import SlantLine from '../halo/SlantLine.vue'
import { fromMetres, length, toMetres, type P3, type Units } from './drawing'
import CandidateList from './CandidateList.vue'
import { lampFor, unlike } from './lamps'
import GiveOut from './GiveOut.vue'
import KeepRecipe from './KeepRecipe.vue'
import LargePicture from './LargePicture.vue'
import LineEditor from './LineEditor.vue'
import LineOnProduct from './LineOnProduct.vue'
import { useLine } from './line'
import LightEditor from './LightEditor.vue'
import BeforeLamp from './BeforeLamp.vue'
import BoardEditor from './BoardEditor.vue'
import FlagEditor from './FlagEditor.vue'
import MeterTable from './MeterTable.vue'
import RoomEditor from './RoomEditor.vue'
import SetDrawing from './SetDrawing.vue'
import SubjectEditor from './SubjectEditor.vue'
import SunDialog from './SunDialog.vue'
import WalkEditor from './WalkEditor.vue'
import { useStage } from './stage'
import ConflictBar from '../shell/ConflictBar.vue'
import RatioLines from '../shell/RatioLines.vue'
import NumberField from '../shell/NumberField.vue'
import TextField from '../shell/TextField.vue'
import { read, shutter } from '../shell/units'
import { useVersioned } from '../shell/versioned'
import { isTyping, messageOf, withCommand } from '../shell/events'

const current = useCase()
const stage = useStage()
const bench = useBench()
const router = useRouter()
const plan = ref<PlanView | null>(null)
const problem = ref('')
const { save } = useVersioned(plan, problem)
const chosen = ref<number | null>(0)
const units = ref<Units>(localStorage.getItem('units') === 'ft' ? 'ft' : 'm')
const caseId = computed(() => current.id)
const path = computed(() => ({ params: { path: { id: caseId.value } } }))
const set = computed(() => stage.set)
/** The sitter under the set's lights, where a face was read and neither chin nor lens were moved; else the stand-in. */
const wantsRelit = ref(true)
const showsRelit = computed(() => wantsRelit.value && stage.relit !== '')
/** A bright line that is drawn on a product. */
const line = useLine(set, caseId)
watch(() => stage.meter, () => void line.find())

async function loadPlan() {
  try {
    plan.value = await data(api.GET('/api/cases/{id}/plan', path.value))
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(async () => {
  await current.flush()
  await Promise.all([current.reference ? loadPlan() : undefined, stage.load(caseId.value)])
  takeFromBench()
  window.addEventListener('keydown', keys, true)
})
onBeforeUnmount(() => {
  window.removeEventListener('keydown', keys, true)
  stage.stop()
  void stage.flush()
})
function keys(e: KeyboardEvent) {
  if (isTyping(e) || !withCommand(e)) return
  const back = e.key.toLowerCase() === 'z' && !e.shiftKey
  if (back || (e.key.toLowerCase() === 'z' && e.shiftKey) || e.key.toLowerCase() === 'y') {
    e.preventDefault()
    e.stopPropagation()
    if (back) stage.undo()
    else stage.redo()
  }
}

const floor = computed(() => -(set.value?.walls.find((w) => w.normal[1] > 0.9)?.position_m[1] ?? -(plan.value?.plan.eye_height_m ?? 1.25)))
// a light that still is the one of the reading has a plan beside it
const planOf = (i: number) => {
  const l = plan.value?.plan.lights
  return l && l.length === set.value?.lights.length ? (l[i] ?? null) : null
}
function setUnits(u: Units) {
  units.value = u
  localStorage.setItem('units', u)
}
function edit(change: (s: LightSet) => void) {
  stage.remember()
  stage.change(change)
}
function editLight(i: number, change: Partial<SetLight>) {
  stage.change((s) => {
    const l = s.lights[i]
    if (l) Object.assign(l, change)
  })
}
function move(thing: Thing, to: P3) {
  const mm = (v: number) => Math.round(v * 1000) / 1000
  const p: P3 = [mm(to[0]), mm(to[1]), mm(to[2])]
  stage.change((s) => {
    const light = s.lights[thing.i]
    const sheet = (thing.what === 'board' ? s.boards : s.flags)[thing.i]
    if (thing.what === 'outlet') s.outlet_m = [p[0], p[2]]
    else if (thing.what === 'lens') s.camera.position_m = p
    else if (thing.what === 'mark' && s.walk_m) s.walk_m[thing.i] = [p[0], p[2]]
    else if (thing.what === 'aim' && light) light.aim_m = p
    else if (thing.what === 'light' && light) Object.assign(light, { position_m: p, azimuth_deg: null, elevation_deg: null, distance_m: null })
    else if (sheet) sheet.position_m = p
  })
}
function addLight() {
  edit((s) => s.lights.push(lampFor(stage.meter?.lights ?? [])))
  chosen.value = (set.value?.lights.length ?? 1) - 1
}
function addBoard() {
  edit((s) => s.boards.push({ position_m: [0.6, 0, 0.4], aim_m: [0, 0, 0], width_m: 0.7, height_m: 1, finish: 'white' }))
}
/** A slit between the key and the eyes, to be set. */
function addCutter() {
  const key = stage.meter?.lights.find((l) => l.role === 'key') ?? stage.meter?.lights[0]
  if (!key) return
  const near = (v: number) => Math.round(v * 200) / 1000
  edit((s) => s.flags.push({ position_m: [near(key.face_m[0]), near(key.face_m[1]), near(key.face_m[2])], aim_m: [0, 0, 0], width_m: 0.7, height_m: 0.9, pattern: { kind: 'slit', opening_m: 0.04 } }))
}
/** What gives a line stands in the set: as a lamp of its own name, or as a board. */
function takeLine(way: LineWay) {
  edit((s) => {
    if (way.board) s.boards.push(way.board)
    if (way.flag) s.flags.push(way.flag)
    if (way.light) s.lights.push({ ...way.light, name: unlike(way.light.name, s.lights.map((l) => l.name)) })
  })
  if (way.light) chosen.value = (set.value?.lights.length ?? 1) - 1
}
const wantsSun = ref(false)
const sunSays = ref<string[]>([])
/** Daylight in place of an earlier one. */
function putSun(found: components['schemas']['SunStands']) {
  wantsSun.value = false
  sunSays.value = found.says
  const names = ['sun', 'window']
  edit((s) => {
    s.lights = [...s.lights.filter((l) => !names.includes(l.name)), ...found.lights]
    if (found.walls) s.walls = found.walls
  })
}
/** Width and height of a source's bright face, metres. */
function faceOf(source: SetLight['source']): [number, number] {
  const given = { width_m: undefined, height_m: undefined, diameter_m: undefined, length_m: undefined, ...source }
  const across = given.width_m ?? given.diameter_m ?? given.length_m ?? 0.1
  return [across, given.height_m ?? given.diameter_m ?? given.width_m ?? across]
}
/** Figures of a light go to the bench. */
function toBench(i: number) {
  const [l, m, c] = [set.value?.lights[i], stage.meter?.lights[i], set.value?.camera.exposure]
  if (!l || !m || !c) return
  const [across, high] = faceOf(l.source)
  const face = { face_w_m: across, face_h_m: high }
  const beam = 'beam_deg' in l.source ? l.source.beam_deg : undefined
  const sheet = l.scrims?.[0]
  const figures = {
    ...face,
    modifier: beam ? 2 : 1,
    ...(beam ? { dish_beam_deg: beam } : {}),
    sheet: sheet ? 1 : 0,
    ...(sheet ? { gap_m: sheet.gap_m, sheet_w_m: sheet.width_m, sheet_h_m: sheet.height_m, transmission: sheet.transmission } : {}),
    distance_m: m.distance_m,
    f_number: c.f_number,
    shutter_s: c.shutter_s,
    iso: c.iso,
    over_stops: 'stops' in l.level ? l.level.stops : 0,
    magnification: 0,
  }
  bench.take({ caseId: caseId.value, light: i, name: l.name }, figures)
  void router.push('/bench')
}
/** and come back: distance, face and exposure. */
function takeFromBench() {
  const b = bench.back
  const l = b?.caseId === caseId.value ? set.value?.lights[b.light] : null
  bench.back = null
  const m = b && stage.meter?.lights[b.light]
  if (!b || !l || !m) return
  edit((s) => {
    const mine = s.lights[b.light]
    if (!mine) return
    if (!mine.bounce) Object.assign(mine, { position_m: null, azimuth_deg: m.azimuth_deg, elevation_deg: m.elevation_deg, distance_m: b.distance_m + (mine.scrims?.[0]?.gap_m ?? 0) })
    const { source } = mine
    if ('width_m' in source) source.width_m = b.face_w_m
    if ('height_m' in source) source.height_m = b.face_h_m
    if ('diameter_m' in source && source.kind !== 'tube') source.diameter_m = b.face_w_m
    s.camera.exposure = { ...b.exposure }
  })
  chosen.value = b.light
}
/** A candidate's lights and boards; subject, camera and room stay as they are. */
function takeSet(from: LightSet) {
  edit((s) => {
    s.lights = from.lights
    s.boards = from.boards
  })
  chosen.value = 0
}
function editSubject(change: Partial<LightSet['subjects'][number]>) {
  edit((s) => (s.subjects = [{ ...s.subjects[0], ...change } as LightSet['subjects'][number], ...s.subjects.slice(1)]))
}
function setExposure(part: 'f_number' | 'shutter_s' | 'iso', v: number | null) {
  if (v && v > 0) edit((s) => (s.camera.exposure[part] = v))
  else problem.value = 'Aperture, shutter and ISO need a number above zero.'
}
async function savePlan(change: Partial<Choices>) {
  await save((now) => api.PUT('/api/cases/{id}/plan', { ...path.value, body: { version: now.version, choices: { ...now.choices, ...change } } }))
}
function setFloor(text: string) {
  const v = toMetres(text, units.value)
  if (!(v > 0.05)) return
  edit((s) => s.walls.filter((w) => w.normal[1] > 0.9).forEach((w) => (w.position_m[1] = -v)))
  void savePlan({ eye_height_m: v })
}
type Room = NonNullable<LightSet['ambient']>
/** A room that was taken from a picture holds the lamps of that picture: those of the set go off. */
function editRoom(room: Room, lampsOff: boolean) {
  edit((s) => {
    s.ambient = room
    if (lampsOff) s.lights.forEach((l) => (l.off = true))
  })
}
const moveRoom = (room: Room) => stage.change((s) => (s.ambient = room))
const shownBall = computed(() => (current.readings?.room?.shown_by === 'mirror' ? current.reference?.id : undefined))
const files = [
  { as: 'pdf', text: 'PDF' },
  { as: 'png', text: 'PNG' },
  { as: 'svg', text: 'SVG' },
  { as: 'gltf', text: 'glTF' },
  { as: 'json', text: 'set' },
]
const fileOf = (as: string) => `/api/cases/${caseId.value}/set/file?as=${as}${units.value === 'ft' ? '&feet=true' : ''}`
const status = computed(() => {
  if (stage.samples < 0) return stage.drawing ? 'Drawing…' : ''
  if (stage.drawing) return stage.samples === 0 ? 'First look…' : `${stage.samples} of ${stage.of} samples…`
  return `Drawn in ${(stage.tookMs / 1000).toFixed(stage.tookMs < 100 ? 3 : 1)} s`
})
</script>

<template>
  <div class="rebuild">
    <section class="left" aria-label="The set and its picture">
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
      <ConflictBar :document="stage" />
      <p v-if="!set && !stage.problem" class="quiet" role="status">Working out the set…</p>
      <template v-if="set && stage.meter">
        <div class="pictures" :class="{ alone: !current.reference, lining: line.drawing.value }">
          <figure v-if="current.reference">
            <img :src="pictureUrl(current.reference.id, 'view')" alt="The reference picture" />
            <figcaption>Reference</figcaption>
          </figure>
          <figure>
            <div class="shot" :class="{ coarse: stage.samples === 0 }">
              <img v-if="showsRelit" :src="stage.relit" alt="The person of the reference under the lights of this set" data-test="relit-picture" />
              <img v-else-if="stage.picture" :src="stage.picture" alt="What this set would give, drawn by the stand-in studio" data-test="studio-picture" />
              <span v-else class="quiet">Drawing…</span>
              <LineOnProduct v-if="line.drawing.value && !showsRelit" :wanted="line.wanted.value" :shown="line.plan.value?.shown ?? null" :width="set.picture?.width ?? 640" :height="set.picture?.height ?? 480" @edit="line.edit" />
              <BButton v-if="line.subject.value >= 0 && !showsRelit" size="sm" variant="secondary" class="over-picture" :class="{ active: line.drawing.value }" :aria-pressed="line.drawing.value" data-test="draw-line" @click="line.draw(!line.drawing.value)">Draw a bright line</BButton>
            </div>
            <figcaption>
              <BButtonGroup v-if="stage.relit" size="sm" aria-label="What is shown under the set's lights">
                <BButton variant="secondary" :class="{ active: showsRelit }" :aria-pressed="showsRelit" data-test="show-relit" @click="wantsRelit = true">Themselves, relit</BButton>
                <BButton variant="secondary" :class="{ active: !showsRelit }" :aria-pressed="!showsRelit" data-test="show-stand-in" @click="wantsRelit = false">Stand-in</BButton>
              </BButtonGroup>
              <template v-else>This set, by the stand-in studio</template>
              <span class="figure quiet" role="status" data-test="studio-status">{{ status }}</span>
              <BButton v-if="stage.drawing && stage.samples >= 0" size="sm" variant="secondary" @click="stage.stop()">Stop</BButton>
            </figcaption>
          </figure>
        </div>
        <p v-if="showsRelit" class="quiet small m-0">The picture times what the set's lights change on the head that was fitted. Hatched: clipped, black or unlit in the picture, so it cannot be known. Hair, clothes and background follow only roughly.</p>
        <LineEditor v-if="line.drawing.value" :wanted="line.wanted.value" :plan="line.plan.value" :problem="line.problem.value" :is-box="line.isBox.value" @edit="line.edit" @close="line.draw(false)" @take="takeLine" />
        <div class="drawings">
          <figure><SetDrawing :set="set" :meter="stage.meter" aspect="plan" :units="units" :chosen="chosen" :beside="line.plan.value?.shown.plan" @choose="chosen = $event" @grab="stage.remember()" @move="move" /><figcaption>From above: drag a light or a board</figcaption></figure>
          <figure><SetDrawing :set="set" :meter="stage.meter" aspect="side" :units="units" :chosen="chosen" :beside="line.plan.value?.shown.side" @choose="chosen = $event" @grab="stage.remember()" @move="move" /><figcaption>From the side</figcaption></figure>
        </div>
        <CandidateList v-if="current.reference" :case-id="caseId" @take="takeSet" />
        <p v-for="w in stage.meter.warnings" :key="w" class="problem" data-test="set-warning">{{ w }}</p>
        <p v-for="c in stage.meter.cautions" :key="c" class="caution" data-test="caution"><strong>Take care.</strong> {{ c }}</p>
        <details v-if="plan && plan.plan.lights.length" class="sheet">
          <summary>The arithmetic of the reading</summary>
          <ul class="working figure"><li v-for="w in plan.plan.exposure.working" :key="w">{{ w }}</li></ul>
          <RatioLines v-if="plan.plan.exposure.ratios" :ratio="plan.plan.exposure.ratios" />
          <ul v-if="plan.plan.assumptions.length" class="working quiet"><li v-for="a in plan.plan.assumptions" :key="a">Assumed: {{ a }}</li></ul>
          <p class="quiet mb-0">A picture tells the angle a light fills, not its distance: a larger one farther away gives the same picture, but falls off less across the subject and on the background.</p>
        </details>
      </template>
    </section>
    <section v-if="set && stage.meter" class="right" aria-label="Lights and exposure">
      <div class="top">
        <h1 class="m-0">The set</h1>
        <span class="quiet small" data-test="set-saved">{{ stage.saveText }}</span>
        <BButtonGroup size="sm" aria-label="Undo and redo">
          <BButton variant="secondary" :disabled="!stage.past.length" data-test="set-undo" @click="stage.undo()">Undo</BButton>
          <BButton variant="secondary" :disabled="!stage.future.length" @click="stage.redo()">Redo</BButton>
        </BButtonGroup>
        <BButtonGroup size="sm" aria-label="Units">
          <BButton v-for="u in ['m', 'ft'] as const" :key="u" variant="secondary" :class="{ active: units === u }" :aria-pressed="units === u" :data-test="`units-${u}`" @click="setUnits(u)">{{ u === 'm' ? 'metres' : 'feet' }}</BButton>
        </BButtonGroup>
      </div>
      <SlantLine v-if="stage.meter.slant" :line="stage.meter.slant" />
      <p class="sheet meter figure m-0" data-test="together">
        An incident meter at the subject, its dome towards the camera: <strong>f/{{ stage.meter.together_f_number.toFixed(1) }}</strong>
        <span class="quiet"> · set to f/{{ set.camera.exposure.f_number }}: {{ Math.abs(stage.meter.over_stops) < 0.15 ? 'right' : `${Math.abs(stage.meter.over_stops).toFixed(1)} stops ${stage.meter.over_stops > 0 ? 'over' : 'under'}` }}</span>
      </p>
      <RatioLines v-if="stage.meter.ratio" :ratio="stage.meter.ratio" />
      <MeterTable :meter="stage.meter" />
      <p class="quiet small m-0" data-test="sharp">Sharp from {{ length(stage.meter.sharp.near_m, units) }} to {{ stage.meter.sharp.far_m ? length(stage.meter.sharp.far_m, units) : 'infinity' }} from the lens, focused on the subject at {{ length(Math.hypot(...set.camera.position_m), units) }} (a {{ stage.meter.sharp.focal_mm.toFixed(0) }} mm lens{{ stage.meter.sharp.assumed ? ' on a sensor 24 mm high, taken from the frame' : '' }}; blur up to {{ stage.meter.sharp.coc_mm.toFixed(3) }} mm).</p>
      <LightEditor
        v-for="(l, i) in set.lights" :key="i" :light="l" :meter="stage.meter.lights[i]" :plan="planOf(i)" :units="units" :floor="floor" :here="chosen === i" :others="set.lights.filter((_, k) => k !== i).map((o) => o.name)"
        @choose="chosen = i" @grab="stage.remember()" @edit="editLight(i, $event)" @remove="edit((s) => s.lights.splice(i, 1))" @bench="toBench(i)"
      >
        <BeforeLamp v-if="chosen === i && !l.off" :light="l" :worn="stage.meter.lights[i]?.gel" :index="i" :set="set" :case-id="caseId" @edit="(change) => { stage.remember(); editLight(i, change) }" @flags="(flags) => edit((s) => s.flags.push(...flags))" />
      </LightEditor>
      <BoardEditor
        v-for="(b, i) in set.boards" :key="`b${i}`" :board="b" :index="i" :set="set" :meter="stage.meter" :units="units" :case-id="caseId"
        @edit="(board) => edit((s) => (s.boards[i] = board))" @remove="edit((s) => s.boards.splice(i, 1))"
      />
      <FlagEditor
        v-for="(f, i) in set.flags" :key="`f${i}`" :flag="f" :index="i" :set="set" :meter="stage.meter" :units="units" :case-id="caseId"
        @edit="(flag) => edit((s) => (s.flags[i] = flag))" @remove="edit((s) => s.flags.splice(i, 1))"
      />
      <p v-if="!set.lights.length" class="quiet m-0">No light has been read yet. Mark a ball or an eye in Read, or add a light here.</p>
      <div class="adds">
        <BButton size="sm" variant="secondary" data-test="add-light" @click="addLight">Add a light</BButton>
        <BButton size="sm" variant="secondary" data-test="add-board" @click="addBoard">Add a white board</BButton>
        <BButton size="sm" variant="secondary" data-test="add-sun" @click="wantsSun = true">Add daylight…</BButton>
        <BButton size="sm" variant="secondary" data-test="add-cutter" :disabled="!set.lights.length" @click="addCutter">Add a slit</BButton>
        <span class="files">Save: <a v-for="f in files" :key="f.as" :href="fileOf(f.as)" :download="`set.${f.as}`" :data-test="`save-${f.as}`">{{ f.text }}</a></span>
        <LargePicture :case-id="caseId" @begin="stage.flush()" />
        <KeepRecipe :case-id="caseId" :before="() => stage.flush()" />
        <GiveOut :case-id="caseId" :before="() => stage.flush()" />
        <BButton v-if="current.reference" size="sm" variant="secondary" data-test="from-reading" @click="stage.fromReading()">As the reading has it</BButton>
      </div>
      <div class="sheet fields">
        <NumberField label="f/" :value="set.camera.exposure.f_number" :least="0.1" data-test="aperture" @change="setExposure('f_number', $event)" />
        <label>Shutter, s<TextField :value="shutter(set.camera.exposure.shutter_s)" @change="setExposure('shutter_s', read($event, 's'))" /></label>
        <NumberField label="ISO" :value="set.camera.exposure.iso" :least="1" @change="setExposure('iso', $event)" />
        <label>Floor below, {{ units }}<TextField inputmode="decimal" :value="fromMetres(floor, units)" data-test="eye-height" @change="setFloor($event)" /></label>
      </div>
      <RoomEditor v-if="set.ambient" :room="set.ambient" :case-id="caseId" :frame="shownBall" @remember="stage.remember()" @move="moveRoom" @edit="editRoom" />
      <WalkEditor :walk="set.walk_m ?? []" :meter="stage.meter" :units="units" @edit="(walk) => edit((s) => (s.walk_m = walk))" />
      <SunDialog v-if="wantsSun && set" :case-id="caseId" :set="set" @put="putSun" @close="wantsSun = false" />
      <p v-for="s in sunSays" :key="s" class="quiet small m-0" data-test="sun-says">{{ s }}</p>
      <SubjectEditor v-if="set.subjects[0]" :subject="set.subjects[0]" @edit="editSubject" />
      <p class="quiet small mb-0">Levels are stops against the exposure the camera is set for. f-numbers of single lights are for a meter turned to the light, at this shutter and ISO.</p>
    </section>
  </div>
</template>

<style scoped>
.rebuild {
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
figure {
  margin: 0;
  min-width: 0;
}
figcaption {
  font-size: 0.88rem;
  color: var(--ink-2);
  display: flex;
  gap: 0.6rem;
  align-items: center;
  min-height: 1.9rem;
}
.pictures,
.drawings {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.6rem;
}
.pictures.alone {
  grid-template-columns: 1fr;
}
.pictures img {
  width: 100%;
  height: min(44vh, 24rem);
  object-fit: contain;
  background: var(--band-2);
  border-radius: 4px;
  display: block;
}
.shot {
  position: relative;
  background: var(--band-2);
  border-radius: 4px;
  min-height: min(44vh, 24rem);
  display: grid;
  place-items: center;
}
/* a line is drawn on a picture as large as there is room for */
.pictures.lining:not(.alone) {
  grid-template-columns: 1fr 2.4fr;
}
.pictures.lining .shot,
.pictures.lining .shot img {
  height: min(74vh, 46rem);
}
.over-picture {
  position: absolute;
  right: 0.4rem;
  bottom: 0.4rem;
}
.coarse img {
  image-rendering: auto;
  opacity: 0.92;
}
.top {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 0.5rem;
}
.meter {
  padding: 0.45rem 0.7rem;
}
.adds {
  display: flex;
  gap: 0.4rem;
  flex-wrap: wrap;
}
.files {
  display: flex;
  gap: 0.5rem;
  align-items: center;
  order: 9;
}
.files a {
  color: var(--light);
}
.working {
  padding-left: 1.1rem;
  margin: 0.3rem 0;
  font-size: 0.9rem;
}
summary {
  cursor: pointer;
}
.fields {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 0.35rem 0.6rem;
  font-size: 0.86rem;
}
output {
  text-align: right;
}
@media (max-width: 1000px) {
  .rebuild {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 600px) {
  .pictures.lining:not(.alone) {
    grid-template-columns: 1fr;
  }
  .pictures.lining figure:first-child:not(:last-child) {
    display: none;
  }
  .top {
    flex-wrap: wrap;
  }
  .drawings {
    grid-template-columns: 1fr;
  }
  .pictures img,
  .shot {
    height: auto;
    min-height: 8rem;
  }
}
</style>
