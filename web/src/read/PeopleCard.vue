<script setup lang="ts">
// Several people in one picture: what lights each, and whose light is read where it is not the same.
import { computed } from 'vue'
import type { PersonView } from '../api/client'
import { useCase } from '../cases/case'
import { capital, few, side, up } from './where'

const props = defineProps<{ people: PersonView[] }>()
const current = useCase()
const differ = computed(() => props.people.some((p) => !p.named))
/** A key with its spread, or what is said instead. */
const key = (p: PersonView) => (p.key_azimuth_deg != null && p.key_elevation_deg != null ? `key ${side(p.key_azimuth_deg)}, ${up(p.key_elevation_deg)} ± ${few(p.key_sd_deg ?? 0)}°` : p.says)
const whose = computed({
  get: () => props.people.find((p) => p.named)?.face ?? '',
  set: (face) => {
    current.remember()
    current.marks.whose = face
    current.changed()
  },
})
</script>

<template>
  <article class="sheet small" data-test="people">
    <strong>{{ differ ? 'Lit differently: whose light?' : `${people.length} people in one light` }}</strong>
    <BFormRadioGroup v-if="differ" v-model="whose" name="whose" stacked size="sm">
      <BFormRadio v-for="p in people" :key="p.face" :value="p.face" :data-test="`whose-${p.face}`">{{ capital(p.place) }}: <span class="figure">{{ key(p) }}</span></BFormRadio>
    </BFormRadioGroup>
    <p v-for="p in differ ? [] : people" :key="p.face" class="mb-0">{{ capital(p.place) }}: <span class="figure">{{ key(p) }}</span></p>
  </article>
</template>
