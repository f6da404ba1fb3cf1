<script setup lang="ts">
// Keys of all pictures on one halo, with the reference's; draw round some of them to see those alone.
import { computed, ref } from 'vue'
import { onBand, place, wideBox, type Direction } from '../halo/band'
import { pointIn } from '../shell/svg'
import { inside, type Spot } from './wall'

const props = defineProps<{ keys: (Direction & { id: string })[]; reference: Direction | null; size: number; chosen: Set<string> | null }>()
const emit = defineEmits<{ choose: [ids: Set<string> | null] }>()
const svg = ref<SVGSVGElement>()
const line = ref<Spot[]>([])
const box = computed(() => wideBox(props.size))
const at = (d: Direction): Spot => {
  const p = place(box.value, onBand(d))
  return [p.x, p.y]
}
const dots = computed(() => props.keys.map((k) => ({ id: k.id, at: at(k) })))
const theirs = computed(() => (props.reference ? at(props.reference) : null))
function down(e: PointerEvent) {
  const p = pointIn(svg.value, e)
  if (!p) return
  svg.value?.setPointerCapture(e.pointerId)
  line.value = [p]
}
function move(e: PointerEvent) {
  const p = line.value.length ? pointIn(svg.value, e) : null
  if (p) line.value.push(p)
}
function up() {
  const round = line.value
  line.value = []
  // a tap shows all again
  emit('choose', round.length < 5 ? null : new Set(dots.value.filter((d) => inside(d.at, round)).map((d) => d.id)))
}
</script>

<template>
  <svg ref="svg" :width="size" :height="size" :viewBox="`${-size / 2} ${-size / 2} ${size} ${size}`" role="img" aria-label="Where the keys of all pictures stand, with the reference's" data-test="wall-cloud" @pointerdown.prevent="down" @pointermove="move" @pointerup="up" @pointercancel="line = []">
    <rect :x="-size / 2" :y="-size / 2" :width="size" :height="size" :rx="box.depth * 0.5" class="band" />
    <rect :x="-box.hw - box.depth / 2" :y="-box.hh - box.depth / 2" :width="2 * box.hw + box.depth" :height="2 * box.hh + box.depth" class="side" :rx="box.depth * 0.3" />
    <rect :x="-box.hw" :y="-box.hh" :width="2 * box.hw" :height="2 * box.hh" class="void" />
    <circle v-if="theirs" :cx="theirs[0]" :cy="theirs[1]" r="10" class="theirs" />
    <circle v-for="d in dots" :key="d.id" :cx="d.at[0]" :cy="d.at[1]" r="4" class="dot" :class="{ out: chosen && !chosen.has(d.id) }" data-test="cloud-key" />
    <polygon v-if="line.length > 1" :points="line.map((p) => p.join(',')).join(' ')" class="line" />
  </svg>
</template>

<style scoped>
svg {
  touch-action: none;
  cursor: crosshair;
}
.band {
  fill: var(--band);
}
.side {
  fill: none;
  stroke: var(--tick);
  stroke-dasharray: 1.5 3;
}
.void {
  fill: var(--line);
}
.theirs {
  fill: none;
  stroke: var(--light);
  stroke-width: 2.5;
}
.dot {
  fill: var(--key);
  fill-opacity: 0.75;
  stroke: var(--deep);
}
.out {
  fill-opacity: 0.2;
}
.line {
  fill: var(--light);
  fill-opacity: 0.12;
  stroke: var(--light);
  stroke-dasharray: 4 3;
}
</style>
