<script setup lang="ts">
// Where the sun stood, by place and time that a person types; whether a light that was read may be it; when it stands so again.
import { computed, ref, watch } from 'vue'
import { useCase } from '../cases/case'
import { few, side, up } from '../read/where'
import TermHint from '../shell/TermHint.vue'

const current = useCase()
const sun = computed(() => current.readings?.sun)
const problem = ref('')
const empty = { latitude: '', longitude: '', day: '', time: '', offset: '+00:00', heading: '', sure: '' }
const typed = ref({ ...empty })
const offsets = Array.from({ length: 27 }, (_, i) => i - 12).map((h) => `${h < 0 ? '-' : '+'}${String(Math.abs(h)).padStart(2, '0')}:00`)
watch(
  () => current.marks.sun,
  (s) => {
    const parts = /^(\d{4}-\d{2}-\d{2})T(\d{2}:\d{2})(?::[\d.]+)?(Z|[+-]\d{2}:\d{2})$/.exec(s?.at ?? '')
    if (!s) typed.value = { ...empty }
    else
      typed.value = {
        latitude: String(s.latitude_deg),
        longitude: String(s.longitude_deg),
        day: parts?.[1] ?? '',
        time: parts?.[2] ?? '',
        offset: parts?.[3] === 'Z' ? '+00:00' : (parts?.[3] ?? '+00:00'),
        heading: s.lens_heading_deg == null ? '' : String(s.lens_heading_deg),
        sure: s.lens_heading_sd_deg == null ? '' : String(s.lens_heading_sd_deg),
      }
  },
  { immediate: true },
)

/** A number a person typed, or nothing. */
const number = (text: string) => (text.trim() === '' ? null : Number(text.trim().replace(',', '.').replace('°', '')))
const within = (v: number | null, most: number) => v !== null && Math.abs(v) <= most
function save() {
  const t = typed.value
  if ([t.latitude, t.longitude, t.day, t.time, t.heading].every((v) => v.trim() === '')) {
    problem.value = ''
    if (current.marks.sun) put(null)
    return
  }
  if ([t.latitude, t.longitude, t.day, t.time].some((v) => v.trim() === '')) return
  const [latitude, longitude, heading, sure] = [number(t.latitude), number(t.longitude), number(t.heading), number(t.sure)]
  if (!within(latitude, 90) || !within(longitude, 180)) problem.value = 'The place needs degrees north from -90 to 90 and degrees east from -180 to 180.'
  else if (heading !== null && !within(heading, 360)) problem.value = 'The compass needs degrees from north over east, 0 to 360.'
  else if (sure !== null && !(sure >= 0 && sure <= 180)) problem.value = 'How sure the compass is needs degrees from 0 to 180.'
  else {
    problem.value = ''
    put({ ...current.marks.sun, latitude_deg: latitude ?? 0, longitude_deg: longitude ?? 0, at: `${t.day}T${t.time}:00${t.offset}`, lens_heading_deg: heading, lens_heading_sd_deg: sure })
  }
}
function put(facts: typeof current.marks.sun) {
  current.remember()
  current.marks.sun = facts
  current.changed()
}

/** The day from midnight to midnight as a line: 4 units an hour, a unit a degree. */
const line = computed(() => (sun.value?.day_height_deg ?? []).map((h, i) => `${i},${-Math.max(-12, h)}`).join(' '))
const now = computed(() => {
  const [h, m] = typed.value.time.split(':').map(Number)
  return (h ?? 0) * 4 + (m ?? 0) / 15
})
const top = computed(() => Math.max(20, ...(sun.value?.day_height_deg ?? []), sun.value?.key_height_deg ?? 0) + 6)
</script>

<template>
  <h3><TermHint term="sun">Sun</TermHint></h3>
  <form class="places" @submit.prevent="save" @change="save">
    <label>North, °<BFormInput v-model="typed.latitude" size="sm" inputmode="text" placeholder="48.2" data-test="sun-latitude" /></label>
    <label>East, °<BFormInput v-model="typed.longitude" size="sm" inputmode="text" placeholder="16.4" data-test="sun-longitude" /></label>
    <label>Lens to, °<BFormInput v-model="typed.heading" size="sm" inputmode="numeric" placeholder="90 is east" aria-label="Where the lens looked, degrees on the compass" data-test="sun-heading" /></label>
    <label>± °<BFormInput v-model="typed.sure" size="sm" inputmode="numeric" placeholder="8" aria-label="How sure the compass is, degrees" data-test="sun-sure" /></label>
    <label class="wide">Day<BFormInput v-model="typed.day" size="sm" type="date" data-test="sun-day" /></label>
    <label>Time<BFormInput v-model="typed.time" size="sm" type="time" data-test="sun-time" /></label>
    <label>UTC<BFormSelect v-model="typed.offset" size="sm" :options="offsets.includes(typed.offset) ? offsets : [typed.offset, ...offsets]" aria-label="Clock against UTC" data-test="sun-offset" /></label>
  </form>
  <p v-if="problem" role="alert" class="problem mb-0">{{ problem }}</p>
  <div v-if="sun" data-test="sun">
    <p class="mb-1 mt-1">{{ sun.says }}</p>
    <svg class="day" :viewBox="`0 ${-top} 96 ${top + 12}`" role="img" :aria-label="`The sun over the day: ${few(sun.height_deg)} degrees high at ${typed.time}`" preserveAspectRatio="none">
      <line class="horizon" x1="0" x2="96" y1="0" y2="0" vector-effect="non-scaling-stroke" />
      <line v-if="sun.key_height_deg != null" class="key" x1="0" x2="96" :y1="-sun.key_height_deg" :y2="-sun.key_height_deg" vector-effect="non-scaling-stroke" />
      <polyline class="path" :points="line" vector-effect="non-scaling-stroke" />
      <line class="now" :x1="now" :x2="now" :y1="-top" y2="12" vector-effect="non-scaling-stroke" />
    </svg>
    <div class="hours quiet" aria-hidden="true"><small v-for="h in [0, 6, 12, 18, 24]" :key="h">{{ h }} h</small></div>
    <p class="small mb-1">
      Compass <span class="figure">{{ few(sun.compass_deg) }}°</span>, <span class="figure">{{ up(sun.height_deg) }}</span><template v-if="sun.azimuth_deg != null">; from the lens <span class="figure">{{ side(sun.azimuth_deg) }} <span class="quiet">± {{ few(sun.direction_sd_deg ?? 0) }}°</span></span></template>.
    </p>
    <template v-if="sun.as_high?.length">
      <p class="small mb-0">As high as the key was read ({{ up(sun.key_height_deg ?? 0) }}, the dashed line), that day:</p>
      <ul class="small mb-0" data-test="sun-times">
        <li v-for="t in sun.as_high" :key="t.clock"><span class="figure">{{ t.clock }} <span class="quiet">± {{ t.sd_minutes }} min</span></span>: with the lens towards <span class="figure">{{ t.lens_heading_deg }}°</span> it comes from the key's side.</li>
      </ul>
    </template>
    <p v-else-if="sun.key_height_deg != null" class="small quiet mb-0">The sun never stands as high as the key ({{ up(sun.key_height_deg) }}) on that day there.</p>
    <p class="small quiet mb-0">Never look into the sun through a lens or a finder.</p>
  </div>
  <p v-else class="quiet small mb-0">Where and when it was taken, or will be: where the sun stands, whether the key may be it, and when it stands so. The place is never read from the file.</p>
</template>

<style scoped>
h3 {
  font-size: 1rem;
  margin: 0.6rem 0 0.2rem;
}
.places {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  font-size: 0.875rem;
  align-items: end;
  gap: 0.3rem;
}
.wide {
  grid-column: span 2;
}
.day {
  width: 100%;
  height: 5rem;
  background: var(--band-2);
  border-radius: 3px;
}
.horizon {
  stroke: var(--tick);
}
.path {
  fill: none;
  stroke: var(--key);
  stroke-width: 2;
}
.key {
  stroke: var(--ink-2);
  stroke-dasharray: 5 4;
}
.now {
  stroke: var(--light);
}
.hours {
  display: flex;
  justify-content: space-between;
}
</style>
