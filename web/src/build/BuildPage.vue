<script setup lang="ts">
// Building the set light by light: what to do, what the meter should show, what it did show. For a phone
// at arm's length, and as a sheet of paper.
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, data, drawSet, wholeSet, type BuildLog, type BuildStep, type BuildView } from '../api/client'
import { useCase } from '../cases/case'
import RoleMark from '../halo/RoleMark.vue'
import OneLamp from './OneLamp.vue'
import PackingList from './PackingList.vue'
import SlantLine from '../halo/SlantLine.vue'
import TextField from '../shell/TextField.vue'
import { read, show } from '../shell/units'
import { useVersioned } from '../shell/versioned'
import { isTyping, messageOf, withCommand } from '../shell/events'
import { copy } from '../shell/copy'
import PickOne from '../shell/PickOne.vue'

const current = useCase()
const view = ref<BuildView | null>(null)
const problem = ref('')
const { state: saved, save } = useVersioned(view, problem)
const step = ref(0)
const pictures = ref<Record<string, string>>({})
const path = computed(() => ({ params: { path: { id: current.id } } }))
const steps = computed(() => view.value?.plan.steps ?? [])
const here = computed<BuildStep | null>(() => steps.value[step.value] ?? null)
let drawing: AbortController | null = null

onMounted(async () => {
  try {
    view.value = await data(api.GET('/api/cases/{id}/build', path.value))
    const open = steps.value.findIndex((s) => !s.done)
    step.value = open < 0 ? 0 : open
    void draw()
  } catch (e) {
    problem.value = messageOf(e)
  }
  window.addEventListener('keydown', keys)
})
onBeforeUnmount(() => {
  window.removeEventListener('keydown', keys)
  drawing?.abort()
})
function keys(e: KeyboardEvent) {
  if (isTyping(e) || withCommand(e)) return
  if (e.key === 'ArrowRight') go(step.value + 1)
  if (e.key === 'ArrowLeft') go(step.value - 1)
}
function go(i: number) {
  step.value = Math.max(0, Math.min(steps.value.length - 1, i))
  void draw()
}
/** The picture to expect after a step: the set with only its lights on. */
async function draw() {
  const s = here.value
  const v = view.value
  if (!s?.lit.length || !v || pictures.value[s.id]) return
  drawing?.abort()
  const mine = new AbortController()
  drawing = mine
  const set = wholeSet(copy(v.set))
  for (const l of set.lights) l.off = !s.lit.includes(l.name)
  if (s.id !== 'together' && set.ambient) set.ambient = null
  try {
    await drawSet(current.id, set, mine.signal, (line) => {
      if (line.jpeg && line.samples > 0) pictures.value = { ...pictures.value, [s.id]: `data:image/jpeg;base64,${line.jpeg}` }
    })
  } catch (e) {
    if (!mine.signal.aborted) problem.value = messageOf(e)
  }
}
async function put(change: (log: BuildLog) => void) {
  await save((now) => {
    const log = copy(now.log)
    change(log)
    return api.PUT('/api/cases/{id}/build', { ...path.value, body: { version: now.version, log } })
  })
}
async function tick(s: BuildStep) {
  const done = !s.done
  await put((log) => {
    log.done = (log.done ?? []).filter((d) => d !== s.id)
    if (done) log.done.push(s.id)
  })
  if (done) go(step.value + 1)
}
function measured(s: BuildStep, text: string) {
  const v = read(text, 'f')
  if (text.trim() && (v === null || v <= 0)) {
    problem.value = 'The meter reading is an f-number such as 5.6.'
    return
  }
  void put((log) => {
    const m = { ...(log.measured ?? {}) }
    if (v) m[s.id] = v
    else delete m[s.id]
    log.measured = m
  })
}
const note = (s: BuildStep, text: string) => put((log) => (log.notes = { ...(log.notes ?? {}), [s.id]: text }))
async function first(which: 'key' | 'background') {
  await put((log) => (log.first = which))
  pictures.value = {}
  go(0)
}
const lamp = computed(() => view.value?.plan.lamps.find((l) => `light-${l.light}` === here.value?.id))
const choose = (light: string, id: string) => put((log) => (log.lamps = { ...(log.lamps ?? {}), [light]: id }))
const packed = ref(false)
const alone = ref(false)
const print = () => window.print()
const doneCount = computed(() => steps.value.filter((s) => s.done).length)
</script>

<template>
  <div class="build">
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <p v-if="!view && !problem" class="quiet" role="status">Working out the order of work…</p>
    <template v-if="view">
      <div class="top">
        <h1 class="m-0">Build</h1>
        <BButtonGroup size="sm" aria-label="Which light first">
          <BButton variant="secondary" :class="{ active: (view.log.first ?? 'key') === 'key' }" :aria-pressed="(view.log.first ?? 'key') === 'key'" data-test="first-key" @click="first('key')">key first</BButton>
          <BButton variant="secondary" :class="{ active: view.log.first === 'background' }" :aria-pressed="view.log.first === 'background'" data-test="first-background" @click="first('background')">background first</BButton>
        </BButtonGroup>
        <span class="quiet small" role="status" data-test="build-saved">{{ doneCount }} of {{ steps.length }} done · {{ saved }}</span>
        <BButton size="sm" variant="secondary" data-test="print" @click="print">Print the sheet</BButton>
      </div>
      <p v-for="p in view.plan.problems" :key="p" class="problem" data-test="build-problem">{{ p }}</p>
      <div class="work">
        <ol class="order" aria-label="Steps">
          <li v-for="(s, i) in steps" :key="s.id">
            <BButton variant="secondary" :class="{ active: i === step }" :aria-current="i === step ? 'step' : undefined" :data-test="`step-${i}`" @click="go(i)">
              <span class="tick" :aria-label="s.done ? 'done' : 'open'">{{ s.done ? '✓' : i + 1 }}</span>
              <svg v-if="s.role" viewBox="-8 -8 16 16" width="18" height="18" aria-hidden="true"><RoleMark :role="s.role" /></svg>
              {{ s.title }}
            </BButton>
          </li>
        </ol>
        <section v-if="here" class="step" :aria-label="here.title" aria-live="polite">
          <h2>{{ here.title }}</h2>
          <ol class="does"><li v-for="d in here.does" :key="d">{{ d }}</li></ol>
          <template v-if="lamp">
            <div v-if="lamp.others.length > 1" class="lamp">
              <label :for="`lamp-${here.id}`">Lamp</label>
              <PickOne :id="`lamp-${here.id}`" :value="lamp.lamp" :options="lamp.others.map(([value = '', text = '']) => ({ value, text }))" @pick="choose(lamp.light, $event)" />
            </div>
            <p class="says" data-test="lamp-says">{{ lamp.says }}</p>
            <p v-if="lamp.pulse" class="quiet small m-0" data-test="lamp-pulse">{{ lamp.pulse }}</p>
            <ul v-if="lamp.ways_out.length" class="ways">
              <li v-for="w in lamp.ways_out" :key="w.change" data-test="way-out"><strong>{{ w.change }}</strong> {{ w.also }}</li>
            </ul>
          </template>
          <div v-if="here.expect_f" class="meter">
            <p class="m-0">The meter should show</p>
            <p class="big figure m-0" data-test="expect">f/{{ show(here.expect_f, 'f') }}</p>
            <p class="quiet small m-0">nearest third f/{{ here.expect_nominal }}, ± {{ here.expect_sd_stops.toFixed(1) }} stops. {{ here.hold }}</p>
            <label class="got">It shows f/<TextField inputmode="decimal" :value="here.measured_f ? show(here.measured_f, 'f') : ''" data-test="measured" @change="measured(here, $event)" /></label>
            <p v-for="e in here.explains" :key="e" class="m-0" data-test="explains">{{ e }}</p>
          </div>
          <figure v-if="here.lit.length" class="expect">
            <img v-if="pictures[here.id]" :src="pictures[here.id]" :alt="`Picture to expect: ${here.lit.join(', ')}`" data-test="expect-picture" />
            <p v-else class="quiet">Drawing the picture to expect…</p>
            <figcaption class="quiet small">The picture to expect with {{ here.lit.join(', ') }} on.</figcaption>
          </figure>
          <ul v-if="here.watch.length" class="watch"><li v-for="w in here.watch" :key="w">{{ w }}</li></ul>
          <label class="note">Note<TextField :value="here.note ?? ''" @change="note(here, $event)" /></label>
          <div class="moves">
            <BButton variant="secondary" :disabled="step === 0" @click="go(step - 1)">Back</BButton>
            <BButton variant="primary" data-test="tick" @click="tick(here)">{{ here.done ? 'Not done after all' : 'Done' }}</BButton>
            <BButton variant="secondary" :disabled="step === steps.length - 1" @click="go(step + 1)">Next</BButton>
          </div>
        </section>
      </div>
      <BCard class="take-along" no-body>
        <BCardHeader><BButton size="sm" variant="secondary" :aria-expanded="packed" data-test="packing" @click="packed = !packed">What to take along ({{ view.plan.packing.lines.length }} things{{ view.plan.packing.missing.length ? `, ${view.plan.packing.missing.length} missing` : '' }})</BButton></BCardHeader>
        <BCardBody v-if="packed"><PackingList :packing="view.plan.packing" /></BCardBody>
      </BCard>
      <BCard no-body>
        <BCardHeader><BButton size="sm" variant="secondary" :aria-expanded="alone" data-test="with-one-lamp" @click="alone = !alone">With one lamp only</BButton></BCardHeader>
        <BCardBody v-if="alone"><OneLamp :case-id="current.id" /></BCardBody>
      </BCard>
      <p v-for="c in view.plan.cautions" :key="c" class="caution"><strong>Take care.</strong> {{ c }}</p>
      <section class="paper" aria-hidden="true">
        <h1>{{ current.view?.title }}</h1>
        <SlantLine :line="view.plan.slant" />
        <p v-for="e in view.plan.exposure" :key="e">{{ e }}</p>
        <BTableSimple small>
          <thead><tr><th></th><th>Step</th><th>Do</th><th>Meter</th><th>Shows</th></tr></thead>
          <tbody>
            <tr v-for="s in steps" :key="s.id">
              <td>{{ s.done ? '☑' : '☐' }}</td>
              <td>{{ s.title }}</td>
              <td>{{ s.does.join(' ') }}</td>
              <td>{{ s.expect_f ? `f/${show(s.expect_f, 'f')}` : '' }}</td>
              <td>{{ s.measured_f ? `f/${show(s.measured_f, 'f')}` : '' }}</td>
            </tr>
          </tbody>
        </BTableSimple>
        <h2>To take along</h2>
        <PackingList :packing="view.plan.packing" />
        <p v-for="c in view.plan.cautions" :key="c">{{ c }}</p>
      </section>
    </template>
  </div>
</template>

<style scoped>
.build {
  padding: 0.8rem 1rem;
  display: grid;
  gap: 0.6rem;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 0.7rem;
  align-items: center;
}
.work {
  display: grid;
  grid-template-columns: 15rem minmax(0, 1fr);
  gap: 1rem;
  align-items: start;
}
.order {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.25rem;
}
.order button {
  width: 100%;
  text-align: left;
  display: flex;
  gap: 0.5rem;
  align-items: center;
}
.tick {
  min-width: 1.2rem;
  font-weight: 700;
}
.step {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 26rem);
  gap: 0.6rem 1.2rem;
  align-items: start;
  font-size: 1.05rem;
}
.step > * {
  grid-column: 1;
}
.step h2 {
  font-size: 1.5rem;
  margin: 0;
}
.expect {
  grid-column: 2;
  grid-row: 1 / span 8;
  margin: 0;
}
.expect img {
  width: 100%;
  border-radius: 4px;
  background: var(--band-2);
}
.does,
.watch,
.ways {
  margin: 0;
  padding-left: 1.3rem;
}
.watch {
  list-style: '→ ';
}
.lamp {
  display: flex;
  gap: 0.5rem;
  align-items: center;
}
.lamp select {
  max-width: 22rem;
}
.says {
  margin: 0;
  font-weight: 600;
}
.meter {
  background: var(--sheet);
  border-radius: 4px;
  padding: 0.6rem 0.8rem;
}
.big {
  font-size: 2.8rem;
  font-weight: 700;
  line-height: 1.1;
}
.got {
  display: flex;
  gap: 0.4rem;
  align-items: center;
  margin-top: 0.4rem;
}
.got input {
  width: 6rem;
}
.moves {
  display: flex;
  gap: 0.6rem;
}
.paper {
  display: none;
}
@media (max-width: 1000px) {
  .step {
    grid-template-columns: minmax(0, 1fr);
  }
  .expect {
    grid-column: 1;
    grid-row: auto;
  }
}
@media (max-width: 700px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
  }
  .order {
    display: flex;
    overflow-x: auto;
    padding-bottom: 0.2rem;
  }
  .order button {
    white-space: nowrap;
  }
  .step {
    font-size: 1.15rem;
  }
  .big {
    font-size: 4.2rem;
  }
  .moves {
    position: sticky;
    bottom: 0;
    background: var(--bs-body-bg);
    padding: 0.5rem 0;
  }
  .moves .btn {
    flex: 1;
    min-height: 3rem;
    font-size: 1.1rem;
  }
}
@media print {
  .build > *:not(.paper) {
    display: none;
  }
  .paper {
    display: block;
    color: var(--dark);
    background: var(--light);
    font-size: 10pt;
  }
  .paper td,
  .paper th {
    border: 1px solid var(--line);
    padding: 1.5mm;
    vertical-align: top;
  }
  .paper table {
    border-collapse: collapse;
  }
}
</style>
