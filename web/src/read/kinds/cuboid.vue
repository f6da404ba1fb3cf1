<script lang="ts">
// A box seen at a corner: the corner nearest to the lens, and the far ends of its three edges.
import type { GreyTarget, MarkReading } from '../../api/client'
import { type Kind, type MarkOf, type Point, dragged, shifted, side } from '../kind'

type Cuboid = MarkOf<'cuboid'>

/** Where edges lie until they are pulled into place: two that run back from the one that was drawn. */
export function edges(a: Point, b: Point): [Point, Point, Point] {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]]
  const turned = (deg: number): Point => {
    const [s, c] = [Math.sin((deg * Math.PI) / 180), Math.cos((deg * Math.PI) / 180)]
    return shifted(a, 0.7 * (dx * c - dy * s), 0.7 * (dx * s + dy * c))
  }
  return [b, turned(-115), turned(115)]
}

/** Corners of the three sides, each side drawn as it lies from afar. */
export function outlines(m: Cuboid): Point[][] {
  const [c, e] = [m.corner, m.ends]
  return [0, 1, 2].map((k) => {
    const [p, q] = [e[(k + 1) % 3] ?? c, e[(k + 2) % 3] ?? c]
    return [c, p, [p[0] + q[0] - c[0], p[1] + q[1] - c[1]], q]
  })
}

export const kind: Kind<Cuboid> = {
  kind: 'cuboid',
  tools: [
    {
      tool: 'cuboid',
      key: 'Q',
      group: 'surfaces',
      at: 3,
      text: 'box',
      how: 'drag from the corner of the box that is nearest to the lens down its upright edge, then pull the ends of the two other edges into place',
      draft: 'line',
      prefix: 'box',
      draw: (id, p) => ({ id, kind: 'cuboid', corner: p.a, ends: edges(p.a, dragged(p) ? p.b : shifted(p.a, 0, 0.2 * side(p))) }),
    },
  ],
  name: () => 'box',
  letter: () => 'Q',
  points: (m) => [m.corner, ...m.ends],
  setPoints(m, [corner, ...ends]) {
    m.corner = corner ?? m.corner
    m.ends = m.ends.map((e, k) => ends[k] ?? e)
  },
  shape: (m) => outlines(m).map((points) => ({ closed: true, points })),
}
</script>

<script setup lang="ts">
defineProps<{ mark: Cuboid; reading?: MarkReading; targets: GreyTarget[] }>()
const emit = defineEmits<{ edit: [change: (m: Cuboid) => void] }>()
/** Where something stands, in words: aside by degrees, or straight behind. */
function where(azimuth: number, elevation: number): string {
  const up = `${Math.abs(elevation).toFixed(0)}° ${elevation < 0 ? 'below' : 'up'}`
  const side = azimuth < 0 ? 'left' : 'right'
  if (Math.abs(azimuth) > 172) return `straight behind, ${up}`
  return `${Math.abs(azimuth).toFixed(0)}° ${side}, ${up}`
}
</script>

<template>
  <div class="box">
    <BFormCheckbox :model-value="mark.unlike ?? false" data-test="unlike" @update:model-value="emit('edit', (m) => (m.unlike = !!$event))">Its sides differ in print or paint</BFormCheckbox>
    <BTableSimple v-if="reading?.sides?.length" small class="m-0 sides" data-test="sides-table">
      <thead><tr><th scope="col">Side</th><th scope="col">under the brightest</th><th scope="col">falls off by</th><th scope="col">mirrors what stands at</th></tr></thead>
      <tbody>
        <tr v-for="s in reading.sides" :key="s.name">
          <td>{{ s.name }}</td>
          <td><span class="figure">{{ s.under_stops.toFixed(1) }} ± {{ s.under_sd_stops.toFixed(1) }} stops</span></td>
          <td><span class="figure">{{ s.gradient_stops.toFixed(1) }} stops</span></td>
          <td><span class="figure">{{ where(s.mirrors_azimuth_deg, s.mirrors_elevation_deg) }}</span><template v-if="s.family_deg != null"> (all of it {{ s.family_deg.toFixed(0) }}° across)</template></td>
        </tr>
      </tbody>
    </BTableSimple>
    <p v-if="reading?.sides?.length" class="m-0 small">On a satin or glossy side, a card or sheet put there shows as its gradient; a bare lamp there is glare.</p>
  </div>
</template>

<style scoped>
.box {
  display: grid;
  gap: 0.4rem;
  width: 100%;
}
.sides {
  font-size: 0.86rem;
}
</style>
