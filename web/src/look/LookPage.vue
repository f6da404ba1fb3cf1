<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { api, data, pictureUrl, type Brief } from '../api/client'
import { useCase } from '../cases/case'

const current = useCase()
const frame = computed(() => current.frame!)
const briefs = ref<Brief[]>([])
const title = ref(current.view?.title ?? '')
const note = ref(current.view?.note ?? '')
const problem = ref('')
onMounted(async () => {
  try {
    briefs.value = await data(api.GET('/api/briefs'))
  } catch (e) {
    problem.value = (e as Error).message
  }
})
watch(() => current.view, (v) => ((title.value = v?.title ?? ''), (note.value = v?.note ?? '')))

const e = computed(() => current.readings?.exposure)
const facts = computed(() => frame.value.facts)
const chosenBrief = computed(() => briefs.value.find((b) => b.id === current.view?.brief))
const settings = ref({ f_number: '', shutter_s: '', iso: '' })
watch(
  () => current.marks.exposure,
  (s) => {
    settings.value = { f_number: s ? String(s.f_number) : '', shutter_s: s ? (s.shutter_s < 0.3 ? `1/${Math.round(1 / s.shutter_s)}` : String(s.shutter_s)) : '', iso: s ? String(s.iso) : '' }
  },
  { immediate: true },
)
const vfov = ref('')
const distance = ref('')
watch(
  () => current.marks.camera,
  (c) => {
    vfov.value = c?.vfov_deg ? String(c.vfov_deg) : ''
    distance.value = c?.distance_m ? String(c.distance_m) : ''
  },
  { immediate: true, deep: true },
)

function seconds(text: string): number {
  const [a, b] = text.split('/')
  return b ? Number(a) / Number(b) : Number(text)
}
function saveSettings() {
  const s = { f_number: Number(settings.value.f_number), shutter_s: seconds(settings.value.shutter_s), iso: Number(settings.value.iso) }
  const filled = Object.values(settings.value).every((v) => v.trim() !== '')
  if (!filled) {
    if (Object.values(settings.value).every((v) => v.trim() === '') && current.marks.exposure) {
      current.remember()
      current.marks.exposure = null
      current.changed()
    }
    return
  }
  if (!Object.values(s).every((v) => Number.isFinite(v) && v > 0)) {
    problem.value = 'Aperture, shutter and ISO need numbers above zero, the shutter as 1/125 or in seconds.'
    return
  }
  problem.value = ''
  current.remember()
  current.marks.exposure = s
  current.changed()
}
function saveCamera() {
  const v = vfov.value.trim() === '' ? null : Number(vfov.value)
  const d = distance.value.trim() === '' ? null : Number(distance.value)
  if ((v !== null && !(v > 0.1 && v < 170)) || (d !== null && !(d > 0))) {
    problem.value = 'The field of view needs degrees from 0.1 to 170, the distance metres above zero.'
    return
  }
  problem.value = ''
  current.remember()
  current.marks.camera = { ...(current.marks.camera ?? {}), vfov_deg: v, distance_m: d }
  current.changed()
}
const bars = computed(() => {
  const h = e.value?.histogram ?? []
  const top = Math.max(...h, 1e-9)
  return h.map((v, i) => ({ x: i * 16, h: Math.sqrt(v / top) * 84, stop: -6 + i / 2, share: v }))
})
const percent = (v: number) => (v > 0 && v < 0.001 ? 'under 0.1 %' : `${(100 * v).toFixed(1)} %`)
</script>

<template>
  <div class="look">
    <figure><img :src="pictureUrl(frame.id, 'view')" :alt="current.view?.title" /></figure>
    <section class="side">
      <label class="form-label">Title<input v-model="title" class="form-control" maxlength="120" @change="current.edit({ title })" /></label>
      <label class="form-label">First impression
        <textarea v-model="note" class="form-control" rows="3" placeholder="What does the eye meet first? What must be true for the shot to work?" data-test="note" @change="current.edit({ note })" />
      </label>
      <label class="form-label">Judged as
        <select class="form-select" :value="current.view?.brief" data-test="look-brief" @change="current.edit({ brief: ($event.target as HTMLSelectElement).value })">
          <option v-for="b in briefs" :key="b.id" :value="b.id">{{ b.name }}</option>
        </select>
      </label>
      <p v-if="chosenBrief" class="quiet small mb-0">{{ chosenBrief.says }} Shadow side at most {{ chosenBrief.darkest_shadow_stops }} stops down<template v-if="chosenBrief.smallest_source_deg > 0">; a key of {{ chosenBrief.smallest_source_deg }}° or more</template>.</p>

      <h2>Exposure</h2>
      <svg v-if="e" viewBox="0 0 320 108" class="hist" role="img" :aria-label="`Histogram in stops from middle grey; median ${e.median_stops_from_grey.toFixed(1)}`">
        <rect v-for="b in bars" :key="b.x" :x="b.x + 1" :y="88 - b.h" width="14" :height="b.h" class="bar"><title>{{ b.stop }} to {{ b.stop + 0.5 }} stops: {{ percent(b.share) }}</title></rect>
        <line x1="192" y1="2" x2="192" y2="90" class="grey" />
        <text v-for="s in [-6, -4, -2, 0, 2, 4]" :key="s" :x="Math.min(310, Math.max(8, (s + 6) * 32))" y="103">{{ s > 0 ? `+${s}` : s }}</text>
      </svg>
      <p v-if="e" class="figure mb-0">
        Median {{ e.median_stops_from_grey >= 0 ? '+' : '' }}{{ e.median_stops_from_grey.toFixed(1) }} stops from middle grey; {{ percent(e.clipped_fraction) }} clipped.
        <template v-if="e.ev100 != null"><br />EV {{ e.ev100.toFixed(1) }} at ISO 100: right for {{ Number((e.incident_lux ?? 0).toPrecision(3)) }} lux at the subject (dome, C = 330); middle grey is {{ (e.grey_luminance ?? 0).toFixed(0) }} cd/m² (K = 12.5).</template>
      </p>
      <form class="three" @submit.prevent="saveSettings" @change="saveSettings">
        <label>f/<input v-model="settings.f_number" class="form-control form-control-sm" inputmode="decimal" aria-label="Aperture, f-number" data-test="f-number" /></label>
        <label>Shutter<input v-model="settings.shutter_s" class="form-control form-control-sm" placeholder="1/125" data-test="shutter" /></label>
        <label>ISO<input v-model="settings.iso" class="form-control form-control-sm" inputmode="numeric" data-test="iso" /></label>
      </form>
      <form class="three" @submit.prevent="saveCamera" @change="saveCamera">
        <label>Frame height, degrees<input v-model="vfov" class="form-control form-control-sm" placeholder="not known" inputmode="decimal" data-test="vfov" /></label>
        <label>Camera distance, m<input v-model="distance" class="form-control form-control-sm" placeholder="not known" inputmode="decimal" /></label>
      </form>
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>

      <h2>File</h2>
      <p class="quiet mb-0">{{ frame.file_name }}: {{ facts.format }}, {{ facts.width }} × {{ facts.height }}, {{ facts.bits }} bit{{ facts.profile ? `, ${facts.profile}` : ', taken as sRGB' }}{{ facts.taken_at ? `, ${facts.taken_at}` : '' }}. Its location was removed.</p>
    </section>
  </div>
</template>

<style scoped>
.look {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 25.5rem;
  gap: 1rem;
  padding: 0.8rem 0.9rem;
}
figure {
  margin: 0;
  display: grid;
  place-items: center;
  height: calc(100vh - 74px);
  position: sticky;
  top: 0.7rem;
}
img {
  max-width: 100%;
  max-height: calc(100vh - 74px);
  object-fit: contain;
}
.side {
  display: grid;
  gap: 0.6rem;
  align-content: start;
}
.form-label {
  margin: 0;
}
.hist {
  background: var(--band-2);
  border-radius: 6px;
  width: 100%;
}
.bar {
  fill: #d6d6d6;
}
.grey {
  stroke: #fff;
  stroke-dasharray: 2 3;
}
text {
  fill: #d0d0d0;
  font-size: 10px;
  text-anchor: middle;
}
.three {
  display: grid;
  grid-auto-flow: column;
  gap: 0.5rem;
  font-size: 0.88rem;
}
.problem {
  color: var(--fault);
  margin: 0;
}
@media (max-width: 900px) {
  .look {
    grid-template-columns: minmax(0, 1fr);
  }
  figure {
    position: static;
    height: auto;
  }
  img {
    max-height: 60vh;
  }
}
</style>
