<script setup lang="ts">
// Exposure of the picture: histogram in stops, zones, clipped areas, marked parts, and what would correct it.
import { computed, ref, watch } from 'vue'
import type { Marks } from '../api/client'
import { useCase } from '../cases/case'
import PickOne from '../shell/PickOne.vue'
import { read, shutter } from '../shell/units'

const current = useCase()
const problem = ref('')
const e = computed(() => current.readings?.exposure)
const settings = ref({ f_number: '', shutter_s: '', iso: '' })
watch(
  () => current.marks.exposure,
  (s) => {
    settings.value = { f_number: s ? String(s.f_number) : '', shutter_s: s ? shutter(s.shutter_s) : '', iso: s ? String(s.iso) : '' }
  },
  { immediate: true },
)
function saveSettings() {
  const t = settings.value
  const s = { f_number: read(t.f_number, 'f') ?? NaN, shutter_s: read(t.shutter_s, 's') ?? NaN, iso: read(t.iso, 'iso') ?? NaN }
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

const encodings: { id: string; words: string; value: Marks['encoding'] }[] = [
  { id: 'auto', words: 'as the file says (sRGB, or linear)', value: null },
  { id: 'bt709', words: 'video, BT.709', value: 'bt709' },
  { id: 'hlg', words: 'hybrid log-gamma, BT.2100', value: 'hlg' },
  { id: 'acescct', words: 'logarithmic, ACEScct', value: 'acescct' },
  { id: 'linear', words: 'linear', value: 'linear' },
]
const encoding = computed(() => {
  const own = current.marks.encoding
  if (!own) return 'auto'
  return typeof own === 'string' ? (encodings.find((k) => k.id === own)?.id ?? 'auto') : 'own'
})
function setEncoding(id: string) {
  const chosen = encodings.find((k) => k.id === id)
  if (!chosen) return
  current.remember()
  current.marks.encoding = chosen.value
  current.changed()
}

const bars = computed(() => {
  const h = e.value?.histogram ?? []
  const top = Math.max(...h, 1e-9)
  return h.map((v, i) => ({ x: i * 16, h: Math.sqrt(v / top) * 84, stop: -6 + i / 2, share: v }))
})
const percent = (v: number) => (v > 0 && v < 0.001 ? 'under 0.1 %' : `${(100 * v).toFixed(1)} %`)
const signed = (v: number) => `${v >= 0 ? '+' : '−'}${Math.abs(v).toFixed(1)}`
</script>

<template>
  <h2>Exposure</h2>
  <svg v-if="e" viewBox="0 0 320 108" class="hist" role="img" :aria-label="`Histogram in stops from middle grey; median ${e.median_stops_from_grey.toFixed(1)}`">
    <rect v-for="b in bars" :key="b.x" :x="b.x + 1" :y="88 - b.h" width="14" :height="b.h" class="bar"><title>{{ b.stop }} to {{ b.stop + 0.5 }} stops: {{ percent(b.share) }}</title></rect>
    <line x1="192" y1="2" x2="192" y2="90" class="grey" />
    <text v-for="s in [-6, -4, -2, 0, 2, 4]" :key="s" :x="Math.min(310, Math.max(8, (s + 6) * 32))" y="103">{{ s > 0 ? `+${s}` : s }}</text>
  </svg>
  <dl v-if="e?.zones?.length" class="zones" data-test="zones">
    <div v-for="z in e.zones" :key="z.name"><dt>{{ z.name }}</dt><dd class="figure">{{ percent(z.share) }}</dd></div>
  </dl>
  <p v-if="e" class="figure mb-0">
    Median {{ signed(e.median_stops_from_grey) }} stops from middle grey; {{ percent(e.clipped_fraction) }} clipped<template v-if="e.clipped_areas?.length">, in {{ e.clipped_areas.length }} {{ e.clipped_areas.length > 1 ? 'areas' : 'area' }}: the largest takes {{ percent(e.clipped_areas[0]?.share ?? 0) }}</template>.
    <template v-if="e.ev100 != null"><br />EV {{ e.ev100.toFixed(1) }} at ISO 100: right for {{ Number((e.incident_lux ?? 0).toPrecision(3)) }} lux at the subject (dome, C = 330); middle grey is {{ (e.grey_luminance ?? 0).toFixed(0) }} cd/m² (K = 12.5).</template>
  </p>
  <ul v-if="e?.placements?.length" class="placed" data-test="placements">
    <li v-for="p in e.placements" :key="p.mark">
      <strong>{{ p.mark }}</strong> lies at <span class="figure">{{ signed(p.stops_from_grey) }} ± {{ Math.max(0.1, p.spread_stops).toFixed(1) }}</span> stops.
      <span class="quiet">Usual for {{ p.says }} ({{ signed(p.usual_stops[0]) }} to {{ signed(p.usual_stops[1]) }}).</span>
      <template v-if="p.off_stops"> {{ Math.abs(p.off_stops).toFixed(1) }} stops too {{ p.off_stops > 0 ? 'bright' : 'dark' }}.</template>
    </li>
  </ul>
  <div v-if="e?.correction" class="sheet" data-test="correction">
    <p class="mb-1">
      <strong>{{ e.correction.stops === 0 ? 'No exposure suits all marked parts' : `${signed(e.correction.stops)} stops would ${e.correction.agreed ? 'place every marked part' : 'be the middle between them'}` }}.</strong>
      <template v-if="!e.correction.agreed"> They pull both ways: the contrast of the light is the matter, not the exposure.</template>
    </p>
    <ul v-if="e.correction.ways?.length" class="mb-0">
      <li v-for="w in e.correction.ways" :key="w.by">{{ w.by }} to <span class="figure">{{ w.to }}</span><span class="quiet">: {{ w.also }}</span></li>
    </ul>
    <p v-else class="quiet mb-0">Enter aperture, shutter and ISO to see which settings do it.</p>
  </div>
  <form class="three" @submit.prevent="saveSettings" @change="saveSettings">
    <label>f/<BFormInput v-model="settings.f_number" size="sm" inputmode="decimal" aria-label="Aperture, f-number" data-test="f-number" /></label>
    <label>Shutter<BFormInput v-model="settings.shutter_s" size="sm" placeholder="1/125" data-test="shutter" /></label>
    <label>ISO<BFormInput v-model="settings.iso" size="sm" inputmode="numeric" data-test="iso" /></label>
  </form>
  <label class="small">Encoded
    <PickOne :value="encoding" :options="[...(encoding === 'own' ? [{ value: 'own', text: 'by a curve in the marks' }] : []), ...encodings.map((k) => ({ value: k.id, text: k.words }))]" data-test="encoding" @pick="setEncoding" />
  </label>
  <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
</template>

<style scoped>
.hist {
  background: var(--band-2);
  border-radius: 6px;
  width: 100%;
}
.bar {
  fill: var(--ink-3);
}
.grey {
  stroke: var(--light);
  stroke-dasharray: 2 3;
}
text {
  fill: var(--ink-3);
  font-size: 10px;
  text-anchor: middle;
}
.zones {
  display: flex;
  flex-wrap: wrap;
  gap: 0.1rem 1rem;
  margin: 0;
  font-size: 0.9rem;
}
.zones div {
  display: flex;
  gap: 0.35rem;
}
dt {
  font-weight: 400;
  color: var(--ink-2);
}
dd {
  margin: 0;
}
.placed {
  margin: 0;
  padding-left: 1.1rem;
  font-size: 0.93rem;
}
.sheet ul {
  padding-left: 1.1rem;
  font-size: 0.92rem;
}
</style>
