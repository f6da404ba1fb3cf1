<script setup lang="ts">
// The halo at thumbnail size: a ring, with the picture inside if there is one.
import { computed } from 'vue'
import { lobeRadius, lobeStrength, onBand, place, ringBox } from './band'
import RoleMark from './RoleMark.vue'

const props = defineProps<{
  lights: { role: string; azimuth_deg: number; elevation_deg: number; angular_size_deg?: number | null; level_stops?: number | null }[]
  size: number
  label: string
  picture?: string
}>()

const box = computed(() => ringBox(props.size))
const lobes = computed(() =>
  props.lights.map((l) => {
    const at = onBand(l)
    return { role: l.role, ...place(box.value, { ...at, out: Math.max(0.12, Math.min(0.9, at.out)) }), r: Math.max(3.6, Math.min(lobeRadius(box.value, (l.angular_size_deg ?? 20) * 1.2), box.value.depth * 0.8)), strength: lobeStrength(l.level_stops) }
  }),
)
</script>

<template>
  <svg :width="size" :height="size" :viewBox="`${-size / 2} ${-size / 2} ${size} ${size}`" role="img" :aria-label="label">
    <rect :x="-size / 2" :y="-size / 2" :width="size" :height="size" :rx="box.depth * 0.5" class="band" />
    <rect :x="-box.hw - box.depth / 2" :y="-box.hh - box.depth / 2" :width="2 * box.hw + box.depth" :height="2 * box.hh + box.depth" class="side" :rx="box.depth * 0.3" />
    <image v-if="picture" :href="picture" :x="-box.hw" :y="-box.hh" :width="2 * box.hw" :height="2 * box.hh" preserveAspectRatio="xMidYMid slice" />
    <rect v-else :x="-box.hw" :y="-box.hh" :width="2 * box.hw" :height="2 * box.hh" class="void" />
    <g v-for="(l, i) in lobes" :key="i" :class="`role-${l.role}`">
      <circle :cx="l.x" :cy="l.y" :r="l.r" fill="currentColor" :fill-opacity="l.strength" />
      <RoleMark :role="l.role" :x="l.x" :y="l.y" :r="3.4" class="inner" />
    </g>
  </svg>
</template>

<style scoped>
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
.inner {
  color: var(--deep);
}
</style>
