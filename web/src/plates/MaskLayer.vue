<script setup lang="ts">
// The brush over the picture: strokes by pointer, or by arrow keys with space. What the plate leaves out is hatched.
import { computed, onMounted, ref, watch } from 'vue'
import type { PlateMask, MaskStroke } from '../api/client'
import { goesOn, hasRoom, type Painter } from './mask'

const { painter, mask, name, radius, soft, adds } = defineProps<{ painter: Painter; mask: PlateMask; name: string; radius: number; soft: number; adds: boolean }>()
const emit = defineEmits<{ live: []; stroke: [stroke: MaskStroke]; full: []; size: [by: -1 | 1]; swap: [] }>()
const canvas = ref<HTMLCanvasElement>()
const brush = ref<[number, number]>([0.5, 0.5])
const away = ref(true)
const aspect = computed(() => painter.width / painter.height)
const ring = computed(() => {
  const side = Math.max(painter.width, painter.height)
  return { cx: brush.value[0] * painter.width, cy: brush.value[1] * painter.height, r: radius * side, core: radius * side * (1 - soft) }
})
function hatch() {
  const on = canvas.value?.getContext('2d')
  if (!on) return
  const { width, height } = painter
  const grey = painter.grey()
  const image = on.createImageData(width, height)
  for (let i = 0; i < grey.length; i++) {
    const stripe = ((i % width) + Math.floor(i / width)) % 8 < 4
    // light and dark stripes are seen on both
    const out = (255 - (grey[i] ?? 255)) / 255
    image.data.set(stripe ? [236, 226, 206, Math.round(120 * out)] : [14, 16, 20, Math.round(170 * out)], 4 * i)
  }
  on.putImageData(image, 0, 0)
}
onMounted(hatch)
watch(() => painter, hatch, { flush: 'post' })
let stroke: MaskStroke | null = null
let due = 0
function soon() {
  cancelAnimationFrame(due)
  due = requestAnimationFrame(() => {
    hatch()
    emit('live')
  })
}
const round = (v: number) => Math.round(10_000 * v) / 10_000
function placeOf(e: PointerEvent): [number, number] {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  return [round((e.clientX - box.left) / box.width), round((e.clientY - box.top) / box.height)]
}
function begin(place: [number, number]) {
  const first = { points: [place], radius, soft, adds }
  if (!hasRoom(mask, first)) return emit('full')
  stroke = first
  painter.start(stroke)
  soon()
}
function on(place: [number, number]) {
  if (!stroke || !goesOn(stroke.points, place, radius, aspect.value)) return
  if (!hasRoom(mask, { ...stroke, points: [...stroke.points, place] })) return emit('full')
  stroke.points.push(place)
  painter.to(place)
  soon()
}
function done() {
  if (!stroke) return
  painter.end()
  emit('stroke', stroke)
  stroke = null
}
function down(e: PointerEvent) {
  if (e.button !== 0) return
  ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
  begin(placeOf(e))
}
function move(e: PointerEvent) {
  away.value = false
  brush.value = placeOf(e)
  on(brush.value)
}
const STEPS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
function key(e: KeyboardEvent) {
  if (e.ctrlKey || e.metaKey || e.altKey) return
  const step = STEPS[e.key]
  if (step) {
    const by = e.shiftKey ? 0.05 : 0.01
    brush.value = [0, 1].map((k) => round(Math.min(1, Math.max(0, (brush.value[k] ?? 0) + by * (step[k] ?? 0))))) as [number, number]
    away.value = false
  } else if (e.key === ' ' || e.key === 'Enter') {
    begin([...brush.value])
    done()
  } else if (e.key === '[' || e.key === ']') emit('size', e.key === '[' ? -1 : 1)
  else if (e.key === 'x') emit('swap')
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div class="layer" tabindex="0" role="application" :aria-label="`Brush on the mask of ${name}: arrow keys move it, space paints, brackets make it larger and smaller, x swaps adding and taking away`" data-test="mask-layer" @pointerdown="down" @pointermove="move" @pointerup="done" @pointercancel="done" @pointerleave="away = true" @keydown="key" @click.stop>
    <canvas ref="canvas" :width="painter.width" :height="painter.height" aria-hidden="true" />
    <svg :viewBox="`0 0 ${painter.width} ${painter.height}`" aria-hidden="true">
      <g v-if="!away" :class="{ adds }">
        <circle :cx="ring.cx" :cy="ring.cy" :r="ring.r" class="outer" />
        <circle v-if="soft > 0.02" :cx="ring.cx" :cy="ring.cy" :r="ring.core" class="core" />
      </g>
    </svg>
  </div>
</template>

<style scoped>
.layer {
  position: absolute;
  inset: 0;
  cursor: crosshair;
  touch-action: none;
}
canvas,
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
circle {
  fill: none;
  stroke: var(--paper, #fff);
  stroke-width: 1.6;
  vector-effect: non-scaling-stroke;
  paint-order: stroke;
}
.core {
  stroke-dasharray: 3 3;
}
.adds circle {
  stroke: var(--light);
}
</style>
