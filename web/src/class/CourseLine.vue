<script setup lang="ts">
// One part of the distance over the assignments: a point with its spread for each, and nought as the line to reach.
import { computed } from 'vue'
import type { StudentPage } from '../api/client'

const props = defineProps<{ part: StudentPage['course']['parts'][number]; titles: string[] }>()
const W = 240
const H = 110
const EDGE = 26
const most = computed(() => Math.max(1.2 * props.part.step, ...props.part.values.map((v, i) => Math.abs(v ?? 0) + (props.part.spreads[i] ?? 0))))
const y = (v: number) => H / 2 - (v / most.value) * (H / 2 - 12)
const x = (i: number) => EDGE + ((i + 0.5) * (W - EDGE - 4)) / Math.max(1, props.part.values.length)
const points = computed(() => props.part.values.flatMap((v, i) => (v == null ? [] : [{ i, x: x(i), y: y(v), from: y(v - (props.part.spreads[i] ?? 0)), to: y(v + (props.part.spreads[i] ?? 0)), v }])))
const text = (v: number) => v.toFixed(Math.abs(v) < 9.95 ? 1 : 0).replace('-', '−')
const says = computed(() => points.value.map((p) => `${props.titles[p.i] ?? ''}: ${text(p.v)} ${props.part.unit}`).join('; '))
</script>

<template>
  <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="says">
    <rect :x="EDGE" :width="W - EDGE" :y="y(part.step)" :height="y(-part.step) - y(part.step)" class="seen" />
    <line :x1="EDGE" :x2="W" :y1="H / 2" :y2="H / 2" class="nought" />
    <text :x="EDGE - 4" :y="H / 2 + 4" class="tick">0</text>
    <text :x="EDGE - 4" y="14" class="tick">{{ text(most) }}</text>
    <text :x="EDGE - 4" :y="H - 6" class="tick">{{ text(-most) }}</text>
    <polyline :points="points.map((p) => `${p.x},${p.y}`).join(' ')" class="way" />
    <g v-for="p in points" :key="p.i">
      <line :x1="p.x" :x2="p.x" :y1="p.from" :y2="p.to" class="spread" />
      <circle :cx="p.x" :cy="p.y" r="4" class="dot" />
      <text :x="p.x" :y="H - 1" class="n">{{ p.i + 1 }}</text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  background: var(--band);
  border-radius: 4px;
}
.seen {
  fill: var(--raised);
}
.nought {
  stroke: var(--light);
  stroke-width: 1.2;
}
.way {
  fill: none;
  stroke: var(--key);
  stroke-width: 1.5;
}
.spread {
  stroke: var(--key);
}
.dot {
  fill: var(--key);
}
.tick,
.n {
  fill: var(--ink-3);
  font-size: 10px;
  text-anchor: end;
}
.n {
  text-anchor: middle;
}
</style>
