<script lang="ts">
// A line across a bright edge that a light from behind draws.
import type { GreyTarget, MarkReading } from '../../api/client'
import { type Kind, type MarkOf, endOf, line } from '../kind'

type Rim = MarkOf<'rim'>

export const kind: Kind<Rim> = {
  kind: 'rim',
  tools: [
    {
      tool: 'rim',
      key: 'R',
      group: 'surfaces',
      at: 4,
      text: 'rim',
      how: 'press inside the form and drag across its bright edge into the background',
      draft: 'line',
      prefix: 'rim',
      draw: (id, p) => ({ id, kind: 'rim', inside: p.a, outside: endOf(p) }),
    },
  ],
  name: () => 'rim',
  letter: () => 'R',
  ...line<Rim>((m) => [m.inside, m.outside], (m, ends) => ([m.inside, m.outside] = ends)),
}
</script>

<script setup lang="ts">
import NumberField from '../../shell/NumberField.vue'

defineProps<{ mark: Rim; reading?: MarkReading; targets: GreyTarget[] }>()
const emit = defineEmits<{ edit: [change: (m: Rim) => void] }>()
</script>

<template>
  <NumberField label="Radius of the form there, px" :value="mark.radius_px" :least="0" data-test="radius" @change="emit('edit', (m) => (m.radius_px = $event))" />
</template>
