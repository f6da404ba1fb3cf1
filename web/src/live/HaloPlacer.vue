<script setup lang="ts">
// A halo with a wide band to place one light in: by finger, mouse or arrows. Also shows the places of a class and the light.
import { computed, ref } from 'vue'
import { directionAt, onBand, place, wideBox, type Direction } from '../halo/band'
import RoleMark from '../halo/RoleMark.vue'
import { pointIn } from '../shell/svg'
import { worded } from './words'

const props = defineProps<{
  label: string
  picture?: string
  mine?: Direction | null
  places?: Direction[]
  mean?: Direction | null
  truth?: (Direction & { sd_deg: number }) | null
  /** It can be placed now. */
  armed?: boolean
}>()
const emit = defineEmits<{ place: [at: Direction]; done: [at: Direction] }>()

const SIDE = 340
/** The band is wide, so that a finger can tell degrees: the picture in it is small. */
const box = wideBox(SIDE)
/** Degrees from the lens axis of the lines, with what they are called. */
const LINES = [
  { deg: 45, text: '45°' },
  { deg: 90, text: '90° side' },
  { deg: 135, text: '135°' },
]
const svg = ref<SVGSVGElement>()
const dragging = ref(false)
const line = (deg: number) => ({ w: box.hw + (box.depth * deg) / 180, h: box.hh + (box.depth * deg) / 180 })
const at = (d: Direction) => place(box, onBand(d))
const dots = computed(() => (props.places ?? []).map(at))
const own = computed(() => (props.mine ? at(props.mine) : null))
const middle = computed(() => (props.mean ? at(props.mean) : null))
const light = computed(() => (props.truth ? { ...at(props.truth), r: Math.max(7, (2 * props.truth.sd_deg * box.depth) / 180) } : null))

function pointed(e: PointerEvent): Direction | null {
  const p = pointIn(svg.value, e)
  return p && directionAt(box, p[0], p[1])
}
function down(e: PointerEvent) {
  if (!props.armed) return
  dragging.value = true
  svg.value?.setPointerCapture(e.pointerId)
  const d = pointed(e)
  if (d) emit('place', d)
}
function move(e: PointerEvent) {
  if (!dragging.value) return
  const d = pointed(e)
  if (d) emit('place', d)
}
function up(e: PointerEvent) {
  if (!dragging.value) return
  dragging.value = false
  const d = pointed(e)
  if (d) emit('done', d)
}
function key(e: KeyboardEvent) {
  if (!props.armed) return
  const step = e.shiftKey ? 10 : 2
  const now = props.mine ?? { azimuth_deg: 0, elevation_deg: 0 }
  const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[e.key]
  if (!by) return
  e.preventDefault()
  e.stopPropagation()
  const round = now.azimuth_deg + (by[0] ?? 0)
  const d = {
    azimuth_deg: round > 180 ? round - 360 : round < -180 ? round + 360 : round,
    elevation_deg: Math.max(-90, Math.min(90, now.elevation_deg + (by[1] ?? 0))),
  }
  emit('place', d)
  emit('done', d)
}
</script>

<template>
  <svg
    ref="svg"
    :viewBox="`${-SIDE / 2} ${-SIDE / 2} ${SIDE} ${SIDE}`"
    :class="{ armed }"
    :role="armed ? 'application' : 'img'"
    :aria-label="armed ? `${label}. ${mine ? worded(mine) : 'Nothing is placed yet.'} Arrows move it.` : label"
    :tabindex="armed ? 0 : undefined"
    data-test="halo-placer"
    @pointerdown.prevent="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="dragging = false"
    @keydown="key"
  >
    <rect :x="-box.hw - box.depth" :y="-box.hh - box.depth" :width="2 * (box.hw + box.depth)" :height="2 * (box.hh + box.depth)" rx="30" class="band" />
    <g v-for="l in LINES" :key="l.deg">
      <rect :x="-line(l.deg).w" :y="-line(l.deg).h" :width="2 * line(l.deg).w" :height="2 * line(l.deg).h" rx="12" class="line" />
      <text :x="0" :y="line(l.deg).h - 3" class="deg">{{ l.text }}</text>
    </g>
    <text x="0" :y="box.hh + box.depth - 3" class="deg">behind</text>
    <image v-if="picture" :href="picture" :x="-box.hw" :y="-box.hh" :width="2 * box.hw" :height="2 * box.hh" preserveAspectRatio="xMidYMid slice" />
    <rect v-else :x="-box.hw" :y="-box.hh" :width="2 * box.hw" :height="2 * box.hh" class="void" />
    <circle v-for="(d, i) in dots" :key="i" :cx="d.x" :cy="d.y" r="5" class="dot" data-test="place" />
    <circle v-if="middle" :cx="middle.x" :cy="middle.y" r="11" class="mean" data-test="mean" />
    <g v-if="light" class="role-key" data-test="truth">
      <circle :cx="light.x" :cy="light.y" :r="light.r" fill="currentColor" fill-opacity="0.45" stroke="currentColor" />
      <RoleMark role="key" :x="light.x" :y="light.y" :r="5" class="inner" />
    </g>
    <g v-if="own" class="own" data-test="own-place">
      <circle :cx="own.x" :cy="own.y" r="11" />
      <path :d="`M${own.x - 17} ${own.y}h10M${own.x + 7} ${own.y}h10M${own.x} ${own.y - 17}v10M${own.x} ${own.y + 7}v10`" />
    </g>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  height: 100%;
  display: block;
  touch-action: none;
  user-select: none;
}
.armed {
  cursor: crosshair;
}
.band {
  fill: var(--band);
}
.line {
  fill: none;
  stroke: var(--tick);
  stroke-dasharray: 2 4;
}
.deg {
  fill: var(--ink-3);
  font-size: 9px;
  text-anchor: middle;
}
.void {
  fill: var(--line);
}
.dot {
  fill: var(--fill);
  fill-opacity: 0.55;
  stroke: var(--deep);
  stroke-width: 0.8;
}
.mean {
  fill: none;
  stroke: var(--fill);
  stroke-width: 2.5;
  stroke-dasharray: 4 3;
}
.inner {
  color: var(--deep);
}
.own circle,
.own path {
  fill: none;
  stroke: var(--light);
  stroke-width: 2.5;
}
</style>
