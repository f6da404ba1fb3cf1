<script setup lang="ts">
// A bright line drawn on the product in the studio's picture: a stroke makes one, its edges, ends and fade are pulled.
import { computed, ref } from 'vue'
import type { LineShown, LineWanted } from '../api/client'
import { holdPointer } from '../shell/events'
import { fadesFrom, inPicture, onProduct, pulled, stroke, type LineGrip, type OnProduct } from './line'

const props = defineProps<{ wanted: LineWanted; shown: LineShown | null; width: number; height: number }>()
const emit = defineEmits<{ edit: [line: LineWanted] }>()

const rows = computed(() => props.shown?.rows ?? [])
const px = ([x, y]: [number, number]) => `${(x * props.width).toFixed(1)},${(y * props.height).toFixed(1)}`
const outline = computed(() => [...rows.value.map((r) => r.left), ...rows.value.map((r) => r.right).reverse()].map(px).join(' '))
const line = computed(() => (props.shown?.outline ?? []).map(px).join(' '))
/** Where a place of the product shows, picture pixels. */
function at(place: OnProduct): { x: number; y: number } {
  const [x, y] = inPicture(rows.value, place)
  return { x: x * props.width, y: y * props.height }
}
const grips = computed(() => {
  const w = props.wanted
  const [across, up] = [(w.from + w.to) / 2, (w.bottom + w.top) / 2]
  // apart in height, so that those of a narrow line do not cover each other
  const part = (w.top - w.bottom) / 6
  const out: { grip: LineGrip; name: string; x: number; y: number }[] = [
    { grip: 'left', name: 'Left edge of the line', ...at({ across: w.from, up: up - part }) },
    { grip: 'right', name: 'Right edge of the line', ...at({ across: w.to, up: up + part }) },
    { grip: 'bottom', name: 'Where the line begins', ...at({ across, up: w.bottom }) },
    { grip: 'top', name: 'Where the line ends', ...at({ across, up: w.top }) },
  ]
  const fades = fadesFrom(w)
  if (fades !== null) out.push({ grip: 'fade', name: 'Where the line begins to fade', ...at({ across: fades, up }) })
  return out
})
const size = computed(() => Math.max(props.width, props.height) / 110)

const svg = ref<SVGSVGElement | null>(null)
let held: { grip: LineGrip | 'stroke'; line: LineWanted; at: OnProduct } | null = null
function placeOf(e: PointerEvent): OnProduct | null {
  const to = svg.value?.getScreenCTM()
  if (!to) return null
  const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(to.inverse())
  return onProduct(rows.value, [p.x / props.width, p.y / props.height])
}
function down(e: PointerEvent, grip: LineGrip | 'stroke') {
  const place = placeOf(e)
  if (!place) return
  held = { grip, line: { ...props.wanted }, at: place }
  holdPointer(e)
  e.preventDefault()
}
function drag(e: PointerEvent) {
  const place = held && placeOf(e)
  if (!held || !place) return
  emit('edit', held.grip === 'stroke' ? stroke(held.line, held.at, place) : pulled(props.wanted, held.grip, place, held))
}
function key(e: KeyboardEvent, grip: LineGrip) {
  const by = e.shiftKey ? 0.1 : 0.02
  const steps: Record<string, OnProduct> = { ArrowLeft: { across: -by, up: 0 }, ArrowRight: { across: by, up: 0 }, ArrowUp: { across: 0, up: by }, ArrowDown: { across: 0, up: -by } }
  const step = steps[e.key]
  if (!step) return
  e.preventDefault()
  const w = props.wanted
  const now = { left: w.from, right: w.to, bottom: w.bottom, top: w.top, fade: fadesFrom(w) ?? 0, whole: 0 }[grip]
  const level = grip === 'left' || grip === 'right' || grip === 'fade'
  if (grip === 'whole') emit('edit', pulled(w, 'whole', step, { line: w, at: { across: 0, up: 0 } }))
  else emit('edit', pulled(w, grip, level ? { across: now + step.across, up: 0 } : { across: 0, up: now + step.up }))
}
</script>

<template>
  <svg ref="svg" class="over" :viewBox="`0 0 ${width} ${height}`" role="group" aria-label="The line on the product: pull its edges and ends, or draw a new one" data-test="line-on-product" @pointermove="drag" @pointerup="held = null" @pointercancel="held = null">
    <polygon :points="outline" class="product" data-test="line-product" @pointerdown="down($event, 'stroke')" />
    <polygon :points="line" class="wanted" tabindex="0" role="button" aria-label="The line: arrow keys move it" data-test="line-wanted" @pointerdown="down($event, 'whole')" @keydown="key($event, 'whole')" />
    <g v-for="g in grips" :key="g.grip" class="grip" :class="g.grip" tabindex="0" role="slider" :aria-label="g.name" :aria-valuenow="Math.round(100 * { left: wanted.from, right: wanted.to, bottom: wanted.bottom, top: wanted.top, fade: wanted.fade?.share ?? 0, whole: 0 }[g.grip])" :data-test="`line-grip-${g.grip}`" @pointerdown.stop="down($event, g.grip)" @keydown="key($event, g.grip)">
      <circle :cx="g.x" :cy="g.y" :r="2.2 * size" class="touch" />
      <rect v-if="g.grip === 'fade'" :x="g.x - size" :y="g.y - size" :width="2 * size" :height="2 * size" />
      <circle v-else :cx="g.x" :cy="g.y" :r="size" />
    </g>
  </svg>
</template>

<style scoped>
.over {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
}
.product {
  fill: transparent;
  stroke: var(--ink);
  stroke-dasharray: 6 4;
  vector-effect: non-scaling-stroke;
  cursor: crosshair;
}
.wanted {
  fill: var(--light);
  fill-opacity: 0.3;
  stroke: var(--light);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
  cursor: move;
}
.grip {
  fill: var(--band-2);
  stroke: var(--light);
  stroke-width: 1.6;
  cursor: grab;
}
.grip circle,
.grip rect {
  vector-effect: non-scaling-stroke;
}
.grip .touch {
  fill: transparent;
  stroke: none;
}
</style>
