<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { api, data, pictureUrl, type Brief, type ScaleStep } from '../api/client'
import { useCase } from '../cases/case'
import CalibrationPanel from './CalibrationPanel.vue'
import ExposurePanel from './ExposurePanel.vue'
import SunPanel from './SunPanel.vue'
import FilmGrab from './FilmGrab.vue'
import FrameStrip from './FrameStrip.vue'
import ShotPanel from './ShotPanel.vue'
import { isTyping, messageOf, withCommand } from '../shell/events'
import PickOne from '../shell/PickOne.vue'
import { framed, upClose } from './texture'

const current = useCase()
const frame = computed(() => current.shown)
const briefs = ref<Brief[]>([])
const scale = ref<ScaleStep[]>([])
const title = ref(current.view?.title ?? '')
const note = ref(current.view?.note ?? '')
const problem = ref('')
const film = ref<File | null>(null)
const strip = ref<InstanceType<typeof FrameStrip>>()
onMounted(async () => {
  try {
    briefs.value = await data(api.GET('/api/briefs'))
    scale.value = await data(api.GET('/api/stops-scale'))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
watch(() => current.view, (v) => ((title.value = v?.title ?? ''), (note.value = v?.note ?? '')))

const facts = computed(() => frame.value.facts)
const chosenBrief = computed(() => briefs.value.find((b) => b.id === current.view?.brief))
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

/** What is laid over the picture. */
const over = ref<'picture' | 'stops' | 'clipped'>('picture')
const overs = [
  { id: 'picture', words: 'Picture' },
  { id: 'stops', words: 'Stops map' },
  { id: 'clipped', words: 'Clipped areas' },
] as const
const texture = computed(() => upClose(current.readings?.texture))
const lies = computed(() => framed(current.readings?.straight))
const areas = computed(() => current.readings?.exposure.clipped_areas ?? [])
const mapUrl = computed(() => `/api/frames/${frame.value.id}/map?of=${current.version}`)
function keys(e: KeyboardEvent) {
  if (isTyping(e) || withCommand(e)) return
  if (e.key === '[') strip.value?.step(-1)
  else if (e.key === ']') strip.value?.step(1)
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))
</script>

<template>
  <div class="look">
    <section class="left" aria-label="Picture">
      <FilmGrab v-if="film" :film="film" :case-id="current.id" @grabbed="(f) => void current.show(f.id)" @close="film = null" />
      <figure v-else>
        <div class="shown">
          <img :src="over === 'stops' ? mapUrl : pictureUrl(frame.id, 'view')" :alt="over === 'stops' ? `Map of stops of ${current.view?.title}` : current.view?.title" :style="{ aspectRatio: `${facts.width} / ${facts.height}` }" />
          <svg v-if="over === 'clipped'" :viewBox="`0 0 ${facts.width} ${facts.height}`" preserveAspectRatio="none" role="img" :aria-label="`${areas.length} clipped areas`">
            <g v-for="(a, i) in areas" :key="i">
              <rect class="under" :x="a.from[0]" :y="a.from[1]" :width="a.to[0] - a.from[0]" :height="a.to[1] - a.from[1]" />
              <rect class="box" :x="a.from[0]" :y="a.from[1]" :width="a.to[0] - a.from[0]" :height="a.to[1] - a.from[1]" />
            </g>
          </svg>
        </div>
        <figcaption>
          <BButtonGroup aria-label="What is shown">
            <BButton v-for="o in overs" :key="o.id" size="sm" variant="secondary" :class="{ active: over === o.id }" :aria-pressed="over === o.id" :data-test="`show-${o.id}`" @click="over = o.id">{{ o.words }}</BButton>
          </BButtonGroup>
          <span v-if="over === 'stops'" class="scale" aria-label="Stops from middle grey" data-test="scale">
            <span v-for="s in scale" :key="s.from_stops"><svg viewBox="0 0 10 10" preserveAspectRatio="none" aria-hidden="true"><rect width="10" height="10" :fill="s.colour" /></svg><small>{{ Number.isInteger(s.from_stops) ? (s.from_stops > 0 ? `+${s.from_stops}` : s.from_stops) : '' }}</small></span>
            <small class="quiet">stops from middle grey; clipped is hatched</small>
          </span>
          <span v-else-if="over === 'clipped'" class="quiet">{{ areas.length ? `${areas.length} of the largest connected clipped areas` : 'Nothing of size is clipped.' }}</span>
        </figcaption>
      </figure>
      <FrameStrip ref="strip" @film="(f) => (film = f)" />
    </section>
    <section class="side">
      <label class="form-label">Title<BFormInput v-model="title" maxlength="120" @change="current.edit({ title })" /></label>
      <label class="form-label">First impression
        <BFormTextarea v-model="note" rows="3" placeholder="What does the eye meet first? What must be true for the shot to work?" data-test="note" @change="current.edit({ note })" />
      </label>
      <label class="form-label">Judged as
        <PickOne :value="current.view?.brief" :options="briefs.map((b) => ({ value: b.id, text: b.name }))" data-test="look-brief" @pick="(brief) => current.edit({ brief })" />
      </label>
      <p v-if="chosenBrief" class="quiet small mb-0" data-test="brief-says">{{ chosenBrief.says }} It must hold: {{ chosenBrief.must.join('; ') }}. Never: {{ chosenBrief.never.join('; ') }}. Free: {{ chosenBrief.free.join('; ') }}.</p>

      <ExposurePanel />
      <SunPanel />
      <form class="three" @submit.prevent="saveCamera" @change="saveCamera">
        <label>Frame height, degrees<BFormInput v-model="vfov" size="sm" placeholder="not known" inputmode="decimal" data-test="vfov" /></label>
        <label>Camera distance, m<BFormInput v-model="distance" size="sm" placeholder="not known" inputmode="decimal" /></label>
      </form>
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
      <CalibrationPanel />
      <ShotPanel />

      <template v-if="texture">
        <h2>Up close</h2>
        <p class="mb-0" data-test="texture">{{ texture }}</p>
      </template>
      <template v-if="lies">
        <h2>Level and upright</h2>
        <p class="mb-0" data-test="straight">{{ lies }}</p>
      </template>
      <h2>File</h2>
      <p class="quiet mb-0">{{ frame.file_name }}: {{ facts.format }}, {{ facts.width }} × {{ facts.height }}, {{ facts.bits }} bit{{ facts.profile ? `, ${facts.profile}` : facts.linear ? ', linear' : ', taken as sRGB' }}{{ facts.taken_at ? `, ${facts.taken_at}` : '' }}. Its location was removed.</p>
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
.left {
  display: flex;
  flex-direction: column;
  gap: 0.5rem;
  min-width: 0;
}
figure {
  margin: 0;
  display: grid;
  justify-items: center;
  gap: 0.4rem;
}
.shown {
  position: relative;
  max-width: 100%;
}
img {
  display: block;
  max-width: 100%;
  max-height: calc(100vh - 260px);
  object-fit: contain;
}
.shown svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.under,
.box {
  fill: none;
  vector-effect: non-scaling-stroke;
}
.under {
  stroke: var(--dark);
  stroke-width: 4;
}
.box {
  stroke: var(--light);
  stroke-width: 1.6;
  stroke-dasharray: 6 4;
}
figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 0.8rem;
  align-items: center;
  min-height: 2.6rem;
}
.scale {
  display: flex;
  align-items: start;
}
.scale > span {
  display: grid;
  width: 1.15rem;
}
.scale svg {
  width: 100%;
  height: 0.8rem;
}
.scale small {
  font-size: 0.72rem;
}
.scale > small {
  margin-left: 0.6rem;
}
.side {
  display: grid;
  gap: 0.6rem;
  align-content: start;
}
.form-label {
  margin: 0;
}
@media (max-width: 900px) {
  .look {
    grid-template-columns: minmax(0, 1fr);
  }
  img {
    max-height: 60vh;
  }
}
</style>
