<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ApiProblem, data, type Choices, type PlanView } from '../api/client'
import { useCase } from '../cases/case'
import RoleMark from '../halo/RoleMark.vue'
import SlantLine from '../halo/SlantLine.vue'
import { fromMetres, length, toMetres, type Units } from './drawing'
import SetDrawing from './SetDrawing.vue'

const current = useCase()
const view = ref<PlanView | null>(null)
const problem = ref('')
const chosen = ref<number | null>(null)
const units = ref<Units>((localStorage.getItem('units') as Units | null) ?? 'm')
const aperture = ref('')
const caseId = computed(() => current.view!.id)
const path = computed(() => ({ params: { path: { id: caseId.value } } }))

async function load() {
  try {
    await current.flush()
    view.value = await data(api.GET('/api/cases/{id}/plan', path.value))
    problem.value = ''
  } catch (e) {
    problem.value = (e as Error).message
  }
}
onMounted(load)

async function save(change: Partial<Choices>) {
  if (!view.value) return
  try {
    view.value = await data(api.PUT('/api/cases/{id}/plan', { ...path.value, body: { version: view.value.version, choices: { ...view.value.choices, ...change } } }))
    problem.value = ''
  } catch (e) {
    problem.value = (e as Error).message
    if (e instanceof ApiProblem && e.status === 409) view.value = e.problem.current as PlanView
  }
}
function setUnits(u: Units) {
  units.value = u
  localStorage.setItem('units', u)
}
function pick(i: number, id: string) {
  const n = view.value?.plan.lights.length ?? 0
  const modifiers = Array.from({ length: n }, (_, k) => view.value?.choices.modifiers?.[k] ?? null)
  modifiers[i] = id === '' ? null : id
  void save({ modifiers })
}
function setLength(field: 'eye_height_m' | 'camera_distance_m', text: string) {
  const v = text.trim() === '' ? null : toMetres(text.replace(',', '.'), units.value)
  if (v !== null && !Number.isFinite(v)) problem.value = 'A length needs a number.'
  else void save({ [field]: v })
}
function setAperture(text: string) {
  const base = view.value?.plan.exposure.settings
  const n = Number(text)
  if (!base) return
  if (text.trim() === '') void save({ exposure: null })
  else if (!(n > 0)) problem.value = 'The aperture needs a number above zero.'
  else void save({ exposure: { ...base, f_number: n } })
}
const lux = (v: number | null | undefined) => (v == null ? '' : String(Number(v.toPrecision(3))))
const meter = (n: number | null | undefined, nominal: number | null | undefined) => (n == null ? '' : `f/${n.toFixed(1)}${nominal ? ` (f/${nominal})` : ''}`)
</script>

<template>
  <div class="rebuild">
    <section class="left" aria-label="The set">
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
      <p v-if="!view && !problem" class="quiet" role="status">Working out the set…</p>
      <template v-if="view">
        <p v-if="!view.plan.lights.length" class="lead">No light has been read yet, so there is nothing to rebuild. Mark a ball or an eye in Read.</p>
        <template v-else>
          <h2>From above</h2>
          <SetDrawing :plan="view.plan" aspect="plan" :units="units" :chosen="chosen" @choose="chosen = $event" />
          <h2>From the side</h2>
          <SetDrawing :plan="view.plan" aspect="side" :units="units" :chosen="chosen" @choose="chosen = $event" />
        </template>
      </template>
    </section>
    <section v-if="view && view.plan.lights.length" class="right" aria-label="Lights and exposure">
      <div class="top">
        <h1 class="m-0">A set that would do it</h1>
        <div class="btn-group btn-group-sm" role="group" aria-label="Units">
          <button v-for="u in ['m', 'ft'] as const" :key="u" type="button" class="btn btn-plain" :class="{ active: units === u }" :aria-pressed="units === u" :data-test="`units-${u}`" @click="setUnits(u)">{{ u === 'm' ? 'metres' : 'feet' }}</button>
        </div>
      </div>
      <SlantLine :line="view.plan.slant" />
      <article v-for="(l, i) in view.plan.lights" :key="i" class="sheet light" :class="[`edge-${l.role}`, { here: chosen === i }]" data-test="placed" @pointerenter="chosen = i">
        <div class="head">
          <svg width="16" height="16" viewBox="-8 -8 16 16"><RoleMark :role="l.role" /></svg>
          <h3>{{ l.role }}</h3>
          <select class="form-select form-select-sm" :value="l.chosen ? l.modifier.id : ''" :aria-label="`Modifier of the ${l.role}`" data-test="modifier" @change="pick(i, ($event.target as HTMLSelectElement).value)">
            <option value="">{{ l.chosen ? 'let the program choose' : `${l.modifier.name} (proposed)` }}</option>
            <option v-for="a in l.alternatives" :key="a.id" :value="a.id">{{ a.name }}: {{ length(a.distance_m, units) }}{{ a.usable ? '' : ', out of reach' }}</option>
          </select>
        </div>
        <dl class="figure">
          <dt>Stand</dt><dd data-test="stand">{{ length(l.floor_distance_m, units) }} along the floor, {{ length(l.stand_height_m, units) }} high</dd>
          <dt>Direction</dt><dd>{{ Math.abs(l.azimuth_deg).toFixed(0) }}° {{ l.azimuth_deg >= 0 ? 'right' : 'left' }} of the lens, {{ Math.abs(l.elevation_deg).toFixed(0) }}° {{ l.elevation_deg >= 0 ? 'up' : 'down' }}</dd>
          <dt>Distance</dt><dd>{{ length(l.distance_m, units) }} <span class="quiet">({{ length(l.distance_range_m[0]!, units) }} to {{ length(l.distance_range_m[1]!, units) }} for the size read)</span></dd>
          <dt>Fills</dt><dd>{{ l.fills_deg.toFixed(0) }}°<template v-if="l.read_deg"> of {{ l.read_deg.toFixed(0) }}° read</template></dd>
          <template v-if="l.level_stops != null"><dt>Level</dt><dd>{{ l.level_stops === 0 ? 'the key' : `${l.level_stops.toFixed(1)} ± ${Math.max(0.05, l.level_sd_stops ?? 0).toFixed(1)} stops` }}<template v-if="l.meter_f_number"> · alone, a meter shows <strong>{{ meter(l.meter_f_number, l.meter_nominal) }}</strong>, {{ lux(l.illuminance_lux) }} lux</template></dd></template>
        </dl>
        <p v-for="p in l.problems" :key="p" class="problem">{{ p }}</p>
      </article>
      <p v-for="c in view.plan.cautions" :key="c" class="caution" data-test="caution"><strong>Take care.</strong> {{ c }}</p>
      <div class="sheet">
        <h2>Exposure</h2>
        <ul class="working figure"><li v-for="w in view.plan.exposure.working" :key="w">{{ w }}</li></ul>
        <p v-if="view.plan.exposure.key_to_fill != null" class="figure mb-0">Ratio {{ view.plan.exposure.key_to_fill.toFixed(1) }} : 1 key to fill; {{ view.plan.exposure.key_plus_fill_to_fill?.toFixed(1) }} : 1 (key + fill) to fill.</p>
      </div>
      <form class="sheet fields" @submit.prevent>
        <label>Eyes above the floor, {{ units }}<input class="form-control form-control-sm" inputmode="decimal" :value="fromMetres(view.plan.eye_height_m, units)" data-test="eye-height" @change="setLength('eye_height_m', ($event.target as HTMLInputElement).value)" /></label>
        <label>Lens to subject, {{ units }}<input class="form-control form-control-sm" inputmode="decimal" :value="fromMetres(view.plan.camera.distance_m, units)" @change="setLength('camera_distance_m', ($event.target as HTMLInputElement).value)" /></label>
        <label v-if="view.plan.exposure.settings">Shoot at f/<input v-model="aperture" class="form-control form-control-sm" inputmode="decimal" :placeholder="String(view.plan.exposure.settings.f_number)" @change="setAperture(aperture)" /></label>
      </form>
      <ul v-if="view.plan.assumptions.length" class="assumed quiet"><li v-for="a in view.plan.assumptions" :key="a">Assumed: {{ a }}</li></ul>
      <p class="quiet small mb-0">A picture tells the angle a light fills, not its distance: a larger one farther away gives the same picture, but falls off less across the subject and on the background.</p>
    </section>
  </div>
</template>

<style scoped>
.rebuild {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 29rem;
  gap: 0.9rem;
  padding: 0.8rem 0.9rem;
}
.left {
  display: grid;
  gap: 0.4rem;
  align-content: start;
  max-width: 46rem;
}
.right {
  display: grid;
  gap: 0.55rem;
  align-content: start;
}
.top {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 0.6rem;
}
.light {
  border-left: 4px solid;
}
.edge-key {
  border-color: var(--key);
}
.edge-fill {
  border-color: var(--fill);
}
.edge-rim {
  border-color: var(--rim);
}
.here {
  background: var(--raised);
}
.head {
  display: flex;
  align-items: center;
  gap: 0.5rem;
}
h3 {
  margin: 0;
  font-size: 1.02rem;
  font-weight: 600;
  text-transform: capitalize;
}
.head select {
  margin-left: auto;
  width: auto;
  max-width: 19rem;
}
dl {
  display: grid;
  grid-template-columns: 5rem 1fr;
  gap: 0.1rem 0.6rem;
  margin: 0.35rem 0 0;
  font-size: 0.94rem;
}
dt {
  font-weight: 400;
  color: var(--ink-2);
}
dd {
  margin: 0;
}
.problem {
  color: var(--fault);
  margin: 0.3rem 0 0;
}
.caution {
  background: var(--band-2);
  border-left: 4px solid #fff;
  border-radius: 4px;
  padding: 0.5rem 0.7rem;
  margin: 0;
  font-size: 0.93rem;
}
.working {
  padding-left: 1.1rem;
  margin: 0.3rem 0;
  font-size: 0.92rem;
}
.fields {
  display: grid;
  grid-auto-flow: column;
  gap: 0.6rem;
  font-size: 0.88rem;
}
.assumed {
  margin: 0;
  padding-left: 1.1rem;
  font-size: 0.9rem;
}
.lead {
  font-size: 1.2rem;
}
@media (max-width: 1000px) {
  .rebuild {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 600px) {
  .top,
  .head {
    flex-wrap: wrap;
  }
  .head select {
    width: 100%;
    max-width: none;
  }
  .fields {
    grid-auto-flow: row;
  }
}
</style>
