<script setup lang="ts">
// What can be said beside a chosen mark, and how it was read.
import { computed } from 'vue'
import type { GreyTarget, Mark, MarkReading, Method } from '../api/client'
import { useCase } from '../cases/case'
import { endsOf, foundOutlines, patchRoles, stepsBetween } from './edit'
import MarkWorkings from './MarkWorkings.vue'
import TextField from '../shell/TextField.vue'

type Role = (typeof patchRoles)[number]
const props = defineProps<{ mark: Mark; reading?: MarkReading; greyTargets: GreyTarget[]; methods: Method[] }>()
const emit = defineEmits<{ role: [role: Role]; remove: [] }>()
const current = useCase()
const m = computed(() => props.mark)
const found = computed(() => foundOutlines(props.reading))

function dropCatchlight(eye: Extract<Mark, { kind: 'eye' }>, i: number) {
  current.remember()
  eye.catchlights = found.value.filter((_, k) => k !== i)
  current.changed()
}
function findAgain(eye: Extract<Mark, { kind: 'eye' }>) {
  current.remember()
  delete eye.catchlights
  current.changed()
}

function setSteps(m: Extract<Mark, { kind: 'wedge' }>, i: number) {
  current.remember()
  m.patches = stepsBetween(...endsOf(m), props.greyTargets[i]!.reflectance)
  current.changed()
}
/** A number typed beside a mark; empty takes it away. */
function setNumber(text: string, put: (v: number | null) => void) {
  const v = text.trim() === '' ? null : Number(text.replace(',', '.'))
  if (v !== null && !Number.isFinite(v)) return
  current.remember()
  put(v)
  current.changed()
}
const setCamera = (part: 'vfov_deg' | 'pitch_deg', text: string) => setNumber(text, (v) => (current.marks.camera = { ...(current.marks.camera ?? {}), [part]: v }))
function setLooks(eye: Extract<Mark, { kind: 'eye' }>, value: string) {
  current.remember()
  if (value === '') delete eye.looks_to_clock
  else eye.looks_to_clock = Number(value)
  current.changed()
}

/** Sets a number of the mark by its name. */
const put = (name: 'gap_m' | 'px_per_m' | 'radius_px', v: number | null) => Object.assign(m.value, { [name]: v })
function setOutward(side: string) {
  const k = m.value
  if (k.kind !== 'contour') return
  current.remember()
  k.outward = side
  current.changed()
}
function setOn(on: 'floor' | 'other') {
  const k = m.value
  if (k.kind !== 'cast') return
  current.remember()
  k.on = on
  current.changed()
}
</script>

<template>
  <div class="more">
    <label v-if="m.kind === 'patch'">This patch is
      <select class="form-select form-select-sm" :value="m.role" data-test="patch-role" @change="emit('role', ($event.target as HTMLSelectElement).value as Role)">
        <option v-for="r in patchRoles" :key="r" :value="r">{{ r.replace('_', ' ') }}</option>
      </select>
    </label>
    <template v-if="m.kind === 'cast' && m.on !== 'other'">
      <label>Field of view, upright, °<TextField inputmode="decimal" :value="current.marks.camera?.vfov_deg ?? ''" data-test="vfov" @change="setCamera('vfov_deg', $event)" /></label>
      <label>Camera tilted down, °<TextField inputmode="decimal" :value="current.marks.camera?.pitch_deg ?? ''" data-test="pitch" @change="setCamera('pitch_deg', $event)" /></label>
    </template>
    <template v-if="m.kind === 'penumbra'">
      <label>From casting edge to shadow, m<TextField inputmode="decimal" placeholder="on a face: empty" :value="m.gap_m ?? ''" data-test="gap" @change="setNumber($event, (v) => put('gap_m', v))" /></label>
      <label>Pixels a metre there<TextField inputmode="decimal" :value="m.px_per_m ?? ''" data-test="scale" @change="setNumber($event, (v) => put('px_per_m', v))" /></label>
    </template>
    <label v-if="m.kind === 'wedge'">These are
      <select class="form-select form-select-sm" data-test="steps" @change="setSteps(m, Number(($event.target as HTMLSelectElement).value))">
        <option v-for="(g, i) in greyTargets" :key="g.name" :value="i" :selected="g.reflectance.length === m.patches.length">{{ g.name }}</option>
      </select>
    </label>
    <template v-if="m.kind === 'eye'">
      <label>A turned eye looks towards
        <select class="form-select form-select-sm" :value="m.looks_to_clock ?? ''" @change="setLooks(m, ($event.target as HTMLSelectElement).value)">
          <option value="">not said</option>
          <option v-for="k in 12" :key="k" :value="k">{{ k }} o'clock</option>
        </select>
      </label>
      <span v-for="(_, i) in found" :key="i" class="chip">catchlight {{ i + 1 }} <BButton size="sm" variant="secondary" :aria-label="`Not a catchlight: ${i + 1}`" @click="dropCatchlight(m, i)">not one</BButton></span>
      <BButton v-if="m.catchlights" size="sm" variant="secondary" @click="findAgain(m)">Find them again</BButton>
    </template>
    <template v-if="m.kind === 'rim'">
      <label>Radius of the form there, px<TextField inputmode="decimal" :value="m.radius_px ?? ''" data-test="radius" @change="setNumber($event, (v) => put('radius_px', v))" /></label>
    </template>
    <label v-if="m.kind === 'contour'">The background lies, walking along it,
      <select class="form-select form-select-sm" :value="m.outward" data-test="outward" @change="setOutward(($event.target as HTMLSelectElement).value)">
        <option value="left">on the left</option>
        <option value="right">on the right</option>
      </select>
    </label>
    <label v-if="m.kind === 'cast'">The shadow falls on
      <select class="form-select form-select-sm" :value="m.on ?? 'floor'" data-test="falls-on" @change="setOn(($event.target as HTMLSelectElement).value as 'floor' | 'other')">
        <option value="floor">the level floor</option>
        <option value="other">a face, a wall, something else</option>
      </select>
    </label>
    <p v-if="reading?.face" class="face" data-test="face">
      Head turned {{ Math.abs(reading.face!.turned_deg).toFixed(0) }} ± {{ (reading.face!.turned_sd_deg ?? 4).toFixed(0) }}° to image {{ reading.face!.turned_deg >= 0 ? 'right' : 'left' }},
      nodded {{ Math.abs(reading.face!.nodded_deg).toFixed(0) }}° {{ reading.face!.nodded_deg >= 0 ? 'up' : 'down' }}.
      Read as a blend of stand-in heads: {{ reading.face!.heads.filter((h) => h.share >= 0.1).map((h) => `${h.name} ${Math.round(100 * h.share)} %`).join(', ') }};
      typical misfit {{ reading.fit?.residual_percent.toFixed(0) }} % over {{ reading.fit?.samples }} samples of skin<template v-if="reading.face!.shadow_edges">; the key's size also by {{ reading.face!.shadow_edges }} edges of its own shadows</template>. White dots: lighter than the lights found explain; black: darker.
    </p>
    <MarkWorkings :mark="m" :reading="reading" :methods="methods" />
    <BButton size="sm" variant="secondary" data-test="remove" @click="emit('remove')">Remove</BButton>
  </div>
</template>

<style scoped>
.more {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.5rem;
  padding: 0 0.3rem 0.6rem 2.3rem;
}
.more label {
  font-size: 0.88rem;
}
.face {
  font-size: 0.9rem;
  margin: 0;
  flex-basis: 100%;
}
.chip {
  font-size: 0.9rem;
}
</style>
