<script lang="ts">
// A line across a shadow's edge.
import type { GreyTarget, MarkReading } from '../../api/client'
import { type Kind, type MarkOf, endOf, line } from '../kind'

type Penumbra = MarkOf<'penumbra'>

export const kind: Kind<Penumbra> = {
  kind: 'penumbra',
  tools: [
    {
      tool: 'penumbra',
      key: 'W',
      group: 'shadows',
      at: 2,
      text: 'edge',
      how: 'drag across the edge of a shadow, from full light to full dark',
      draft: 'line',
      prefix: 'edge',
      draw: (id, p) => ({ id, kind: 'penumbra', a: p.a, b: endOf(p) }),
    },
  ],
  name: () => 'shadow edge',
  letter: () => 'W',
  ...line<Penumbra>((m) => [m.a, m.b], (m, ends) => ([m.a, m.b] = ends)),
}
</script>

<script setup lang="ts">
import NumberField from '../../shell/NumberField.vue'

defineProps<{ mark: Penumbra; reading?: MarkReading; targets: GreyTarget[] }>()
const emit = defineEmits<{ edit: [change: (m: Penumbra) => void] }>()
</script>

<template>
  <NumberField label="From casting edge to shadow, m" placeholder="on a face: empty" :value="mark.gap_m" :least="0" data-test="gap" @change="emit('edit', (m) => (m.gap_m = $event))" />
  <NumberField label="Pixels a metre there" :value="mark.px_per_m" :least="0" data-test="scale" @change="emit('edit', (m) => (m.px_per_m = $event))" />
</template>
