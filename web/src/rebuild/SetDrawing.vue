<script setup lang="ts">
// Plan or side view to scale, from props alone. Light is drawn, not gear.
import { computed } from 'vue'
import type { SetPlan } from '../api/client'
import RoleMark from '../halo/RoleMark.vue'
import { lobeStrength } from '../halo/band'
import { cone, face, length, project, type Aspect, type P2, type Units } from './drawing'

const props = defineProps<{ plan: SetPlan; aspect: Aspect; units: Units; chosen: number | null }>()
const emit = defineEmits<{ choose: [i: number] }>()

const W = 560
const H = computed(() => (props.aspect === 'plan' ? 300 : 205))
const eye = computed(() => props.plan.eye_height_m)
const subject = computed(() => project(props.aspect, [0, 0, 0], eye.value))
const camera = computed(() => project(props.aspect, [0, props.plan.camera.height_m - eye.value, props.plan.camera.distance_m], eye.value))

const lights = computed(() =>
  props.plan.lights.map((l, i) => {
    const corners = face(l).map((c) => project(props.aspect, c, eye.value))
    return { i, l, at: project(props.aspect, l.position_m, eye.value), corners, cone: cone(subject.value, corners), foot: project(props.aspect, [l.position_m[0]!, -eye.value, l.position_m[2]!], eye.value) }
  }),
)
const frame = computed(() => {
  const half = ((props.aspect === 'plan' ? props.plan.camera.half_hfov_deg : props.plan.camera.half_vfov_deg) * Math.PI) / 180
  const reach = props.plan.camera.distance_m + 1.2
  const ends = [-1, 1].map((s) =>
    props.aspect === 'plan' ? { x: s * reach * Math.tan(half), y: camera.value.y - reach } : { x: camera.value.x + reach, y: camera.value.y + s * reach * Math.tan(half) },
  )
  return ends
})
const fit = computed(() => {
  const all: P2[] = [subject.value, camera.value, ...lights.value.flatMap((l) => [...l.corners, l.foot])]
  if (props.aspect === 'side') all.push({ x: 0, y: 0.05 }, { x: 0, y: -eye.value - 0.4 })
  else all.push({ x: -0.8, y: -0.8 }, { x: 0.8, y: 0.8 })
  const [x0, x1] = [Math.min(...all.map((p) => p.x)) - 0.25, Math.max(...all.map((p) => p.x)) + 0.25]
  const [y0, y1] = [Math.min(...all.map((p) => p.y)) - 0.22, Math.max(...all.map((p) => p.y)) + 0.2]
  const k = Math.min(W / (x1 - x0), H.value / (y1 - y0))
  return { k, dx: W / 2 - (k * (x0 + x1)) / 2, dy: H.value / 2 - (k * (y0 + y1)) / 2, x0: (0 - W / 2) / k + (x0 + x1) / 2, x1: W / 2 / k + (x0 + x1) / 2, y0: (0 - H.value / 2) / k + (y0 + y1) / 2, y1: H.value / 2 / k + (y0 + y1) / 2 }
})
const s = (p: P2) => ({ x: p.x * fit.value.k + fit.value.dx, y: p.y * fit.value.k + fit.value.dy })
const pts = (list: P2[]) => list.map((p) => `${s(p).x.toFixed(1)},${s(p).y.toFixed(1)}`).join(' ')
const grid = computed(() => {
  const unit = props.units === 'm' ? 1 : 0.3048 * 3
  const range = (a: number, b: number) => Array.from({ length: Math.max(0, Math.floor(b / unit) - Math.ceil(a / unit) + 1) }, (_, i) => (Math.ceil(a / unit) + i) * unit)
  return { unit, xs: range(fit.value.x0, fit.value.x1), ys: range(fit.value.y0, fit.value.y1) }
})
const mid = (a: P2, b: P2, t: number) => ({ x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t })
const clampX = (x: number) => Math.max(44, Math.min(W - 44, x))
const clampY = (y: number) => Math.max(14, Math.min(H.value - 8, y))
</script>

<template>
  <svg :viewBox="`0 0 ${W} ${H}`" class="set" role="img" :aria-label="aspect === 'plan' ? 'Plan of the set, camera at the bottom' : 'Side view of the set, camera on the left'" :data-test="`drawing-${aspect}`">
    <g class="grid">
      <line v-for="x in grid.xs" :key="`x${x}`" :x1="s({ x, y: 0 }).x" :x2="s({ x, y: 0 }).x" y1="0" :y2="H" />
      <line v-for="y in grid.ys" :key="`y${y}`" :y1="s({ x: 0, y }).y" :y2="s({ x: 0, y }).y" x1="0" :x2="W" />
    </g>
    <line v-if="aspect === 'side'" class="floor" x1="0" :x2="W" :y1="s({ x: 0, y: 0 }).y" :y2="s({ x: 0, y: 0 }).y" />
    <g class="frame">
      <line v-for="(e, i) in frame" :key="i" :x1="s(camera).x" :y1="s(camera).y" :x2="s(e).x" :y2="s(e).y" />
    </g>
    <g v-for="l in lights" :key="l.i" :class="[`role-${l.l.role}`, { chosen: chosen === l.i }]" class="light" @click="emit('choose', l.i)">
      <polygon class="cone" :points="pts(l.cone)" :fill-opacity="0.42 * lobeStrength(l.l.level_stops)" />
      <line v-if="aspect === 'side'" class="drop" :x1="s(l.at).x" :y1="s(l.at).y" :x2="s(l.foot).x" :y2="s(l.foot).y" />
      <polygon class="face" :points="pts(l.corners)" />
      <RoleMark :role="l.l.role" :x="s(l.at).x" :y="s(l.at).y" :r="6" />
      <text class="d" :x="clampX(s(mid(subject, l.at, 0.55)).x)" :y="clampY(s(mid(subject, l.at, 0.55)).y)">{{ length(aspect === 'plan' ? l.l.floor_distance_m : l.l.stand_height_m, units) }}<tspan class="what">{{ aspect === 'plan' ? '' : ' high' }}</tspan></text>
    </g>
    <g class="subject">
      <ellipse v-if="aspect === 'plan'" :cx="s(subject).x" :cy="s({ x: 0, y: -0.1 }).y" :rx="0.09 * fit.k" :ry="0.11 * fit.k" />
      <g v-else>
        <ellipse :cx="s({ x: 0.09, y: 0 }).x" :cy="s(subject).y" :rx="0.1 * fit.k" :ry="0.13 * fit.k" />
        <line :x1="s({ x: 0.09, y: 0 }).x" :x2="s({ x: 0.09, y: 0 }).x" :y1="s({ x: 0, y: -eye + 0.13 }).y" :y2="s({ x: 0, y: 0 }).y" />
      </g>
      <circle :cx="s(subject).x" :cy="s(subject).y" r="2.6" class="point" />
    </g>
    <g class="camera">
      <circle :cx="s(camera).x" :cy="s(camera).y" r="4" />
      <text :x="clampX(s(camera).x)" :y="clampY(s(camera).y + (aspect === 'plan' ? -9 : -9))">lens {{ length(aspect === 'plan' ? plan.camera.distance_m : plan.camera.height_m, units) }}{{ aspect === 'plan' ? ' away' : ' high' }}</text>
    </g>
    <text class="scale" :x="W - 8" :y="H - 8">squares of {{ units === 'm' ? '1 m' : '3 ft' }}</text>
  </svg>
</template>

<style scoped>
.set {
  width: 100%;
  background: var(--band-2);
  border-radius: 7px;
  display: block;
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
.light {
  cursor: pointer;
}
.cone {
  fill: currentColor;
}
.face {
  fill: currentColor;
  fill-opacity: 0.35;
  stroke: currentColor;
  stroke-width: 2.6;
  stroke-linejoin: round;
}
.chosen .face {
  stroke: #fff;
}
.drop {
  stroke: currentColor;
  stroke-dasharray: 2 4;
}
text {
  fill: #fff;
  font-size: 12.5px;
  text-anchor: middle;
  paint-order: stroke;
  stroke: #222;
  stroke-width: 3px;
}
.scale {
  text-anchor: end;
  fill: #c4c4c4;
  font-size: 11px;
}
.subject ellipse {
  fill: #9c9c9c;
}
.subject line {
  stroke: #9c9c9c;
  stroke-width: 3;
}
.point {
  fill: #fff;
}
.camera circle {
  fill: #fff;
}
@media (max-width: 600px) {
  text {
    font-size: 19px;
  }
  .scale {
    font-size: 16px;
  }
}
</style>
