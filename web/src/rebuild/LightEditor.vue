<script setup lang="ts">
// One light of the set: what a meter shows for it, and everything that can be changed.
import { computed } from 'vue'
import type { LightMeter, PlacedLight, SetLight } from '../api/client'
import RoleMark from '../halo/RoleMark.vue'
import { fromMetres, length, roleOf, toMetres, type Units } from './drawing'
import TextField from '../shell/TextField.vue'

const props = defineProps<{ light: SetLight; meter: LightMeter; plan: PlacedLight | null; units: Units; floor: number; here: boolean }>()
const emit = defineEmits<{ grab: []; edit: [change: Partial<SetLight>]; remove: []; choose: []; bench: [] }>()

const role = computed(() => roleOf(props.light.name))
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
const sizes = computed(() =>
  Object.entries(props.light.source)
    .filter(([k]) => k.endsWith('_m'))
    .map(([k, v]) => ({ k, name: { diameter_m: 'Across', width_m: 'Width', height_m: 'Height', length_m: 'Length' }[k] ?? k, v: v as number })),
)
const stand = computed(() => {
  const [x, y, z] = props.meter.position_m as [number, number, number]
  return { along: Math.hypot(x, z), high: y + props.floor }
})
function once(change: Partial<SetLight>) {
  emit('grab')
  emit('edit', change)
}
/** Direction and distance together: the other two stay as they are. */
function aim(part: 'azimuth_deg' | 'elevation_deg' | 'distance_m', text: string) {
  const v = part === 'distance_m' ? toMetres(text.replace(',', '.'), props.units) : Number(text.replace(',', '.'))
  if (!Number.isFinite(v)) return
  const distance = Math.hypot(...props.meter.position_m)
  once({ position_m: null, azimuth_deg: props.meter.azimuth_deg, elevation_deg: props.meter.elevation_deg, distance_m: distance, [part]: v })
}
function size(k: string, text: string) {
  const v = toMetres(text.replace(',', '.'), props.units)
  if (Number.isFinite(v)) once({ source: { ...props.light.source, [k]: v } as SetLight['source'] })
}
function scrim(i: number, gap: number | null, through: number | null) {
  const v = gap ?? through ?? 0
  if (!(v > 0)) return
  once({ scrims: (props.light.scrims ?? []).map((x, k) => (k === i ? { ...x, ...(gap ? { gap_m: gap } : { transmission: Math.min(1, v) }) } : x)) })
}
/** A level given as lux, guide number or energy, with its power as the lamp writes it. */
function level(k: 'lux' | 'guide_number_m' | 'joules' | 'power', text: string) {
  const v = k === 'power' ? text.trim() : Number(text.replace(',', '.'))
  if (k !== 'power' && !(Number(v) > 0)) return
  once({ level: { ...props.light.level, [k]: v === '' ? null : v } as SetLight['level'] })
}
type Notation = 'stops' | 'lux' | 'guide_number_m' | 'joules'
const NOTATIONS: { k: Notation; name: string; show: (m: LightMeter) => string }[] = [
  { k: 'stops', name: 'stops', show: (m) => signed(m.notations.stops) },
  { k: 'lux', name: 'lux at the subject', show: (m) => m.notations.lux.toPrecision(3) },
  { k: 'guide_number_m', name: 'guide number, m', show: (m) => m.notations.guide_number_m.toPrecision(3) },
  { k: 'joules', name: 'flash energy, J', show: (m) => m.notations.joules.toPrecision(3) },
]
const notation = computed(() => NOTATIONS.find((n) => n.k in props.light.level)!.k)
/** The same light, written in another notation; the meter says how much that is. */
function write(k: Notation) {
  once({ level: { [k]: Number(props.meter.notations[k].toPrecision(4)) } as SetLight['level'] })
}
function point(k: number, text: string) {
  const v = toMetres(text.replace(',', '.').replace('−', '-'), props.units)
  if (!Number.isFinite(v)) return
  once({ aim_m: [0, 1, 2].map((j) => (j === k ? v : (props.light.aim_m?.[j] ?? 0))) as [number, number, number] })
}
function pick(id: string) {
  const a = props.plan?.alternatives.find((x) => x.id === id)
  if (a) once({ source: a.source, position_m: null, azimuth_deg: props.meter.azimuth_deg, elevation_deg: props.meter.elevation_deg, distance_m: a.distance_m })
}
const value = (e: Event) => (e.target as HTMLInputElement).value
</script>

<template>
  <article class="sheet light" :class="[`edge-${role}`, { here }]" data-test="placed" @pointerenter="emit('choose')">
    <div class="head">
      <svg width="16" height="16" viewBox="-8 -8 16 16" :class="`role-${role}`"><RoleMark :role="role" /></svg>
      <h3>{{ light.name }}</h3>
      <span class="figure meter" data-test="light-meter">{{ light.off ? 'off' : `f/${meter.f_number.toFixed(1)} alone` }}</span>
      <div class="form-check form-switch m-0"><input class="form-check-input" type="checkbox" role="switch" :checked="!light.off" :aria-label="`${light.name} on`" data-test="light-on" @change="once({ off: !light.off })" /></div>
      <BButton size="sm" variant="secondary" :aria-label="`Remove ${light.name}`" @click="emit('remove')">×</BButton>
    </div>
    <p class="figure quiet line" data-test="stand">{{ length(stand.along, units) }} along the floor, {{ length(stand.high, units) }} high · fills {{ meter.angular_size_deg.toFixed(0) }}°<template v-if="plan?.read_deg"> ({{ plan.read_deg.toFixed(0) }}° read)</template></p>
    <div v-if="here" class="fields">
      <label class="wide">Level as
        <select class="form-select form-select-sm" :value="notation" :aria-label="`Notation of the level of the ${light.name}`" data-test="notation" @change="write(value($event) as Notation)">
          <option v-for="n in NOTATIONS" :key="n.k" :value="n.k">{{ n.name }}: {{ n.show(meter) }}</option>
        </select>
        <span v-if="stops !== null" class="level">
          <input type="range" class="form-range" min="-7" max="4" step="0.1" :value="stops" data-test="level" @pointerdown="emit('grab')" @keydown="emit('grab')" @input="emit('edit', { level: { stops: Number(value($event)) } })" />
          <output class="figure">{{ signed(stops) }}</output>
        </span>
        <span v-else class="other">
          <template v-for="k in (['lux', 'guide_number_m', 'joules', 'power'] as const).filter((x) => x in light.level)" :key="k">
            <TextField :value="(light.level as Record<string, string | number>)[k] ?? ''" :aria-label="`${k} of the ${light.name}`" :data-test="`level-${k}`" @change="level(k, $event)" />
          </template>
          <span class="quiet">{{ levelText }}</span>
        </span>
      </label>
      <div v-if="light.source.kind !== 'window' && !light.bounce" class="wide row-of">
        <span>Aim {{ meter.feather_deg < 1 ? 'at the subject' : `${meter.feather_deg.toFixed(0)}° off` }}</span>
        <label v-for="(name, k) in ['right', 'up', 'towards the camera']" :key="name" class="point">{{ name }}<TextField inputmode="decimal" :value="fromMetres(light.aim_m?.[k] ?? 0, units)" :aria-label="`Aim of the ${light.name}: ${name}, ${units}`" :data-test="`aim-${['right', 'up', 'near'][k]}`" @change="point(k, $event)" /></label>
        <BButton v-if="meter.feather_deg >= 1" size="sm" variant="secondary" @click="once({ aim_m: [0, 0, 0] })">At the subject</BButton>
      </div>
      <label>Round the lens axis, °<TextField inputmode="decimal" :value="meter.azimuth_deg.toFixed(0)" data-test="azimuth" @change="aim('azimuth_deg', $event)" /></label>
      <label>Up, °<TextField inputmode="decimal" :value="meter.elevation_deg.toFixed(0)" data-test="elevation" @change="aim('elevation_deg', $event)" /></label>
      <label>Away, {{ units }}<TextField inputmode="decimal" :value="fromMetres(Math.hypot(...meter.position_m), units)" data-test="distance" @change="aim('distance_m', $event)" /></label>
      <label v-for="z in sizes" :key="z.k">{{ z.name }}, {{ units }}<TextField inputmode="decimal" :value="fromMetres(z.v, units)" :data-test="`size-${z.k}`" @change="size(z.k, $event)" /></label>
      <label v-if="plan" class="wide">Out of
        <select class="form-select form-select-sm" :aria-label="`Modifier of the ${light.name}`" data-test="modifier" @change="pick(value($event))">
          <option value="">{{ light.source.kind.replace('_', ' ') }} as it is built</option>
          <option v-for="a in plan.alternatives" :key="a.id" :value="a.id">{{ a.name }}: {{ length(a.distance_m, units) }}{{ a.usable ? '' : ', out of reach' }}</option>
        </select>
      </label>
      <label v-else class="wide quiet">{{ light.source.kind.replace('_', ' ') }}<template v-if="light.scrims?.length"> through {{ light.scrims.length }} sheet{{ light.scrims.length > 1 ? 's' : '' }}</template><template v-if="light.bounce"> turned to a surface of {{ light.bounce.width_m.toFixed(1) }} × {{ light.bounce.height_m.toFixed(1) }} m</template></label>
      <template v-for="(s, i) in light.scrims ?? []" :key="`s${i}`">
        <label>Sheet {{ i + 1 }}: gap, {{ units }}<TextField inputmode="decimal" :value="fromMetres(s.gap_m, units)" :data-test="`gap-${i}`" @change="scrim(i, toMetres($event.replace(',', '.'), units), null)" /></label>
        <label>lets through, %<TextField inputmode="decimal" :value="(100 * s.transmission).toFixed(0)" @change="scrim(i, null, Number($event.replace(',', '.')) / 100)" /></label>
        <BButton size="sm" variant="secondary" :aria-label="`Take sheet ${i + 1} away`" @click="once({ scrims: (light.scrims ?? []).filter((_, k) => k !== i) })">No sheet</BButton>
      </template>
      <div class="wide row-of">
        <BButton v-if="(light.scrims ?? []).length < 2" size="sm" variant="secondary" data-test="add-sheet" @click="once({ scrims: [...(light.scrims ?? []), { gap_m: 0.5, width_m: 1.5, height_m: 1.5, transmission: 0.5 }] })">Add a sheet</BButton>
        <BButton size="sm" variant="secondary" data-test="to-bench" @click="emit('bench')">To the bench</BButton>
      </div>
    </div>
    <p v-for="p in plan?.problems ?? []" :key="p" class="problem">{{ p }}</p>
  </article>
</template>

<style scoped>
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
