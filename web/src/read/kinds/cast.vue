<script lang="ts">
// A cast shadow: on the level floor, or on a face or wall.
import type { GreyTarget, MarkReading } from '../../api/client'
import { type Kind, type MarkOf, apart, endOf, shifted } from '../kind'

type Cast = MarkOf<'cast'>

export const kind: Kind<Cast> = {
  kind: 'cast',
  tools: [
    {
      tool: 'nose',
      key: 'V',
      group: 'people',
      at: 4,
      text: 'nose shadow',
      how: 'press on the tip of the nose (or whatever casts the shadow) and drag to the tip of its shadow on the face or wall',
      draft: 'line',
      prefix: 'shadow',
      draw: (id, p) => ({ id, kind: 'cast', base: p.a, top: p.a, tip: endOf(p), on: 'other' }),
    },
    {
      tool: 'cast',
      key: 'H',
      group: 'shadows',
      at: 1,
      text: 'shadow',
      how: 'press on the foot of what casts the shadow and drag to the tip of the shadow, then pull the top into place',
      draft: 'line',
      prefix: 'shadow',
      draw(id, p) {
        const tip = endOf(p)
        // from the foot to the tip of the shadow; the top waits over the foot to be put in place
        return { id, kind: 'cast', base: p.a, tip, top: shifted(p.a, 0, -0.7 * apart(p.a, tip)) }
      },
    },
  ],
  name: (m) => (m.on === 'other' ? 'shadow on a face or wall' : 'cast shadow'),
  letter: (m) => (m.on === 'other' ? 'V' : 'H'),
  points: (m) => (m.on === 'other' ? [m.top, m.tip] : [m.base, m.top, m.tip]),
  setPoints(m, [a, b, c]) {
    if (!a || !b) return
    if (m.on === 'other') [m.base, m.top, m.tip] = [a, a, b]
    else [m.base, m.top, m.tip] = [a, b, c ?? m.tip]
  },
  centre: (m) => m.tip,
  shape: (m) => [{ points: [m.top, m.base, m.tip] }, { ray: true, points: [m.tip, m.top] }],
}
</script>

<script setup lang="ts">
import { computed } from 'vue'
import { useCase } from '../../cases/case'
import NumberField from '../../shell/NumberField.vue'

const props = defineProps<{ mark: Cast; reading?: MarkReading; targets: GreyTarget[] }>()
const emit = defineEmits<{ edit: [change: (m: Cast) => void] }>()
const current = useCase()
const camera = computed(() => current.marks.camera)
const setCamera = (part: 'vfov_deg' | 'pitch_deg', v: number | null) => emit('edit', () => (current.marks.camera = { ...(camera.value ?? {}), [part]: v }))
const grounds = [
  { value: 'floor' as const, text: 'the level floor' },
  { value: 'other' as const, text: 'a face, a wall, something else' },
]
const on = computed({ get: () => props.mark.on ?? 'floor', set: (v) => emit('edit', (m) => (m.on = v)) })
</script>

<template>
  <template v-if="mark.on !== 'other'">
    <NumberField label="Field of view, upright, °" :value="camera?.vfov_deg" :least="0.1" :most="170" data-test="vfov" @change="setCamera('vfov_deg', $event)" />
    <NumberField label="Camera tilted down, °" :value="camera?.pitch_deg" :least="-90" :most="90" data-test="pitch" @change="setCamera('pitch_deg', $event)" />
  </template>
  <label>The shadow falls on <BFormSelect v-model="on" size="sm" :options="grounds" data-test="falls-on" /></label>
</template>
