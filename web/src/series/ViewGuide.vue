<script setup lang="ts">
// What is drawn over a picture or the view of a camera: the crop, its base line and middle, and where the subject belongs.
import { computed } from 'vue'
import type { ShotList, WantedView } from '../api/client'
import { cropOf, linesOf } from './guide'

const { list, view, width, height } = defineProps<{ list: ShotList; view: WantedView; width: number; height: number }>()
const crop = computed(() => cropOf(list, width, height))
const lines = computed(() => linesOf(list, view.guide === 'head', crop.value[1], crop.value[3]))
const box = computed(() => {
  const [x, , w, h] = crop.value
  const { base, end } = lines.value
  if (view.guide === 'head') return { x: x + w / 2 - (end - base) * 0.8, y: base - (end - base), w: (end - base) * 1.6, h: (end - base) * 2, round: true }
  const wide = view.guide === 'wide' ? 0.84 * w : Math.min(0.7 * w, (base - end) * 0.9)
  return { x: x + (w - wide) / 2, y: end, w: wide, h: Math.max(base - end, h * 0.02), round: false }
})
</script>

<template>
  <svg class="guide" :viewBox="`0 0 ${width} ${height}`" preserveAspectRatio="none" aria-hidden="true">
    <path class="out" fill-rule="evenodd" :d="`M0 0H${width}V${height}H0Z M${crop[0]} ${crop[1]}v${crop[3]}h${crop[2]}v${-crop[3]}Z`" />
    <template v-if="view.guide === 'free' || view.guide === 'above'">
      <line v-for="k in [1, 2]" :key="`v${k}`" :x1="crop[0] + (crop[2] * k) / 3" :x2="crop[0] + (crop[2] * k) / 3" :y1="crop[1]" :y2="crop[1] + crop[3]" />
      <line v-for="k in [1, 2]" :key="`h${k}`" :y1="crop[1] + (crop[3] * k) / 3" :y2="crop[1] + (crop[3] * k) / 3" :x1="crop[0]" :x2="crop[0] + crop[2]" />
    </template>
    <template v-else>
      <line class="base" :x1="crop[0]" :x2="crop[0] + crop[2]" :y1="lines.base" :y2="lines.base" />
      <line :x1="crop[0] + crop[2] / 2" :x2="crop[0] + crop[2] / 2" :y1="crop[1]" :y2="crop[1] + crop[3]" />
      <ellipse v-if="box.round" :cx="box.x + box.w / 2" :cy="box.y + box.h / 2" :rx="box.w / 2" :ry="box.h / 2" />
      <rect v-else :x="box.x" :y="box.y" :width="box.w" :height="box.h" />
    </template>
  </svg>
</template>

<style scoped>
.guide {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.out {
  fill: var(--dark);
  opacity: 0.55;
}
line,
rect,
ellipse {
  fill: none;
  stroke: var(--light);
  stroke-width: 1.5;
  stroke-dasharray: 7 6;
  vector-effect: non-scaling-stroke;
  paint-order: stroke;
  filter: drop-shadow(0 0 1px #000);
}
.base {
  stroke-width: 3;
  stroke-dasharray: none;
}
</style>
