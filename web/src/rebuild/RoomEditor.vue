<script setup lang="ts">
// The light from all around: how strong, even or as a room gives it, and how that room is turned.
import { computed, ref } from 'vue'
import { api, data, upload, type LightSet } from '../api/client'
import NumberField from '../shell/NumberField.vue'
import { messageOf } from '../shell/events'

type Room = NonNullable<LightSet['ambient']>
const { room, caseId, frame } = defineProps<{ room: Room; caseId: string; frame: string | undefined }>()
/** `remember` before a slider moves; `move` while it does; `edit` for a change of its own. */
const emit = defineEmits<{ remember: []; move: [room: Room]; edit: [room: Room, lampsOff: boolean] }>()

const problem = ref('')
const busy = ref(false)
const stops = computed(() => ('stops' in room.level ? room.level.stops : null))
const level = computed({
  get: () => stops.value ?? 0,
  set: (v: string | number) => emit('move', { ...room, level: { stops: Number(v) } }),
})
/** Takes the room of a picture; the lamps that lit that picture are in it. */
async function take(from: () => Promise<string>) {
  problem.value = ''
  busy.value = true
  try {
    const id = await from()
    emit('edit', await data(api.GET('/api/frames/{id}/room', { params: { path: { id } } })), true)
  } catch (e) {
    problem.value = messageOf(e)
  }
  busy.value = false
}
const ofReference = () => frame && take(async () => frame)
function ofFile(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) void take(async () => (await upload(caseId, file, () => {}, { role: 'probe' })).id)
}
function turn(deg: number | null) {
  if (deg !== null && room.map) emit('edit', { ...room, map: { ...room.map, turn_deg: deg } }, false)
}
const picker = ref<HTMLInputElement | null>(null)
</script>

<template>
  <div class="sheet room-light" data-test="room-light">
    <label v-if="stops !== null">Room light, stops
      <span class="level"><BFormInput v-model="level" type="range" min="-8" max="2" step="0.1" @pointerdown="emit('remember')" /><output class="figure">{{ stops.toFixed(1) }}</output></span>
    </label>
    <p class="quiet small m-0" data-test="room-kind">{{ room.map ? `As a room gives it, ${room.map.rows * 2} by ${room.map.rows} cells; lamps that were on in it are part of it. Stops are the mean over all sides.` : 'Even, from all sides.' }}</p>
    <div class="ways">
      <BButton v-if="room.map" size="sm" variant="secondary" data-test="room-even" @click="emit('edit', { level: room.level, cct_k: room.cct_k }, false)">Even again</BButton>
      <BButton v-if="frame" size="sm" variant="secondary" :disabled="busy" data-test="room-of-ball" @click="ofReference">As the ball in the reference shows it</BButton>
      <BButton size="sm" variant="secondary" :disabled="busy" data-test="room-of-file" @click="picker?.click()">From a panorama…</BButton>
      <input ref="picker" type="file" accept=".hdr,.exr" class="d-none" aria-label="Panorama, OpenEXR or Radiance HDR" @change="ofFile" />
      <NumberField v-if="room.map" label="Turned right, °" :value="room.map.turn_deg ?? 0" :least="-180" :most="180" :digits="0" data-test="room-turn" @change="turn" />
    </div>
    <p v-if="problem" class="problem m-0" role="alert" data-test="room-problem">{{ problem }}</p>
  </div>
</template>

<style scoped>
.room-light {
  display: grid;
  gap: 0.35rem;
  font-size: 0.86rem;
}
.level {
  display: grid;
  grid-template-columns: 1fr 3rem;
  gap: 0.5rem;
  align-items: center;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: end;
}
</style>
