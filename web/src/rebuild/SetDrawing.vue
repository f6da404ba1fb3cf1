<script setup lang="ts">
// Plan or side view to scale, as the core draws it. What can be pulled about can be dragged, and moved by the arrow keys when it has
// the focus.
import { computed, ref } from 'vue'
import type { Drawing, DrawingLine, Grip, LightSet, SetMeter, Thing } from '../api/client'
import RoleMark from '../halo/RoleMark.vue'
import { lobeStrength } from '../halo/band'
import { holdPointer } from '../shell/events'
import { fitTo, gridOf, length, moved, short, type Aspect, type Fit, type P3, type Units } from './drawing'

const props = defineProps<{ set: LightSet; meter: SetMeter; aspect: Aspect; units: Units; chosen: number | null; beside?: DrawingLine[] }>()
const emit = defineEmits<{ choose: [i: number]; grab: []; move: [thing: Thing, to: P3] }>()

const W = 420
const H = 300
const drawing = computed<Drawing>(() => (props.aspect === 'plan' ? props.meter.plan : props.meter.side))
// The frame of the drawing stays still while something is dragged.
const held = ref<Fit | null>(null)
const fit = computed(() => held.value ?? fitTo(drawing.value, W, H))
const unit = computed(() => (props.units === 'm' ? 1 : 0.9144) * (fit.value.k > 160 ? 0.25 : 1))
const grid = computed(() => gridOf(fit.value, W, H, unit.value))
const x = (v: number) => v * fit.value.k + fit.value.dx
const y = (v: number) => v * fit.value.k + fit.value.dy
const pts = (l: DrawingLine) => l.points.map(([a, b]) => `${x(a).toFixed(1)},${y(b).toFixed(1)}`).join(' ')
const clampX = (v: number) => Math.max(40, Math.min(W - 40, v))
const clampY = (v: number) => Math.max(14, Math.min(H - 8, v))

const same = (a: Thing | null | undefined, b: Thing) => a?.what === b.what && a.i === b.i
/** Lines and notes that belong to nothing that can be pulled. */
const ground = computed(() => [...drawing.value.lines.filter((l) => !l.of), ...(props.beside ?? [])])
const told = computed(() => drawing.value.notes.filter((n) => !n.of && n.name !== 'subject'))
/** What can be pulled, with what is drawn of it; where a lamp points only for the one that is chosen. */
const things = computed(() =>
  drawing.value.grips
    .filter((g) => g.thing.what !== 'lens' && (g.thing.what !== 'aim' || g.thing.i === props.chosen))
    .map((grip) => {
      const light = grip.thing.what === 'light' || grip.thing.what === 'aim' ? props.meter.lights[grip.thing.i] : undefined
      const [note] = drawing.value.notes.filter((n) => same(n.of, grip.thing))
      return { grip, light, note, lines: drawing.value.lines.filter((l) => same(l.of, grip.thing)), key: `${grip.thing.what}-${grip.thing.i}` }
    }),
)
type Drawn = (typeof things.value)[number]
function classes({ grip, light }: Drawn) {
  const finish = grip.thing.what === 'board' ? `finish-${props.set.boards?.[grip.thing.i]?.finish ?? 'white'}` : ''
  return [grip.thing.what, light ? `role-${light.role}` : '', finish, { chosen: grip.thing.what === 'light' && props.chosen === grip.thing.i, off: light?.off }]
}
function saying({ grip, light, note }: Drawn) {
  if (grip.thing.what === 'light' && light) return `${note ? short(note, props.units) : light.name}: ${light.name}, ${length(light.distance_m, props.units)} away`
  return note ? `${note.name} ${note.lengths.map((l) => `${length(l.length_m, props.units)} ${l.then}`).join(' ')}` : grip.name
}
const strength = ({ light }: Drawn) => (!light || light.off ? 0.04 : 0.42 * lobeStrength(light.level_stops))
/** A light's words stand on its cone, others beside what they name. */
function spot({ grip, note }: Drawn): { x: number; y: number } {
  const [a, b] = note?.at ?? grip.at
  const k = grip.thing.what === 'light' ? 0.62 : 1
  return { x: clampX(x(a * k)), y: clampY(y(b * k) - (k === 1 ? 9 : 0)) }
}

const svg = ref<SVGSVGElement | null>(null)
let pulled: { grip: Grip; x: number; y: number } | null = null
function down(e: PointerEvent, grip: Grip) {
  if (grip.thing.what === 'light') emit('choose', grip.thing.i)
  emit('grab')
  held.value = { ...fit.value }
  pulled = { grip, x: e.clientX, y: e.clientY }
  holdPointer(e)
  e.preventDefault()
}
function drag(e: PointerEvent) {
  if (!pulled || !svg.value) return
  const scale = (svg.value.getBoundingClientRect().width / W) * fit.value.k
  emit('move', pulled.grip.thing, moved(props.aspect, pulled.grip.place_m, [(e.clientX - pulled.x) / scale, (e.clientY - pulled.y) / scale]))
}
function up() {
  pulled = null
  held.value = null
}
function key(e: KeyboardEvent, grip: Grip) {
  const by = e.shiftKey ? 0.2 : 0.05
  const steps: Record<string, [number, number]> = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }
  const step = steps[e.key]
  if (!step) return
  e.preventDefault()
  emit('grab')
  emit('move', grip.thing, moved(props.aspect, grip.place_m, step))
}
</script>

<template>
  <svg ref="svg" :viewBox="`0 0 ${W} ${H}`" class="set" role="group" :aria-label="aspect === 'plan' ? 'Plan of the set, camera at the bottom. Drag a light or use the arrow keys.' : 'Side view of the set, camera on the left. Drag a light or use the arrow keys.'" :data-test="`drawing-${aspect}`">
    <g class="grid">
      <line v-for="g in grid.xs" :key="`x${g}`" :x1="x(g)" :x2="x(g)" y1="0" :y2="H" />
      <line v-for="g in grid.ys" :key="`y${g}`" :y1="y(g)" :y2="y(g)" x1="0" :x2="W" />
    </g>
    <component :is="l.closed ? 'polygon' : 'polyline'" v-for="(l, i) in ground" :key="i" :class="l.part" class="line" :points="pts(l)" />
    <circle :cx="x(0)" :cy="y(0)" r="2.6" class="point" />
    <g
      v-for="t in things" :key="t.key" :class="classes(t)" class="grab" tabindex="0" role="button" :aria-label="saying(t)" :data-test="`${aspect}-${t.key}`"
      @pointerdown="down($event, t.grip)" @pointermove="drag" @pointerup="up" @pointercancel="up" @keydown="key($event, t.grip)" @focus="t.grip.thing.what === 'light' && emit('choose', t.grip.thing.i)"
    >
      <component :is="l.closed ? 'polygon' : 'polyline'" v-for="(l, i) in t.lines" :key="i" :class="l.part" class="line" :points="pts(l)" :fill-opacity="l.part === 'cone' ? strength(t) : undefined" />
      <RoleMark v-if="t.grip.thing.what === 'light'" :role="t.light?.role ?? 'other'" :x="x(t.grip.at[0])" :y="y(t.grip.at[1])" :r="6.5" />
      <rect v-else-if="t.grip.thing.what === 'outlet'" :x="x(t.grip.at[0]) - 5" :y="y(t.grip.at[1]) - 5" width="10" height="10" />
      <circle v-else-if="t.grip.thing.what === 'mark'" :cx="x(t.grip.at[0])" :cy="y(t.grip.at[1])" r="6" />
      <template v-else-if="t.grip.thing.what === 'aim'">
        <path :d="`M${x(t.grip.at[0]) - 6} ${y(t.grip.at[1])}h12M${x(t.grip.at[0])} ${y(t.grip.at[1]) - 6}v12`" />
        <circle :cx="x(t.grip.at[0])" :cy="y(t.grip.at[1])" r="9" />
      </template>
      <text v-if="t.note && t.grip.thing.what !== 'board'" :x="spot(t).x" :y="spot(t).y">{{ t.grip.thing.what === 'outlet' ? 'outlet' : short(t.note, units) }}</text>
    </g>
    <g v-for="n in told" :key="n.name" class="told">
      <circle v-if="n.name === 'lens'" :cx="x(n.at[0])" :cy="y(n.at[1])" r="4" />
      <text :x="clampX(x(n.at[0]))" :y="clampY(y(n.at[1]) - 9)">{{ n.name === 'lens' ? 'lens' : short(n, units) }}</text>
    </g>
    <text class="scale" :x="W - 8" :y="H - 8">squares of {{ length(unit, units) }}</text>
  </svg>
</template>

<style scoped>
.set {
  width: 100%;
  background: var(--band-2);
  border-radius: 7px;
  display: block;
  touch-action: none;
}
.grid line {
  stroke: var(--band);
}
.line {
  fill: none;
  stroke: var(--line);
}
.wall {
  stroke: var(--ink-2);
  stroke-width: 2;
}
.frame {
  stroke: var(--ink);
  stroke-width: 0.9;
}
.reach {
  stroke: var(--light);
  stroke-dasharray: 5 3;
}
.walkway {
  stroke: var(--line);
  stroke-dasharray: 2 5;
}
.background.line {
  stroke: none;
}
.subject {
  fill: var(--ink-3);
  stroke: none;
}
.grab {
  cursor: grab;
}
.light,
.aim {
  color: var(--ambient);
}
.role-key {
  color: var(--key);
}
.role-fill {
  color: var(--fill);
}
.role-rim {
  color: var(--rim);
}
.role-background {
  color: var(--background);
}
.cone {
  fill: currentColor;
  stroke: none;
  pointer-events: none;
}
.face {
  fill: currentColor;
  fill-opacity: 0.35;
  stroke: currentColor;
  stroke-width: 3;
  stroke-linejoin: round;
}
.off .face {
  stroke-dasharray: 3 3;
  fill-opacity: 0.05;
}
.chosen .face {
  stroke: var(--ink);
}
.drop,
.throw {
  stroke: currentColor;
  stroke-dasharray: 2 4;
}
.cable,
.cable_across {
  stroke: var(--ink-2);
  stroke-width: 1.4;
  stroke-dasharray: 1 3;
}
.cable_across {
  stroke: var(--fault);
}
.walk {
  stroke: var(--ink);
  stroke-dasharray: 6 3;
}
.mark circle {
  fill: var(--band-2);
  stroke: var(--ink);
  stroke-width: 2;
}
.outlet rect {
  fill: var(--band-2);
  stroke: var(--ink-2);
}
.aim .line,
.aim path {
  stroke: var(--ink);
  stroke-width: 1.2;
  stroke-dasharray: 9 4;
}
.aim path {
  stroke-dasharray: none;
  stroke-width: 1.6;
}
.aim .line {
  pointer-events: none;
}
.aim circle {
  fill: transparent;
}
.board.line {
  fill: var(--ink-2);
  fill-opacity: 0.25;
  stroke: var(--ink);
  stroke-width: 4;
  stroke-linejoin: round;
}
.finish-black .board.line,
.flag.line {
  stroke: var(--dark);
  stroke-width: 4;
  fill: var(--dark);
  fill-opacity: 0.4;
}
.finish-gold .board.line {
  stroke: var(--key);
}
.finish-mirror .board.line,
.finish-silver .board.line {
  stroke-dasharray: 7 3;
}
text {
  fill: var(--ink);
  font-size: 12px;
  text-anchor: middle;
  paint-order: stroke;
  stroke: var(--band-2);
  stroke-width: 3px;
  pointer-events: none;
  user-select: none;
}
.scale {
  text-anchor: end;
  fill: var(--ink-2);
  font-size: 11px;
}
.point,
.told circle {
  fill: var(--ink);
}
@media (max-width: 600px) {
  text {
    font-size: 15px;
  }
}
</style>
