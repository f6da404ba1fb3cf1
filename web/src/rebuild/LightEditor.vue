<script setup lang="ts">
// One light of the set: what a meter shows for it, and everything that can be changed.
import { computed, ref } from 'vue'
import type { LightMeter, PlacedLight, SetLight } from '../api/client'
import RoleMark from '../halo/RoleMark.vue'
import { named, ROLES, unlike } from './lamps'
import { fromMetres, length, lengthWrong, toMetres, type Units } from './drawing'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'
import TextField from '../shell/TextField.vue'
import { read } from '../shell/units'

const props = defineProps<{ light: SetLight; meter: LightMeter | undefined; plan: PlacedLight | null; units: Units; floor: number; here: boolean; others: string[] }>()
const emit = defineEmits<{ grab: []; edit: [change: Partial<SetLight>]; remove: []; choose: []; bench: [] }>()

const role = computed(() => props.meter?.role ?? 'other')
/** Stops with their sign; nothing has none. */
const signed = (v: number) => (Math.abs(v) < 0.05 ? '0.0' : `${v > 0 ? '+' : '−'}${Math.abs(v).toFixed(1)}`)
const stops = computed(() => ('stops' in props.light.level ? props.light.level.stops : null))
const levelText = computed(() => {
  const l = props.light.level
  if ('lux' in l) return `${l.lux} lux at the subject`
  if ('guide_number_m' in l) return `flash, guide number ${l.guide_number_m} m${l.power ? `, ${l.power}` : ''}`
  if ('joules' in l) return `flash, ${l.joules} J${l.power ? `, ${l.power}` : ''}`
  return ''
})
const SIDES: Record<string, string> = { diameter_m: 'Across', width_m: 'Width', height_m: 'Height', length_m: 'Length' }
const sizes = computed(() =>
  Object.entries(props.light.source)
    .flatMap(([k, v]) => (k.endsWith('_m') && typeof v === 'number' ? [{ k, name: SIDES[k] ?? k, v }] : [])),
)
const stand = computed(() => {
  const [x, y, z] = props.meter?.position_m ?? [0, 0, 0]
  return { along: Math.hypot(x, z), high: y + props.floor, away: Math.hypot(x, y, z) }
})
function once(change: Partial<SetLight>) {
  emit('grab')
  emit('edit', change)
}
/** Direction and distance together: the other two stay as they are. */
function aim(part: 'azimuth_deg' | 'elevation_deg' | 'distance_m', text: string) {
  const v = part === 'distance_m' ? toMetres(text, props.units) : (read(text, 'deg') ?? NaN)
  const m = props.meter
  if (m) once({ position_m: null, azimuth_deg: m.azimuth_deg, elevation_deg: m.elevation_deg, distance_m: stand.value.away, [part]: v })
}
/** What is wrong with what was typed last. */
const said = ref('')
const told = (problem: string) => (said.value = problem)
const degreesWrong = (text: string) => (read(text, 'deg') === null ? 'Degrees are wanted.' : '')
const anyLength = (text: string) => lengthWrong(text, props.units)
const realLength = (text: string) => lengthWrong(text, props.units, 0)
const shareWrong = (text: string) => ((read(text, '%') ?? 0) > 0 ? '' : 'A share above nought is wanted.')
function size(k: string, text: string) {
  once({ source: { ...props.light.source, [k]: toMetres(text, props.units) } })
}
type Sheet = NonNullable<SetLight['scrims']>[number]
/** A sheet's gap, share or place beside the lamp. */
function scrim(i: number, change: Partial<Sheet>) {
  once({ scrims: (props.light.scrims ?? []).map((x, k) => (k === i ? { ...x, ...change } : x)) })
}
type Notation = 'stops' | 'lux' | 'guide_number_m' | 'joules'
const figure = (n: Notation, m: LightMeter) => (n === 'stops' ? signed(m.notations.stops) : m.notations[n].toPrecision(3))
/** A level as a lamp has it: the figure in its notation, and, of a flash, its power as the lamp writes it. */
const NOTATIONS: { value: Notation; text: string; of(v: number, power?: string | null): SetLight['level'] }[] = [
  { value: 'stops', text: 'stops', of: (stops) => ({ stops }) },
  { value: 'lux', text: 'lux at the subject', of: (lux) => ({ lux }) },
  { value: 'guide_number_m', text: 'guide number, m', of: (guide_number_m, power) => ({ guide_number_m, power }) },
  { value: 'joules', text: 'flash energy, J', of: (joules, power) => ({ joules, power }) },
]
const here = computed(() => NOTATIONS.find((n) => n.value in props.light.level))
const figureOf = computed(() => {
  const l = props.light.level
  if ('lux' in l) return l.lux
  if ('guide_number_m' in l) return l.guide_number_m
  return 'joules' in l ? l.joules : null
})
const power = computed(() => ('power' in props.light.level ? (props.light.level.power ?? '') : null))
const notations = computed(() => NOTATIONS.map((n) => ({ value: n.value, text: props.meter ? `${n.text}: ${figure(n.value, props.meter)}` : n.text })))
function level(v: number | null) {
  if (v && v > 0 && here.value) once({ level: here.value.of(v, power.value) })
}
function setPower(text: string) {
  if (figureOf.value !== null && here.value) once({ level: here.value.of(figureOf.value, text.trim() || null) })
}
/** The same light, written in another notation; the meter says how much that is. */
function write(k: Notation) {
  const n = NOTATIONS.find((x) => x.value === k)
  if (n && props.meter) once({ level: n.of(Number(props.meter.notations[k].toPrecision(4))) })
}
const setStops = (v: string | number | null) => emit('edit', { level: { stops: Number(v) } })
function point(k: number, text: string) {
  const v = toMetres(text, props.units)
  const [x, y, z] = props.light.aim_m ?? [0, 0, 0]
  once({ aim_m: k === 0 ? [v, y, z] : k === 1 ? [x, v, z] : [x, y, v] })
}
function pick(id: string) {
  const a = props.plan?.alternatives.find((x) => x.id === id)
  const m = props.meter
  if (a && m) once({ source: a.source, position_m: null, azimuth_deg: m.azimuth_deg, elevation_deg: m.elevation_deg, distance_m: a.distance_m })
}
const alternatives = computed(() => (props.plan?.alternatives ?? []).map((a) => ({ value: a.id, text: `${a.name}: ${length(a.distance_m, props.units)}${a.usable ? '' : ', out of reach'}` })))
const fills = computed(() => (props.meter ? `fills ${props.meter.angular_size_deg.toFixed(0)}°` : ''))
/** Degrees between where it points and the subject. */
const feather = computed(() => props.meter?.feather_deg ?? 0)
</script>

<template>
  <article class="sheet light" :class="[`edge-${role}`, { here }]" data-test="placed" @pointerenter="emit('choose')">
    <div class="head">
      <svg width="16" height="16" viewBox="-8 -8 16 16" :class="`role-${role}`"><RoleMark :role="role" /></svg>
      <h3>{{ light.name }}</h3>
      <span class="figure meter" data-test="light-meter">{{ light.off ? 'off' : meter ? `f/${meter.f_number.toFixed(1)} alone` : '' }}</span>
      <BFormCheckbox switch class="m-0" :model-value="!light.off" :aria-label="`${light.name} on`" data-test="light-on" @update:model-value="once({ off: !light.off })" />
      <BButton size="sm" variant="secondary" :aria-label="`Remove ${light.name}`" @click="emit('remove')">×</BButton>
    </div>
    <p class="figure quiet line" data-test="stand">{{ length(stand.along, units) }} along the floor, {{ length(stand.high, units) }} high · {{ fills }}<template v-if="plan?.read_deg"> ({{ plan.read_deg.toFixed(0) }}° read)</template></p>
    <div v-if="here" class="fields">
      <label>For<PickOne :value="role" :options="ROLES" :aria-label="`What the ${light.name} is for`" data-test="role" @pick="(r) => once({ name: named(light.name, r, others) })" /></label>
      <label class="name">Called<TextField :value="light.name" :aria-label="`Name of the ${light.name}`" data-test="name" @change="(t) => once({ name: unlike(t, others) })" /></label>
      <label class="wide">Level as
        <PickOne :value="here.value" :options="notations" :aria-label="`Notation of the level of the ${light.name}`" data-test="notation" @pick="write" />
        <span v-if="stops !== null" class="level">
          <BFormInput type="range" min="-7" max="4" step="0.1" :model-value="stops" data-test="level" @pointerdown="emit('grab')" @keydown="emit('grab')" @update:model-value="setStops" />
          <output class="figure">{{ signed(stops) }}</output>
        </span>
        <span v-else class="other">
          <NumberField hidden-label :label="`${here.text} of the ${light.name}`" :value="figureOf" :least="0" :data-test="`level-${here.value}`" @change="level" />
          <TextField v-if="power !== null" :value="power" :aria-label="`Power of the ${light.name}`" data-test="level-power" @change="setPower" />
          <span class="quiet">{{ levelText }}</span>
        </span>
      </label>
      <div v-if="light.source.kind !== 'window' && !light.bounce" class="wide row-of">
        <span>Aim {{ feather < 1 ? 'at the subject' : `${feather.toFixed(0)}° off` }}</span>
        <label v-for="(name, k) in ['right', 'up', 'towards the camera']" :key="name" class="point">{{ name }}<TextField inputmode="decimal" :value="fromMetres(light.aim_m?.[k] ?? 0, units)" :aria-label="`Aim of the ${light.name}: ${name}, ${units}`" :data-test="`aim-${['right', 'up', 'near'][k]}`" :wrong="anyLength" @says="told" @change="point(k, $event)" /></label>
        <BButton v-if="feather >= 1" size="sm" variant="secondary" @click="once({ aim_m: [0, 0, 0] })">At the subject</BButton>
      </div>
      <label>Round the lens axis, °<TextField inputmode="decimal" :value="meter?.azimuth_deg.toFixed(0) ?? ''" data-test="azimuth" :wrong="degreesWrong" @says="told" @change="aim('azimuth_deg', $event)" /></label>
      <label>Up, °<TextField inputmode="decimal" :value="meter?.elevation_deg.toFixed(0) ?? ''" data-test="elevation" :wrong="degreesWrong" @says="told" @change="aim('elevation_deg', $event)" /></label>
      <label>Away, {{ units }}<TextField inputmode="decimal" :value="fromMetres(stand.away, units)" data-test="distance" :wrong="realLength" @says="told" @change="aim('distance_m', $event)" /></label>
      <label v-for="z in sizes" :key="z.k">{{ z.name }}, {{ units }}<TextField inputmode="decimal" :value="fromMetres(z.v, units)" :data-test="`size-${z.k}`" :wrong="realLength" @says="told" @change="size(z.k, $event)" /></label>
      <label v-if="plan" class="wide">Out of
        <PickOne value="" :none="`${light.source.kind.replace('_', ' ')} as it is built`" :options="alternatives" :aria-label="`Modifier of the ${light.name}`" data-test="modifier" @pick="pick" />
      </label>
      <label v-else class="wide quiet">{{ light.source.kind.replace('_', ' ') }}<template v-if="light.scrims?.length"> through {{ light.scrims.length }} sheet{{ light.scrims.length > 1 ? 's' : '' }}</template><template v-if="light.bounce"> turned to a surface of {{ light.bounce.width_m.toFixed(1) }} × {{ light.bounce.height_m.toFixed(1) }} m</template></label>
      <template v-for="(s, i) in light.scrims ?? []" :key="`s${i}`">
        <label>Sheet {{ i + 1 }}: gap, {{ units }}<TextField inputmode="decimal" :value="fromMetres(s.gap_m, units)" :data-test="`gap-${i}`" :wrong="realLength" @says="told" @change="scrim(i, { gap_m: toMetres($event, units) })" /></label>
        <label>beside the lamp, {{ units }}<TextField inputmode="decimal" :value="fromMetres(s.aside_m ?? 0, units)" :data-test="`aside-${i}`" title="How far its middle lies to the right of the lamp, as seen from the subject: a lamp behind one edge makes it fade to the other" :wrong="anyLength" @says="told" @change="scrim(i, { aside_m: toMetres($event, units) })" /></label>
        <label>lets through, %<TextField inputmode="decimal" :value="(100 * s.transmission).toFixed(0)" :data-test="`share-${i}`" :wrong="shareWrong" @says="told" @change="scrim(i, { transmission: Math.min(1, (read($event, '%') ?? 0) / 100) })" /></label>
        <BButton size="sm" variant="secondary" :aria-label="`Take sheet ${i + 1} away`" @click="once({ scrims: (light.scrims ?? []).filter((_, k) => k !== i) })">No sheet</BButton>
      </template>
      <div class="wide row-of">
        <BButton v-if="(light.scrims ?? []).length < 2" size="sm" variant="secondary" data-test="add-sheet" @click="once({ scrims: [...(light.scrims ?? []), { gap_m: 0.5, width_m: 1.5, height_m: 1.5, transmission: 0.5 }] })">Add a sheet</BButton>
        <BButton size="sm" variant="secondary" data-test="to-bench" @click="emit('bench')">To the bench</BButton>
      </div>
    </div>
    <p v-if="said" role="alert" class="problem" data-test="light-problem">{{ said }}</p>
    <slot />
    <p v-for="p in plan?.problems ?? []" :key="p" class="problem">{{ p }}</p>
  </article>
</template>

<style scoped>
.name {
  grid-column: span 2;
}
.light {
  border-left: 4px solid var(--ambient);
  padding: 0.45rem 0.7rem;
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
.edge-background {
  border-color: var(--background);
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
}
.meter {
  margin-left: auto;
  font-weight: 600;
}
.line {
  margin: 0.1rem 0 0;
  font-size: 0.9rem;
}
.fields {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 0.35rem 0.6rem;
  margin-top: 0.4rem;
  font-size: 0.86rem;
}
.wide {
  grid-column: 1 / -1;
}
.level {
  display: grid;
  grid-template-columns: 1fr 3rem;
  gap: 0.5rem;
  align-items: center;
}
output {
  text-align: right;
}
.problem {
  color: var(--fault);
  margin: 0.25rem 0 0;
  font-size: 0.9rem;
}
.row-of,
.other {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
}
.point {
  display: flex;
  gap: 0.25rem;
  align-items: center;
}
.point input {
  width: 3.3rem;
  padding-inline: 0.4rem;
}
.other input {
  width: 6rem;
}
</style>
