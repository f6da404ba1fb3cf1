<script lang="ts">
// Grey steps of known reflectances.
import type { GreyTarget, MarkReading } from '../../api/client'
import { type Kind, type MarkOf, type Point, apart, dragged, middle, shifted, side, square } from '../kind'

type Wedge = MarkOf<'wedge'>

/** Patches in a row from the middle of the brightest step to the middle of the darkest. */
export function stepsBetween(a: Point, b: Point, steps: number[]): Wedge['patches'] {
  const n = Math.max(1, steps.length - 1)
  const [dx, dy] = [(b[0] - a[0]) / n, (b[1] - a[1]) / n]
  const h = Math.max(1.5, 0.28 * Math.hypot(dx, dy))
  return steps.map((reflectance, i) => ({ reflectance, polygon: square(shifted(a, dx * i, dy * i), h) }))
}
/** Middles of the first and the last step. */
const endsOf = (m: Wedge): [Point, Point] => [middle(m.patches[0]?.polygon ?? []), middle(m.patches.at(-1)?.polygon ?? [])]

export const kind: Kind<Wedge> = {
  kind: 'wedge',
  tools: [
    {
      tool: 'wedge',
      key: 'T',
      group: 'probes',
      at: 3,
      text: 'grey steps',
      how: 'drag from the middle of the brightest grey step to the middle of the darkest; the picture is read through the curve they tell',
      draft: 'line',
      prefix: 'wedge',
      can: ({ targets }) => targets.length > 0,
      draw: (id, p) => ({ id, kind: 'wedge', patches: stepsBetween(p.a, dragged(p) ? p.b : shifted(p.a, side(p) * 0.3, 0), p.steps) }),
    },
  ],
  name: () => 'grey steps',
  letter: () => 'T',
  points: (m) => (m.patches.length > 1 ? endsOf(m) : []),
  setPoints(m, [a, b]) {
    if (a && b && apart(a, b) > 0) m.patches = stepsBetween(a, b, m.patches.map((k) => k.reflectance))
  },
  shape: (m) => m.patches.map((p) => ({ closed: true, points: p.polygon })),
}
</script>

<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{ mark: Wedge; reading?: MarkReading; targets: GreyTarget[] }>()
const emit = defineEmits<{ edit: [change: (m: Wedge) => void] }>()
const options = computed(() => props.targets.map((t) => ({ value: t.name, text: t.name })))
const target = computed({
  get: () => props.targets.find((t) => t.reflectance.length === props.mark.patches.length)?.name ?? '',
  set: (name) => emit('edit', (m) => (m.patches = stepsBetween(...endsOf(m), props.targets.find((t) => t.name === name)?.reflectance ?? []))),
})
</script>

<template>
  <label>These are <BFormSelect v-model="target" size="sm" :options="options" data-test="steps" /></label>
</template>
