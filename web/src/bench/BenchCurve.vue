<script setup lang="ts">
// A curve of the bench: lines by pattern, not by colour, with where the figures stand.
import { computed } from 'vue'
import type { Curve } from '../api/client'

const props = defineProps<{ curve: Curve }>()
const [w, h] = [520, 220]
const box = computed(() => {
  const all = [...props.curve.lines.flatMap((l) => l.points), ...props.curve.here]
  const range = (k: 0 | 1): [number, number] => {
    const v = all.map((p) => p[k])
    const [lo, hi] = [Math.min(...v), Math.max(...v)]
    return hi > lo ? [lo, hi] : [lo - 1, hi + 1]
  }
  const [x, y] = [range(0), range(1)]
  const at = (p: [number, number]) => ({ x: 52 + ((p[0] - x[0]) / (x[1] - x[0])) * (w - 66), y: h - 30 - ((p[1] - y[0]) / (y[1] - y[0])) * (h - 46) })
  const ticks = ([lo, hi]: readonly [number, number]) => {
    const step = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].find((t) => (hi - lo) / t <= 6) ?? 200
    return Array.from({ length: 8 }, (_, i) => (Math.ceil(lo / step) + i) * step).filter((t) => t <= hi + 1e-9)
  }
  return { at, xs: ticks(x), ys: ticks(y), x, y }
})
const short = (v: number) => Number(v.toPrecision(3)).toString().replace('-', '−')
</script>

<template>
  <figure class="curve">
    <svg :viewBox="`0 0 ${w} ${h}`" role="img" :aria-label="`${curve.up} over ${curve.across}`">
      <g class="grid">
        <template v-for="t in box.xs" :key="`x${t}`">
          <line :x1="box.at([t, box.y[0]]).x" :x2="box.at([t, box.y[0]]).x" y1="12" :y2="h - 30" />
          <text :x="box.at([t, 0]).x" :y="h - 15" class="mid">{{ short(t) }}</text>
        </template>
        <template v-for="t in box.ys" :key="`y${t}`">
          <line x1="52" :x2="w - 14" :y1="box.at([0, t]).y" :y2="box.at([0, t]).y" />
          <text x="46" :y="box.at([0, t]).y + 4" class="end">{{ short(t) }}</text>
        </template>
      </g>
      <polyline v-for="(l, i) in curve.lines" :key="l.name" :class="`line n${i}`" :points="l.points.map((p) => `${box.at(p).x.toFixed(1)},${box.at(p).y.toFixed(1)}`).join(' ')" />
      <circle v-for="(p, i) in curve.here" :key="i" :cx="box.at(p).x" :cy="box.at(p).y" r="4.5" class="here" />
    </svg>
    <figcaption class="quiet small">
      {{ curve.up }}, over {{ curve.across }}.
      <span v-for="(l, i) in curve.lines" :key="l.name">{{ ' ' }}{{ i === 0 ? 'Full line' : 'Dashed' }}: {{ l.name }}.</span>
    </figcaption>
  </figure>
</template>

<style scoped>
.curve {
  margin: 0;
}
svg {
  width: 100%;
  background: var(--band-2);
  border-radius: 4px;
}
.grid line {
  stroke: var(--sheet);
}
text {
  fill: var(--ink-2);
  font-size: 12px;
}
.mid {
  text-anchor: middle;
}
.end {
  text-anchor: end;
}
.line {
  fill: none;
  stroke: var(--light);
  stroke-width: 2;
}
.n1 {
  stroke-dasharray: 6 5;
  stroke: var(--ink-3);
}
.here {
  fill: var(--band-2);
  stroke: var(--light);
  stroke-width: 2.5;
}
</style>
