<script setup lang="ts">
// Several people in one picture: what lights each, and whose light is read where it is not the same.
import { computed } from 'vue'
import type { PersonView } from '../api/client'
import { useCase } from '../cases/case'
import { capital, few, side, up } from './where'

const props = defineProps<{ people: PersonView[] }>()
const current = useCase()
const differ = computed(() => props.people.some((p) => !p.named))
const ordered = computed(() => [...props.people].sort((a, b) => order(a) - order(b)))
const order = (p: PersonView) => ['left', 'middle', 'between', 'right'].indexOf(p.place)
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
      <BFormRadio v-for="p in ordered" :key="p.face" :value="p.face" :data-test="`whose-${p.face}`">
        {{ capital(p.place) }}: <template v-if="p.key_azimuth_deg != null && p.key_elevation_deg != null">key <span class="figure">{{ side(p.key_azimuth_deg) }}, {{ up(p.key_elevation_deg) }} <span class="quiet">± {{ few(p.key_sd_deg ?? 0) }}°</span></span></template>
        <template v-else>{{ p.says }}</template>
      </BFormRadio>
    </BFormRadioGroup>
    <p v-else class="quiet mb-0">Their faces agree on the key within their spreads.</p>
  </article>
</template>
