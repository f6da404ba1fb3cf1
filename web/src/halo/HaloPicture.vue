<script setup lang="ts">
// A picture in its halo. Draws from props alone; marks come in through the slot, in stage pixels.
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { lobeRadius, lobeStrength, onBand, place, roomCells } from './band'
import RoleMark from './RoleMark.vue'

export interface HaloLight {
  role: string
  azimuth_deg: number
  elevation_deg: number
  direction_sd_deg?: number
  angular_size_deg?: number | null
  angular_size_range_deg?: number[] | null
  level_stops?: number | null
}
type Point = [number, number]
export interface HaloRay {
  from: Point
  light: number
}

const props = defineProps<{
  src: string
  width: number
  height: number
  lights: HaloLight[]
  rays?: HaloRay[]
  /** Lights of another picture, drawn as outlines, and which of ours each of them belongs to. */
  against?: HaloLight[]
  joins?: { ours: number; theirs: number }[]
  /** Brightness of the whole room, as the readings tell it. */
  room?: { rows: number; map_stops: number[] } | null
  /** Azimuths that a bright line on an upright cylinder, or its shading, came from: how high is open. */
  arcs?: { from_deg: number; to_deg: number }[]
  /** Where the sun stood. */
  sun?: { azimuth_deg: number; elevation_deg: number } | null
  alt: string
  armed?: boolean
}>()
const emit = defineEmits<{ press: [e: PointerEvent, at: Point]; drag: [e: PointerEvent, at: Point]; release: [e: PointerEvent, at: Point] }>()

const host = ref<HTMLElement>()
const svg = ref<SVGSVGElement>()
const space = ref({ w: 600, h: 500 })
const watcher = new ResizeObserver(([entry]) => {
  if (entry) space.value = { w: entry.contentRect.width, h: entry.contentRect.height }
})
onMounted(() => host.value && watcher.observe(host.value))
onBeforeUnmount(() => watcher.disconnect())

const RIM = 15
const depth = computed(() => Math.max(30, Math.min(64, space.value.w * 0.085)))
const scale = computed(() => {
  const room = 2 * (depth.value + RIM)
  return Math.max(0.02, Math.min((space.value.w - room) / props.width, (space.value.h - room) / props.height))
})
const box = computed(() => ({ hw: (props.width * scale.value) / 2, hh: (props.height * scale.value) / 2, depth: depth.value }))
const size = computed(() => ({ w: 2 * (box.value.hw + depth.value + RIM), h: 2 * (box.value.hh + depth.value + RIM) }))
const origin = computed(() => ({ x: size.value.w / 2 - box.value.hw, y: size.value.h / 2 - box.value.hh }))

const lobes = computed(() =>
  props.lights.map((l, i) => {
    const at = place(box.value, onBand(l))
    const r = lobeRadius(box.value, l.angular_size_deg ?? 8)
    const soft = lobeRadius(box.value, (l.angular_size_range_deg?.[1] ?? l.angular_size_deg ?? 8) + 2 * (l.direction_sd_deg ?? 0))
    return { i, role: l.role, x: at.x, y: at.y, r: Math.max(5, Math.min(r, depth.value * 0.85)), soft: Math.max(7, Math.min(soft, depth.value * 1.15)), strength: lobeStrength(l.level_stops) }
  }),
)
const glow = computed(() =>
  (props.room ? roomCells(props.room) : []).map((c) => ({ ...place(box.value, onBand(c)), strength: c.strength })),
)
/** Heights an arc runs through, degrees. */
const HEIGHTS = Array.from({ length: 20 }, (_, i) => -20 + 5 * i)
const swept = computed(() =>
  (props.arcs ?? []).map((a) => {
    const at = (azimuth_deg: number, elevation_deg: number) => place(box.value, onBand({ azimuth_deg, elevation_deg }))
    return [...HEIGHTS.map((e) => at(a.from_deg, e)), ...[...HEIGHTS].reverse().map((e) => at(a.to_deg, e))].map((p) => `${p.x},${p.y}`).join(' ')
  }),
)
const sign = computed(() => (props.sun ? place(box.value, onBand(props.sun)) : null))
const ghosts = computed(() =>
  (props.against ?? []).map((l) => ({ role: l.role, ...place(box.value, onBand(l)), r: Math.max(5, Math.min(lobeRadius(box.value, l.angular_size_deg ?? 8), depth.value * 0.85)) })),
)
const arrows = computed(() =>
  (props.joins ?? []).flatMap((j) => {
    const [a, b] = [lobes.value[j.ours], ghosts.value[j.theirs]]
    if (!a || !b) return []
    const long = Math.hypot(b.x - a.x, b.y - a.y)
    if (long < 9) return []
    const [ux, uy] = [(b.x - a.x) / long, (b.y - a.y) / long]
    const tip = { x: b.x, y: b.y }
    const back = (w: number) => `${tip.x - 9 * ux - w * uy},${tip.y - 9 * uy + w * ux}`
    return [{ x1: a.x, y1: a.y, x2: tip.x, y2: tip.y, head: `${tip.x},${tip.y} ${back(4.5)} ${back(-4.5)}` }]
  }),
)
const ticks = computed(() =>
  Array.from({ length: 12 }, (_, k) => {
    const a = ((k + 1) / 12) * 2 * Math.PI
    const d = { x: Math.sin(a), y: -Math.cos(a), out: 1 }
    const edge = place(box.value, d)
    const len = Math.hypot(edge.x, edge.y)
    return { k: k + 1, x1: edge.x, y1: edge.y, x2: edge.x * (1 - 7 / len), y2: edge.y * (1 - 7 / len), tx: edge.x * (1 + 9 / len), ty: edge.y * (1 + 9 / len) }
  }),
)

function stage(p: Point) {
  return { x: origin.value.x + p[0] * scale.value, y: origin.value.y + p[1] * scale.value }
}
function inPicture(e: PointerEvent): Point {
  const r = svg.value?.getBoundingClientRect()
  if (!r) return [0, 0]
  return [(e.clientX - r.left - origin.value.x) / scale.value, (e.clientY - r.top - origin.value.y) / scale.value]
}
defineExpose({ stage, scale, origin })
</script>

<template>
  <div ref="host" class="host">
    <svg
      ref="svg"
      :width="size.w"
      :height="size.h"
      :class="{ armed }"
      role="group"
      :aria-label="alt"
      data-test="halo"
      @pointerdown="emit('press', $event, inPicture($event))"
      @pointermove="emit('drag', $event, inPicture($event))"
      @pointerup="emit('release', $event, inPicture($event))"
      @pointercancel="emit('release', $event, inPicture($event))"
    >
      <g :transform="`translate(${size.w / 2} ${size.h / 2})`">
        <rect :x="-box.hw - depth" :y="-box.hh - depth" :width="2 * (box.hw + depth)" :height="2 * (box.hh + depth)" rx="10" class="band" />
        <rect :x="-box.hw - depth / 2" :y="-box.hh - depth / 2" :width="2 * box.hw + depth" :height="2 * box.hh + depth" rx="5" class="side" />
        <g class="clock" aria-hidden="true">
          <template v-for="t in ticks" :key="t.k">
            <line :x1="t.x1" :y1="t.y1" :x2="t.x2" :y2="t.y2" />
            <text :x="t.tx" :y="t.ty">{{ t.k }}</text>
          </template>
        </g>
        <g v-if="glow.length" class="glow" :style="{ filter: `blur(${depth * 0.15}px)` }" aria-hidden="true" data-test="room-glow">
          <circle v-for="(c, i) in glow" :key="i" :cx="c.x" :cy="c.y" :r="depth * 0.17" :fill-opacity="c.strength * 0.7" />
        </g>
        <image :href="src" :x="-box.hw" :y="-box.hh" :width="2 * box.hw" :height="2 * box.hh" preserveAspectRatio="none" />
        <g v-for="l in lobes" :key="l.i" :class="`role-${l.role}`" data-test="lobe">
          <circle :cx="l.x" :cy="l.y" :r="l.soft" fill="currentColor" fill-opacity="0.16" />
          <circle :cx="l.x" :cy="l.y" :r="l.r" fill="currentColor" :fill-opacity="l.strength" stroke="currentColor" stroke-width="1.2" />
          <RoleMark :role="l.role" :x="l.x" :y="l.y" :r="Math.min(6.5, Math.max(3, l.r * 0.6))" class="inner" />
        </g>
        <polygon v-for="(a, i) in swept" :key="`s${i}`" :points="a" class="swept" data-test="arc"><title>A bright line on a cylinder came from here; how high is open</title></polygon>
        <g v-if="sign" class="sun" :transform="`translate(${sign.x} ${sign.y})`" data-test="sun-sign">
          <title>The sun, by place and time</title>
          <circle r="9" />
          <path v-for="k in 8" :key="k" :transform="`rotate(${45 * k})`" d="M0 -12v-4" />
        </g>
        <circle v-for="(g, i) in ghosts" :key="`g${i}`" :cx="g.x" :cy="g.y" :r="g.r" :class="`ghost role-${g.role}`" data-test="ghost" />
        <g v-for="(a, i) in arrows" :key="`a${i}`" class="arrow" data-test="halo-arrow">
          <line :x1="a.x1" :y1="a.y1" :x2="a.x2" :y2="a.y2" />
          <polygon :points="a.head" />
        </g>
        <template v-for="(ray, i) in rays ?? []" :key="`r${i}`">
          <line
            v-if="lobes[ray.light]"
            :x1="ray.from[0] * scale - box.hw"
            :y1="ray.from[1] * scale - box.hh"
            :x2="lobes[ray.light]?.x"
            :y2="lobes[ray.light]?.y"
            :class="`ray role-${lobes[ray.light]?.role}`"
          />
        </template>
      </g>
      <slot :scale="scale" :origin="origin" :box="box" :stage="stage" />
    </svg>
  </div>
</template>

<style scoped>
.swept {
  fill: var(--light);
  fill-opacity: 0.22;
  stroke: var(--light);
  stroke-opacity: 0.6;
  stroke-dasharray: 2 3;
}
.sun {
  fill: none;
  stroke: var(--light);
  stroke-width: 1.5;
}
.ghost {
  fill: none;
  stroke: currentColor;
  stroke-width: 2.2;
  stroke-dasharray: 5 3;
}
.arrow {
  stroke: var(--light);
  fill: var(--light);
  stroke-width: 1.6;
}
.host {
  width: 100%;
  height: 100%;
  min-height: 0;
  display: grid;
  place-items: center;
  overflow: hidden;
}
svg {
  display: block;
  touch-action: none;
  user-select: none;
}
svg.armed {
  cursor: crosshair;
}
.band {
  fill: var(--band);
}
.side {
  fill: none;
  stroke: var(--tick);
  stroke-dasharray: 2 5;
}
.glow circle {
  fill: var(--light);
}
.clock line {
  stroke: var(--tick);
}
.clock text {
  fill: var(--ink-3);
  font-size: 11px;
  text-anchor: middle;
  dominant-baseline: central;
}
.inner {
  color: var(--deep);
}
.ray {
  stroke: currentColor;
  stroke-width: 1;
  stroke-opacity: 0.85;
  pointer-events: none;
}
</style>
