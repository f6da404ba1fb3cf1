<script setup lang="ts">
// The sun as a light of the set: place, time and where the lens looks; outdoors, or through a window with what hangs in it.
import { onMounted, ref } from 'vue'
import { api, data, type LightSet } from '../api/client'
import type { components } from '../api/schema'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'
import { messageOf } from '../shell/events'

type Daylight = components['schemas']['SunStands']
type Wall = components['schemas']['WallSide']

const { caseId, set } = defineProps<{ caseId: string; set: LightSet }>()
const emit = defineEmits<{ put: [daylight: Daylight]; close: [] }>()
const here = new Date()
const offset = (minutes: number) => `${minutes > 0 ? '-' : '+'}${String(Math.floor(Math.abs(minutes) / 60)).padStart(2, '0')}:${String(Math.abs(minutes) % 60).padStart(2, '0')}`
const typed = ref({ latitude: 50, longitude: 10, heading: 0, day: here.toISOString().slice(0, 10), time: '12:00', zone: offset(here.getTimezoneOffset()) })
const zones = Array.from({ length: 27 }, (_, i) => offset((12 - i) * 60))
const WALLS: { value: Wall; text: string }[] = [
  { value: 'left', text: 'camera left' },
  { value: 'right', text: 'camera right' },
  { value: 'front', text: 'behind the lens' },
  { value: 'back', text: 'behind the subject' },
]
const indoors = ref(false)
const pane = ref({ wall: 'left' as Wall, away_m: 2, along_m: 0, up_m: 0.3, width_m: 1.2, height_m: 1.4, sheer: 'none', overcast: false })
const sheers = ref<{ value: string; text: string }[]>([])
const problem = ref('')
onMounted(async () => {
  try {
    sheers.value = (await data(api.GET('/api/sheers'))).map((s) => ({ value: s.id, text: s.name }))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
async function put() {
  const t = typed.value
  try {
    const sun = { latitude_deg: t.latitude, longitude_deg: t.longitude, heading_deg: t.heading, at: `${t.day}T${t.time}:00${t.zone}` }
    const body = indoors.value ? { sun, window: { set, window: pane.value } } : { sun }
    emit('put', await data(api.POST('/api/cases/{id}/set/sun', { params: { path: { id: caseId } }, body })))
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <BModal :model-value="true" title="Daylight" ok-title="Put it into the set" cancel-title="Not now" @ok.prevent="put" @hidden="emit('close')">
    <div class="sun">
      <NumberField label="Degrees north" :value="typed.latitude" :least="-90" :most="90" :digits="2" data-test="sun-north" @change="(v) => (typed.latitude = v ?? typed.latitude)" />
      <NumberField label="Degrees east" :value="typed.longitude" :least="-180" :most="180" :digits="2" data-test="sun-east" @change="(v) => (typed.longitude = v ?? typed.longitude)" />
      <label>Day<BFormInput v-model="typed.day" type="date" data-test="sun-day" /></label>
      <label>Time<BFormInput v-model="typed.time" type="time" data-test="sun-time" /></label>
      <label>From Greenwich<PickOne :value="typed.zone" :options="zones" aria-label="Hours from Greenwich" @pick="typed.zone = $event" /></label>
      <NumberField label="The lens looks to, ° on the compass" :value="typed.heading" :least="-360" :most="360" :digits="0" data-test="sun-heading" @change="(v) => (typed.heading = v ?? typed.heading)" />
    </div>
    <BFormCheckbox v-model="indoors" switch data-test="sun-window">It comes in through a window</BFormCheckbox>
    <div v-if="indoors" class="sun pane">
      <label>In the wall<PickOne :value="pane.wall" :options="WALLS" aria-label="Wall of the window" @pick="(v) => (pane.wall = v as Wall)" /></label>
      <label>In it hangs<PickOne :value="pane.sheer" :options="sheers" aria-label="What hangs in the window" @pick="pane.sheer = $event" /></label>
      <NumberField label="From the eyes to the wall, m" :value="pane.away_m" :least="0.3" :most="50" :digits="2" data-test="pane-away" @change="(v) => (pane.away_m = v ?? pane.away_m)" />
      <NumberField label="Its middle over the eyes, m" :value="pane.up_m" :least="-5" :most="10" :digits="2" data-test="pane-up" @change="(v) => (pane.up_m = v ?? pane.up_m)" />
      <NumberField label="Wide, m" :value="pane.width_m" :least="0.1" :most="20" :digits="2" data-test="pane-wide" @change="(v) => (pane.width_m = v ?? pane.width_m)" />
      <NumberField label="High, m" :value="pane.height_m" :least="0.1" :most="10" :digits="2" data-test="pane-high" @change="(v) => (pane.height_m = v ?? pane.height_m)" />
      <NumberField :label="pane.wall === 'left' || pane.wall === 'right' ? 'Along the wall, towards the lens, m' : 'Along the wall, to camera right, m'" :value="pane.along_m" :least="-20" :most="20" :digits="2" data-test="pane-along" @change="(v) => (pane.along_m = v ?? pane.along_m)" />
      <BFormCheckbox v-model="pane.overcast" class="align-self-end" data-test="pane-overcast">The sky is covered</BFormCheckbox>
    </div>
    <p v-if="problem" role="alert" class="problem mb-0" data-test="sun-problem">{{ problem }}</p>
    <p class="quiet small mb-0">Clear air is taken. Through a window the sun falls where its way lies, and the window shines with the sky; without one the walls of a room keep the sun out. Never look at the sun through a lens, and keep mirrors and lenses out of it.</p>
  </BModal>
</template>

<style scoped>
.sun {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.6rem;
  margin-bottom: 0.5rem;
}
.sun label {
  font-size: 0.86rem;
}
.pane {
  padding-left: 0.6rem;
  border-left: 3px solid var(--line);
}
</style>
