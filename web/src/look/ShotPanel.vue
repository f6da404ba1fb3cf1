<script setup lang="ts">
// Frames of one film read together, and exposure along it.
import { computed, ref, watch } from 'vue'
import { api, data, type ShotView } from '../api/client'
import { useCase } from '../cases/case'
import { timeCode } from './film'
import { messageOf } from '../shell/events'

const current = useCase()
const shots = ref<ShotView[]>([])
const problem = ref('')
const films = computed(() => new Set((current.view?.frames ?? []).filter((f) => f.film).map((f) => f.film)))
watch(
  [() => current.view?.frames.length, () => current.version],
  async () => {
    if (!films.value.size || !current.view) return void (shots.value = [])
    try {
      shots.value = await data(api.GET('/api/cases/{id}/shots', { params: { path: { id: current.view.id } } }))
      problem.value = ''
    } catch (e) {
      problem.value = messageOf(e)
    }
  },
  { immediate: true },
)
const [w, h] = [320, 96]
function walk(s: ShotView) {
  const t = s.frames.map((f) => f.time_s)
  const v = s.frames.map((f) => f.stops_from_grey)
  const [t0, t1] = [Math.min(...t), Math.max(...t)]
  const [v0, v1] = [Math.min(-1, ...v) - 0.3, Math.max(1, ...v) + 0.3]
  return { at: s.frames.map((f) => ({ id: f.id, x: 30 + ((f.time_s - t0) / Math.max(1e-6, t1 - t0)) * (w - 46), y: h - 18 - ((f.stops_from_grey - v0) / (v1 - v0)) * (h - 28), f })), zero: h - 18 - ((0 - v0) / (v1 - v0)) * (h - 28), v0, v1 }
}
const says = (s: ShotView) =>
  s.walk
    ? `The marked lit side over time: it changes by ${s.walk.stops.toFixed(1)} stops (${s.walk.range_stops[0].toFixed(1)} to ${s.walk.range_stops[1].toFixed(1)}).`
    : 'The median of each frame over time; mark a lit patch in each to follow the face.'
const levelOf = (f: ShotView['frames'][number]) => `${timeCode(f.time_s)}: ${f.stops_from_grey.toFixed(1)}${f.spread_stops == null ? ' (median)' : ` ± ${f.spread_stops.toFixed(1)}`} stops`
</script>

<template>
  <section v-for="s in shots" :key="s.film" :aria-label="`Shot ${s.film}`" data-test="shot">
    <h2>{{ s.film }}: {{ s.frames.length }} {{ s.frames.length > 1 ? 'frames' : 'frame' }} together</h2>
    <p v-if="!s.lights.length" class="quiet mb-1">No light is told yet: mark something in its frames under Read.</p>
    <ul v-else class="mb-1">
      <li v-for="(l, i) in s.lights" :key="i">{{ l.role }}: {{ Math.abs(l.azimuth_deg).toFixed(0) }}° {{ l.azimuth_deg >= 0 ? 'right' : 'left' }}, {{ Math.abs(l.elevation_deg).toFixed(0) }}° {{ l.elevation_deg >= 0 ? 'up' : 'down' }} ± {{ l.direction_sd_deg.toFixed(1) }}°, by {{ l.evidence.length }} of {{ s.frames.length }} frames</li>
    </ul>
    <template v-if="s.frames.length > 1">
      <svg :viewBox="`0 0 ${w} ${h}`" role="img" :aria-label="`Exposure over time. ${says(s)}`">
        <line :x1="30" :x2="w - 10" :y1="walk(s).zero" :y2="walk(s).zero" class="grey" />
        <polyline :points="walk(s).at.map((p) => `${p.x},${p.y}`).join(' ')" />
        <circle v-for="p in walk(s).at" :key="p.id" :cx="p.x" :cy="p.y" r="3.4"><title>{{ levelOf(p.f) }}</title></circle>
        <text x="26" :y="walk(s).zero + 3" class="end">grey</text>
      </svg>
      <p class="quiet small mb-0">{{ says(s) }}</p>
    </template>
  </section>
  <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
</template>

<style scoped>
ul {
  padding-left: 1.1rem;
}
svg {
  width: 100%;
  background: var(--band-2);
  border-radius: 6px;
}
polyline {
  fill: none;
  stroke: var(--light);
}
circle {
  fill: var(--ink-2);
}
.grey {
  stroke: var(--light);
  stroke-dasharray: 2 3;
  opacity: 0.7;
}
text {
  fill: var(--ink-3);
  font-size: 10px;
  text-anchor: end;
}
</style>
