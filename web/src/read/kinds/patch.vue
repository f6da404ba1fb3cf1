<script lang="ts">
// A patch of one material.
import type { GreyTarget, MarkReading } from '../../api/client'
import { type Kind, type MarkOf, area, boxOf } from '../kind'

type Patch = MarkOf<'patch'>
type Role = Patch['role']

const roles: Role[] = ['lit', 'shadow', 'forehead', 'chest', 'background', 'background_far', 'rim', 'label', 'liquid', 'grey18', 'white', 'black', 'other']
const words = (r: Role) => r.replace('_', ' ')
/** The side the next patch is most likely of. */
let next: Role = 'lit'
const set = (role: Role) => (m: Patch) => {
  m.role = role
}

export const kind: Kind<Patch> = {
  kind: 'patch',
  tools: [
    {
      tool: 'patch',
      key: 'P',
      group: 'surfaces',
      at: 1,
      text: 'patch',
      how: 'drag a rectangle on one material, the lit side first, then the shadow side; L, S or G after it for lit, shadow, background',
      draft: 'box',
      prefix: 'patch',
      draw(id, p) {
        const role = next
        next = role === 'lit' ? 'shadow' : 'lit'
        return { id, kind: 'patch', role, polygon: boxOf(p, 0.02) }
      },
    },
  ],
  name: (m) => `${words(m.role)} patch`,
  letter: () => 'P',
  ...area<Patch>(),
  keys: { l: set('lit'), s: set('shadow'), g: set('background') },
}
</script>

<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{ mark: Patch; reading?: MarkReading; targets: GreyTarget[] }>()
const emit = defineEmits<{ edit: [change: (m: Patch) => void] }>()
const options = roles.map((value) => ({ value, text: words(value) }))
const role = computed({ get: () => props.mark.role, set: (v) => emit('edit', set(v)) })
</script>

<template>
  <label>This patch is <BFormSelect v-model="role" size="sm" :options="options" data-test="patch-role" /></label>
</template>
