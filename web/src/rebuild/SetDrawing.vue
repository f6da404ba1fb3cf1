<script setup lang="ts">
// Plan or side view to scale, from props alone. Light is drawn, not gear. Lights and boards can be
// dragged, and moved by the arrow keys when they have the focus.
import { computed, ref } from 'vue'
import type { LightMeter, LightSet, SetMeter } from '../api/client'
import RoleMark from '../halo/RoleMark.vue'
import { lobeStrength } from '../halo/band'
import { cone, length, moved, project, roleOf, sheet, type Aspect, type P2, type P3, type Units } from './drawing'

export type Thing = { what: 'light' | 'board' | 'aim' | 'outlet'; i: number }
const props = defineProps<{ set: LightSet; meter: SetMeter; aspect: Aspect; units: Units; floor: number; chosen: number | null }>()
const emit = defineEmits<{ choose: [i: number]; grab: []; move: [thing: Thing, to: P3] }>()

const W = 420
const H = 300
// a head, or a thing as large as a bottle
const head = computed(() => /^head/.test(props.set.subjects?.[0]?.kind ?? 'head'))
const size = computed(() => (head.value ? [0.085, 0.1, 0.13, 0.08] : [0.04, 0.04, 0.07, 0]))
const at = (p: number[]) => project(props.aspect, p)
const subject = computed(() => at([0, 0, 0]))
const camera = computed(() => at(props.set.camera.position_m))
const lights = computed(() =>
  props.meter.lights.map((l, i) => {
    const corners = l.outline_m.map(at)
    return { i, l, role: roleOf(l.name), at: at(l.face_m), lamp: at(l.position_m), corners, cone: cone(subject.value, corners), foot: at([l.position_m[0]!, -props.floor, l.position_m[2]!]) }
  }),
)
const boards = computed(() => (props.set.boards ?? []).map((b, i) => ({ i, b, corners: sheet(b.position_m, b.aim_m ?? [0, 0, 0], b.width_m, b.height_m).map(at), at: at(b.position_m) })))
const flags = computed(() => (props.set.flags ?? []).map((b) => sheet(b.position_m, b.aim_m ?? [0, 0, 0], b.width_m, b.height_m).map(at)))
// the lamp that is chosen shows where it points; a window does not aim
const aimed = computed(() => {
  const i = props.chosen
  const l = i === null ? undefined : props.set.lights?.[i]
  if (i === null || !l || l.source.kind === 'window' || l.bounce) return null
  return { i, at: at(l.aim_m ?? [0, 0, 0]), from: at(props.meter.lights[i]?.face_m ?? [0, 0, 0]), off: props.meter.lights[i]?.feather_deg ?? 0 }
})
const cables = computed(() => (props.aspect === 'plan' ? props.meter.cables.map((c) => ({ ...c, path: c.path_m.map((p) => at([p[0]!, 0, p[1]!])) })) : []))
const outlet = computed(() => props.meter.cables[0]?.path_m.at(-1) ?? null)
// an edge of a board as a line with its bright side marked
const edge = (corners: P2[]) => (props.aspect === 'plan' ? [corners[0]!, corners[1]!] : [corners[1]!, corners[2]!])
const frame = computed(() => {
  const p = props.set.picture!
  const v = ((props.set.camera.vfov_deg ?? 16) * Math.PI) / 360
  const half = props.aspect === 'plan' ? Math.atan((Math.tan(v) * (p.width ?? 4)) / (p.height ?? 3)) : v
  const aim = at(props.set.camera.aim_m ?? [0, 0, 0])
  const axis = Math.atan2(aim.y - camera.value.y, aim.x - camera.value.x)
  const reach = Math.hypot(aim.x - camera.value.x, aim.y - camera.value.y) + 1.4
  return [-1, 1].map((s) => ({ x: camera.value.x + reach * Math.cos(axis + s * half), y: camera.value.y + reach * Math.sin(axis + s * half) }))
})
// The frame of the drawing stays still while something is dragged.
const held = ref<{ k: number; dx: number; dy: number } | null>(null)
const fit = computed(() => {
  if (held.value) return held.value
  const all: P2[] = [subject.value, camera.value, ...lights.value.flatMap((l) => [...l.corners, l.lamp]), ...boards.value.flatMap((b) => b.corners), ...(props.aspect === 'plan' && outlet.value ? [{ x: outlet.value[0]!, y: outlet.value[1]! }] : [])]
  if (props.aspect === 'side') all.push({ x: 0, y: 0.3 - props.floor * 0 }, { x: 0, y: -0.5 })
  else all.push({ x: -0.6, y: -0.6 }, { x: 0.6, y: 0.6 })
  const xs = all.map((p) => p.x)
  const ys = all.map((p) => p.y)
  const [x0, x1, y0, y1] = [Math.min(...xs) - 0.2, Math.max(...xs) + 0.2, Math.min(...ys) - 0.2, Math.max(...ys) + 0.2]
  const k = Math.min(W / (x1 - x0), H / (y1 - y0))
  return { k, dx: W / 2 - (k * (x0 + x1)) / 2, dy: H / 2 - (k * (y0 + y1)) / 2 }
})
const s = (p: P2) => ({ x: p.x * fit.value.k + fit.value.dx, y: p.y * fit.value.k + fit.value.dy })
const pts = (list: P2[]) => list.map((p) => `${s(p).x.toFixed(1)},${s(p).y.toFixed(1)}`).join(' ')
const grid = computed(() => {
  const unit = (props.units === 'm' ? 1 : 0.3048 * 3) * (fit.value.k > 160 ? 0.25 : 1)
  const range = (a: number, b: number) => Array.from({ length: Math.max(0, Math.min(60, Math.floor(b / unit) - Math.ceil(a / unit) + 1)) }, (_, i) => (Math.ceil(a / unit) + i) * unit)
  const f = fit.value
  return { unit, xs: range(-f.dx / f.k, (W - f.dx) / f.k), ys: range(-f.dy / f.k, (H - f.dy) / f.k) }
})
const mid = (a: P2, b: P2, t: number) => ({ x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t })
const clampX = (x: number) => Math.max(40, Math.min(W - 40, x))
const clampY = (y: number) => Math.max(14, Math.min(H - 8, y))
// along the floor in plan, above it from the side
const label = (l: LightMeter) => `${clip(l.name)} ${length(props.aspect === 'plan' ? Math.hypot(l.position_m[0]!, l.position_m[2]!) : l.position_m[1]! + props.floor, props.units)}`
const clip = (text: string) => (text.length > 12 ? `${text.slice(0, 11)}…` : text)

const svg = ref<SVGSVGElement | null>(null)
let grip: { thing: Thing; from: P3; x: number; y: number } | null = null
function place(thing: Thing): P3 {
  const p = {
    light: () => props.meter.lights[thing.i]!.position_m,
    board: () => props.set.boards![thing.i]!.position_m,
    aim: () => props.set.lights![thing.i]!.aim_m ?? [0, 0, 0],
    outlet: () => [outlet.value![0]!, 0, outlet.value![1]!],
  }[thing.what]()
  return [p[0]!, p[1]!, p[2]!]
}
function down(e: PointerEvent, thing: Thing) {
  if (thing.what === 'light') emit('choose', thing.i)
  emit('grab')
  held.value = { ...fit.value }
  grip = { thing, from: place(thing), x: e.clientX, y: e.clientY }
  ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
  e.preventDefault()
}
function drag(e: PointerEvent) {
  if (!grip || !svg.value) return
  const scale = svg.value.getBoundingClientRect().width / W
  const step = { x: (e.clientX - grip.x) / scale / fit.value.k, y: (e.clientY - grip.y) / scale / fit.value.k }
  emit('move', grip.thing, moved(props.aspect, grip.from, step))
}
function up() {
  grip = null
  held.value = null
}
function key(e: KeyboardEvent, thing: Thing) {
  const by = e.shiftKey ? 0.2 : 0.05
  const step = { ArrowLeft: { x: -by, y: 0 }, ArrowRight: { x: by, y: 0 }, ArrowUp: { x: 0, y: -by }, ArrowDown: { x: 0, y: by } }[e.key]
  if (!step) return
  e.preventDefault()
  emit('grab')
  emit('move', thing, moved(props.aspect, place(thing), step))
}
</script>

<template>
  <svg ref="svg" :viewBox="`0 0 ${W} ${H}`" class="set" role="group" :aria-label="aspect === 'plan' ? 'Plan of the set, camera at the bottom. Drag a light or use the arrow keys.' : 'Side view of the set, camera on the left. Drag a light or use the arrow keys.'" :data-test="`drawing-${aspect}`">
    <g class="grid">
      <line v-for="x in grid.xs" :key="`x${x}`" :x1="s({ x, y: 0 }).x" :x2="s({ x, y: 0 }).x" y1="0" :y2="H" />
      <line v-for="y in grid.ys" :key="`y${y}`" :y1="s({ x: 0, y }).y" :y2="s({ x: 0, y }).y" x1="0" :x2="W" />
    </g>
    <line v-if="aspect === 'side'" class="floor" x1="0" :x2="W" :y1="s({ x: 0, y: floor }).y" :y2="s({ x: 0, y: floor }).y" />
    <g class="frame">
      <line v-for="(e, i) in frame" :key="i" :x1="s(camera).x" :y1="s(camera).y" :x2="s(e).x" :y2="s(e).y" />
    </g>
    <g class="subject">
      <ellipse v-if="aspect === 'plan'" :cx="s(subject).x" :cy="s({ x: 0, y: -size[3]! }).y" :rx="size[0]! * fit.k" :ry="size[1]! * fit.k" />
      <ellipse v-else :cx="s({ x: size[3]!, y: 0 }).x" :cy="s(subject).y" :rx="size[1]! * fit.k" :ry="size[2]! * fit.k" />
      <circle :cx="s(subject).x" :cy="s(subject).y" r="2.6" class="point" />
    </g>
    <polygon v-for="(f, i) in flags" :key="`f${i}`" class="flag" :points="pts(f)" />
    <g
      v-for="b in boards" :key="`b${b.i}`" class="board grab" :class="`finish-${b.b.finish}`" tabindex="0" role="button" :aria-label="`${b.b.finish} board`"
      @pointerdown="down($event, { what: 'board', i: b.i })" @pointermove="drag" @pointerup="up" @pointercancel="up" @keydown="key($event, { what: 'board', i: b.i })"
    >
      <polygon :points="pts(b.corners)" />
      <line :x1="s(edge(b.corners)[0]!).x" :y1="s(edge(b.corners)[0]!).y" :x2="s(edge(b.corners)[1]!).x" :y2="s(edge(b.corners)[1]!).y" />
    </g>
    <g
      v-for="l in lights" :key="l.i" :class="[`role-${l.role}`, { chosen: chosen === l.i, off: l.l.off }]" class="light grab" tabindex="0" role="button"
      :aria-label="`${label(l.l)}: ${l.l.name}, ${length(l.l.distance_m, units)} away`" :data-test="`${aspect}-light-${l.i}`"
      @pointerdown="down($event, { what: 'light', i: l.i })" @pointermove="drag" @pointerup="up" @pointercancel="up" @keydown="key($event, { what: 'light', i: l.i })" @focus="emit('choose', l.i)"
    >
      <polygon class="cone" :points="pts(l.cone)" :fill-opacity="l.l.off ? 0.04 : 0.42 * lobeStrength(l.l.level_stops)" />
      <line v-if="aspect === 'side'" class="drop" :x1="s(l.lamp).x" :y1="s(l.lamp).y" :x2="s(l.foot).x" :y2="s(l.foot).y" />
      <polygon class="face" :points="pts(l.corners)" />
      <RoleMark :role="l.role" :x="s(l.lamp).x" :y="s(l.lamp).y" :r="6.5" />
      <text :x="clampX(s(mid(subject, l.at, 0.62)).x)" :y="clampY(s(mid(subject, l.at, 0.62)).y)">{{ label(l.l) }}</text>
    </g>
    <polyline v-for="c in cables" :key="c.light" class="cable" :class="{ crosses: c.crosses }" :points="pts(c.path)"><title>{{ c.light }}: {{ length(c.length_m, units) }} of cable</title></polyline>
    <g
      v-if="aspect === 'plan' && outlet" class="outlet grab" tabindex="0" role="button" :aria-label="`Outlet; cables ${cables.map((c) => `${c.light} ${length(c.length_m, units)}`).join(', ')}`" data-test="outlet"
      @pointerdown="down($event, { what: 'outlet', i: 0 })" @pointermove="drag" @pointerup="up" @pointercancel="up" @keydown="key($event, { what: 'outlet', i: 0 })"
    >
      <rect :x="s({ x: outlet[0]!, y: 0 }).x - 5" :y="s({ x: 0, y: outlet[1]! }).y - 5" width="10" height="10" />
      <text :x="clampX(s({ x: outlet[0]!, y: 0 }).x)" :y="clampY(s({ x: 0, y: outlet[1]! }).y - 9)">outlet</text>
    </g>
    <g
      v-if="aimed" class="aim grab" tabindex="0" role="button" :aria-label="`Where the ${meter.lights[aimed.i]?.name} points, ${aimed.off.toFixed(0)} degrees off the subject`" :data-test="`${aspect}-aim`"
      @pointerdown="down($event, { what: 'aim', i: aimed.i })" @pointermove="drag" @pointerup="up" @pointercancel="up" @keydown="key($event, { what: 'aim', i: aimed.i })"
    >
      <line :x1="s(aimed.from).x" :y1="s(aimed.from).y" :x2="s(aimed.at).x" :y2="s(aimed.at).y" />
      <path :d="`M${s(aimed.at).x - 6} ${s(aimed.at).y}h12M${s(aimed.at).x} ${s(aimed.at).y - 6}v12`" />
      <circle :cx="s(aimed.at).x" :cy="s(aimed.at).y" r="9" />
    </g>
    <g class="camera">
      <circle :cx="s(camera).x" :cy="s(camera).y" r="4" />
      <text :x="clampX(s(camera).x)" :y="clampY(s(camera).y - 9)">lens</text>
    </g>
    <text class="scale" :x="W - 8" :y="H - 8">squares of {{ length(grid.unit, units) }}</text>
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
  stroke: #434343;
}
.floor {
  stroke: #bdbdbd;
  stroke-width: 2;
}
.frame line {
  stroke: #e4e4e4;
  stroke-width: 0.9;
}
.grab {
  cursor: grab;
}
.light {
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
  stroke: #fff;
}
.drop {
  stroke: currentColor;
  stroke-dasharray: 2 4;
}
.cable {
  fill: none;
  stroke: #d9d9d9;
  stroke-width: 1.4;
  stroke-dasharray: 1 3;
}
.cable.crosses {
  stroke: var(--fault);
}
.outlet rect {
  fill: #2b2b2b;
  stroke: #d9d9d9;
}
.aim line,
.aim path {
  stroke: #fff;
  stroke-width: 1.2;
  stroke-dasharray: 9 4;
}
.aim path {
  stroke-dasharray: none;
  stroke-width: 1.6;
}
.aim circle {
  fill: transparent;
}
.board polygon {
  fill: #b9b9b9;
  fill-opacity: 0.25;
}
.board line {
  stroke: #fff;
  stroke-width: 4;
}
.finish-black line,
.flag {
  stroke: #000;
  stroke-width: 4;
  fill: #000;
  fill-opacity: 0.4;
}
.finish-gold line {
  stroke: #e5c463;
}
.finish-mirror line,
.finish-silver line {
  stroke-dasharray: 7 3;
}
text {
  fill: #fff;
  font-size: 12px;
  text-anchor: middle;
  paint-order: stroke;
  stroke: #222;
  stroke-width: 3px;
  pointer-events: none;
  user-select: none;
}
.scale {
  text-anchor: end;
  fill: #c4c4c4;
  font-size: 11px;
}
.subject ellipse {
  fill: #9c9c9c;
}
.point,
.camera circle {
  fill: #fff;
}
@media (max-width: 600px) {
  text {
    font-size: 15px;
  }
}
</style>
