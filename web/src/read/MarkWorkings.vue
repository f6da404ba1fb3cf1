<script setup lang="ts">
// How a mark was read: the words, the formula, the samples behind the figures and what the model leaves over.
import { computed } from 'vue'
import type { Mark, MarkReading, Method } from '../api/client'

const props = defineProps<{ mark: Mark; reading?: MarkReading; methods: Method[] }>()
const method = computed(() => props.methods.find((m) => m.kind === (props.mark.kind === 'ball' ? `ball ${props.mark.finish}` : props.mark.kind)))
const plot = computed(() => {
  const p = props.reading?.plot
  return p?.points.length ? p : null
})
const [w, h] = [330, 150]
const box = computed(() => {
  const points = plot.value?.points ?? []
  const range = (v: number[]): [number, number] => {
    const [lo, hi] = [Math.min(...v), Math.max(...v)]
    return hi > lo ? [lo, hi] : [lo - 1, hi + 1]
  }
  const x = range(points.map((p) => p[0]))
  const y = range(points.flatMap((p) => [p[1], p[2]]))
  const at = (p: [number, number, number], k: 1 | 2) => ({ x: 34 + ((p[0] - x[0]) / (x[1] - x[0])) * (w - 44), y: h - 24 - ((p[k] - y[0]) / (y[1] - y[0])) * (h - 36) })
  return { x, y, dots: points.map((p) => at(p, 1)), line: [...points].sort((a, b) => a[0] - b[0]).map((p) => at(p, 2)) }
})
const short = (v: number | undefined) => (v === undefined ? '' : Number(v.toPrecision(2)).toString())
</script>

<template>
  <details v-if="method" class="workings" data-test="workings">
    <summary>How this is read</summary>
    <p>{{ method.says }}</p>
    <p class="formula">{{ method.formula }}</p>
    <p class="quiet">From: {{ method.source }}. What puts it off: {{ method.errors }}.</p>
    <p v-if="reading?.fit" class="quiet">Typical misfit {{ reading.fit.residual_percent.toFixed(1) }} % of the bright side over {{ reading.fit.samples }} samples.</p>
    <figure v-if="plot">
      <svg :viewBox="`0 0 ${w} ${h}`" role="img" :aria-label="`${plot.up} over ${plot.across}: ${plot.points.length} samples; line: ${plot.line}`">
        <polyline :points="box.line.map((p) => `${p.x},${p.y}`).join(' ')" class="fit" />
        <circle v-for="(p, i) in box.dots" :key="i" :cx="p.x" :cy="p.y" r="1.6" />
        <text x="34" :y="h - 10" class="start">{{ short(box.x[0]) }}</text>
        <text :x="w - 10" :y="h - 10" class="end">{{ short(box.x[1]) }}</text>
        <text x="30" :y="h - 24" class="end">{{ short(box.y[0]) }}</text>
        <text x="30" y="18" class="end">{{ short(box.y[1]) }}</text>
      </svg>
      <figcaption class="quiet">Dots: {{ plot.up }}, over {{ plot.across }}. Line: {{ plot.line }}.</figcaption>
    </figure>
  </details>
</template>

<style scoped>
.workings {
  flex-basis: 100%;
  font-size: 0.9rem;
}
summary {
  cursor: pointer;
  padding: 0.2rem 0;
  min-height: 1.7rem;
}
p {
  margin: 0.35rem 0 0;
}
.formula {
  font-family: var(--bs-font-monospace);
  font-size: 0.84rem;
  overflow-wrap: anywhere;
}
figure {
  margin: 0.4rem 0 0;
}
svg {
  width: 100%;
  background: var(--band-2);
  border-radius: 6px;
}
circle {
  fill: var(--ink-2);
}
.fit {
  fill: none;
  stroke: var(--light);
  stroke-width: 1.2;
  opacity: 0.75;
}
text {
  fill: var(--ink-3);
  font-size: 10px;
}
.end {
  text-anchor: end;
}
</style>
