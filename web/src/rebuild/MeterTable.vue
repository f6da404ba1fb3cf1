<script setup lang="ts">
// A meter held at places of the subject and on the background, all light counted.
import { computed } from 'vue'
import type { SetMeter } from '../api/client'

const { meter } = defineProps<{ meter: SetMeter }>()
const points = computed(() => meter.points ?? [])
const DARK = -15
const stops = (v: number) => (v < DARK ? 'dark' : `${v >= 0 ? '+' : '−'}${Math.abs(v).toFixed(1)}`)
const names = computed(() => [...new Set(points.value.flatMap((p) => p.lights.map((l) => l.name)))])
const fields = computed(() => [
  { key: 'place', label: 'Held at' },
  { key: 'f', label: 'f/' },
  { key: 'flat', label: 'flat' },
  { key: 'dome', label: 'dome' },
  ...names.value.map((n) => ({ key: `of ${n}`, label: n })),
  ...(points.value.some((p) => p.ambient_stops != null) ? [{ key: 'room', label: 'room' }] : []),
])
const rows = computed(() =>
  points.value.map((p) => ({
    place: p.name,
    f: p.flat_stops < DARK ? '' : p.f_number.toFixed(1),
    flat: stops(p.flat_stops),
    dome: stops(p.dome_stops),
    room: p.ambient_stops == null ? '' : stops(p.ambient_stops),
    ...Object.fromEntries(p.lights.map((l) => [`of ${l.name}`, stops(l.stops)])),
  })),
)
</script>

<template>
  <details v-if="points.length" class="sheet" data-test="meter-table">
    <summary>A meter at {{ points.length }} places</summary>
    <p v-if="meter.background" class="small mb-1" data-test="behind">{{ meter.background.says }}</p>
    <div class="wide"><BTable small :items="rows" :fields="fields" class="figure m-0" /></div>
    <p class="quiet small mb-0">Stops over the exposure that is set, ± {{ (meter.points_sd_stops ?? 0).toFixed(2) }}. Flat faces where the place faces; f/ is what it asks for; each light alone is metered flat. Boards, walls, floor and the subject's own shadow are counted{{ meter.bounced_stops != null ? `: boards and walls alone give the dome ${stops(meter.bounced_stops)}` : '' }}.</p>
  </details>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}
</style>
