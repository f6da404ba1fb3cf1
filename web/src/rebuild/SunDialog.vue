<script setup lang="ts">
// The sun as a light of the set: place, time and where the lens looks.
import { ref } from 'vue'
import { api, data, type SetLight } from '../api/client'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'
import { messageOf } from '../shell/events'

const { caseId } = defineProps<{ caseId: string }>()
const emit = defineEmits<{ put: [light: SetLight, says: string[]]; close: [] }>()
const here = new Date()
const offset = (minutes: number) => `${minutes > 0 ? '-' : '+'}${String(Math.floor(Math.abs(minutes) / 60)).padStart(2, '0')}:${String(Math.abs(minutes) % 60).padStart(2, '0')}`
const typed = ref({ latitude: 50, longitude: 10, heading: 0, day: here.toISOString().slice(0, 10), time: '12:00', zone: offset(here.getTimezoneOffset()) })
const zones = Array.from({ length: 27 }, (_, i) => offset((12 - i) * 60))
const problem = ref('')
async function put() {
  const t = typed.value
  try {
    const body = { latitude_deg: t.latitude, longitude_deg: t.longitude, heading_deg: t.heading, at: `${t.day}T${t.time}:00${t.zone}` }
    const found = await data(api.POST('/api/cases/{id}/set/sun', { params: { path: { id: caseId } }, body }))
    emit('put', found.light, found.says)
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <BModal :model-value="true" title="The sun" ok-title="Put it into the set" cancel-title="Not now" @ok.prevent="put" @hidden="emit('close')">
    <div class="sun">
      <NumberField label="Degrees north" :value="typed.latitude" :least="-90" :most="90" :digits="2" data-test="sun-north" @change="(v) => (typed.latitude = v ?? typed.latitude)" />
      <NumberField label="Degrees east" :value="typed.longitude" :least="-180" :most="180" :digits="2" data-test="sun-east" @change="(v) => (typed.longitude = v ?? typed.longitude)" />
      <label>Day<BFormInput v-model="typed.day" type="date" data-test="sun-day" /></label>
      <label>Time<BFormInput v-model="typed.time" type="time" data-test="sun-time" /></label>
      <label>From Greenwich<PickOne :value="typed.zone" :options="zones" aria-label="Hours from Greenwich" @pick="typed.zone = $event" /></label>
      <NumberField label="The lens looks to, ° on the compass" :value="typed.heading" :least="-360" :most="360" :digits="0" data-test="sun-heading" @change="(v) => (typed.heading = v ?? typed.heading)" />
    </div>
    <p v-if="problem" role="alert" class="problem mb-0" data-test="sun-problem">{{ problem }}</p>
    <p class="quiet small mb-0">Clear air is taken; walls with windows do not let it in. Never look at the sun through a lens, and keep mirrors and lenses out of it.</p>
  </BModal>
</template>

<style scoped>
.sun {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.6rem;
  margin-bottom: 0.5rem;
}
</style>
