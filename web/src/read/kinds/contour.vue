<script lang="ts">
// An outline of the subject against the background.
import type { GreyTarget, MarkReading } from '../../api/client'
import { type Kind, type MarkOf, type Point, between, endOf, shifted, side } from '../kind'

type Contour = MarkOf<'contour'>

/** Side of a drawn outline that looks away from the middle of the picture, walking along it: the background, most likely. */
export function awayFrom(path: Point[], middle: Point): 'left' | 'right' {
  let turn = 0
  path.slice(1).forEach((p, i) => {
    const q = path[i] ?? p
    turn += (p[0] - q[0]) * (middle[1] - p[1]) - (p[1] - q[1]) * (middle[0] - p[0])
  })
  return turn > 0 ? 'left' : 'right'
}

export const kind: Kind<Contour> = {
  kind: 'contour',
  tools: [
    {
      tool: 'contour',
      key: 'K',
      group: 'surfaces',
      at: 3,
      text: 'outline',
      how: 'draw along an outline of the subject against the background, round a bend: jaw, shoulder, a ball',
      draft: 'path',
      prefix: 'outline',
      draw(id, p) {
        const end = endOf(p)
        const points: Point[] = p.path.length > 2 ? p.path : [p.a, shifted(between(p.a, end), 0, -0.12 * side(p)), end]
        return { id, kind: 'contour', points, outward: awayFrom(points, [p.picture[0] / 2, p.picture[1] / 2]) }
      },
    },
  ],
  name: () => 'outline',
  letter: () => 'K',
  points: (m) => m.points,
  setPoints: (m, p) => (m.points = p),
  centre: (m) => m.points[Math.floor(m.points.length / 2)] ?? [0, 0],
  shape: (m) => [{ points: m.points }],
}
</script>

<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{ mark: Contour; reading?: MarkReading; targets: GreyTarget[] }>()
const emit = defineEmits<{ edit: [change: (m: Contour) => void] }>()
const sides = [
  { value: 'left', text: 'on the left' },
  { value: 'right', text: 'on the right' },
]
const outward = computed({ get: () => props.mark.outward, set: (v) => emit('edit', (m) => (m.outward = v)) })
</script>

<template>
  <label>The background lies, walking along it, <BFormSelect v-model="outward" size="sm" :options="sides" data-test="outward" /></label>
</template>
