<script setup lang="ts">
// The light of the whole room, as a mirror ball shows it or a face tells it.
import { lightMapUrl, type RoomView } from '../api/client'
import TermHint from '../shell/TermHint.vue'
import { few, side, up } from './where'

defineProps<{ room: RoomView; frame: string }>()
const percent = (v: number) => Math.round(100 * v)
</script>

<template>
  <article class="sheet room" data-test="room">
    <div class="head"><TermHint term="room"><strong>The room as a whole</strong></TermHint><span class="figure">{{ room.directional.toFixed(2) }} <span class="quiet">± {{ room.directional_sd.toFixed(2) }}</span> directional</span></div>
    <p class="mb-1">
      <template v-if="!room.has_side">From all around, from no side more.</template>
      <template v-else>In the mean from <span class="figure">{{ side(room.azimuth_deg) }}, {{ up(room.elevation_deg) }} <span class="quiet">± {{ few(room.direction_sd_deg) }}°</span></span>.</template>
      <template v-if="room.leads">The key gives {{ percent(room.key_share) }} <span class="quiet">± {{ Math.max(1, percent(room.key_share_sd)) }}</span> % of what falls on a surface that faces it.</template>
      <template v-else>No single light leads.</template>
    </p>
    <p v-if="room.shown_by === 'face'" class="quiet small mb-0" data-test="told-by-face">
      Told by a face: it sees what comes from in front, and no lamps. At most {{ Math.max(1, percent(room.key_share + room.key_share_sd)) }} % of the light on it is any one light's. A mirror ball where the face is would show the whole room.
    </p>
    <p v-else class="quiet small mb-0">
      About {{ percent(room.inferred) }} % of the light is inferred: clipped in the mirror ball, or hidden behind it. Light map:
      <a :href="lightMapUrl(frame, 'exr')" data-test="map-exr">OpenEXR</a>, <a :href="lightMapUrl(frame, 'hdr')" data-test="map-hdr">Radiance HDR</a>.
    </p>
  </article>
</template>

<style scoped>
.room {
  padding: 0.5rem 0.7rem;
}
.head {
  display: flex;
  justify-content: space-between;
}
</style>
