<script setup lang="ts">
// A bright line on a bottle or can: drawn on the product, and what of the kit gives it from where.
import { computed, ref } from 'vue'
import { api, data, type LightSet, type LinePlan, type LineWay } from '../api/client'
import { messageOf } from '../shell/events'

const { set, caseId } = defineProps<{ set: LightSet; caseId: string }>()
const emit = defineEmits<{ take: [way: LineWay] }>()
const subject = computed(() => set.subjects.findIndex((s) => s.kind === 'bottle' || s.kind === 'can'))
const wanted = ref({ middle: -0.75, wide: 0.1, bottom: -0.8, top: 0.8 })
const plan = ref<LinePlan | null>(null)
const problem = ref('')
const SLIDES = [
  { key: 'middle', text: 'Where across', least: -0.95, most: 0.95 },
  { key: 'wide', text: 'How wide', least: 0.01, most: 0.6 },
  { key: 'bottom', text: 'Begins', least: -0.95, most: 0.9 },
  { key: 'top', text: 'Ends', least: -0.9, most: 0.95 },
] as const
const minus = (t: string) => t.replaceAll('-', '−')
const percent = (v: number) => minus(`${(100 * v).toFixed(0)} %`)
async function find() {
  const w = wanted.value
  const line = { subject: subject.value, from: Math.max(-0.99, w.middle - w.wide / 2), to: Math.min(0.99, w.middle + w.wide / 2), bottom: w.bottom, top: w.top }
  try {
    plan.value = await data(api.POST('/api/cases/{id}/set/line', { params: { path: { id: caseId } }, body: { set, line } }))
    problem.value = ''
  } catch (e) {
    plan.value = null
    problem.value = messageOf(e)
  }
}
const way = (a: number, b: number) => minus(`${Math.min(a, b).toFixed(0)}° to ${Math.max(a, b).toFixed(0)}°`)
</script>

<template>
  <details v-if="subject >= 0" class="sheet line" data-test="line">
    <summary>A bright line on it</summary>
    <div class="draw">
      <svg viewBox="-1.1 -1.1 2.2 2.2" preserveAspectRatio="none" class="product" role="img" :aria-label="`A line at ${percent(wanted.middle)} of the half width`">
        <rect x="-1" y="-1" width="2" height="2" class="body" />
        <rect :x="wanted.middle - wanted.wide / 2" :y="-Math.max(wanted.top, wanted.bottom)" :width="wanted.wide" :height="Math.abs(wanted.top - wanted.bottom)" class="glow" />
      </svg>
      <div>
        <label v-for="s in SLIDES" :key="s.key" class="slide">{{ s.text }}
          <BFormInput v-model="wanted[s.key]" type="range" number :min="s.least" :max="s.most" step="0.01" :data-test="`line-${s.key}`" />
          <output class="figure">{{ percent(Number(wanted[s.key])) }}</output>
        </label>
        <BButton size="sm" variant="primary" data-test="find-line" @click="find">What gives it</BButton>
      </div>
    </div>
    <p v-if="problem" class="problem m-0" role="alert" data-test="line-problem">{{ problem }}</p>
    <template v-if="plan">
      <p class="m-0" data-test="line-directions">A source must fill {{ way(plan.directions.azimuth_from_deg, plan.directions.azimuth_to_deg) }} round the product (0° is the lens, positive to camera right), {{ way(plan.directions.elevation_bottom_deg, plan.directions.elevation_top_deg) }} up.</p>
      <p v-for="s in plan.says" :key="s" class="m-0" data-test="line-says">{{ s }}</p>
      <ul>
        <li v-for="w in plan.ways" :key="w.name" :class="{ quiet: !w.gives_it }" data-test="line-way">
          <span class="says">{{ w.says.join(' ') }}</span>
          <BButton size="sm" variant="secondary" data-test="take-line" @click="emit('take', w)">Stand it there</BButton>
        </li>
      </ul>
      <p v-if="!plan.ways.length" class="quiet m-0">Nothing in the kit has a size to give a line: add a strip, a sheet or a board.</p>
    </template>
  </details>
</template>

<style scoped>
.line {
  font-size: 0.86rem;
}
.draw {
  display: grid;
  grid-template-columns: 5.5rem minmax(0, 1fr);
  gap: 0.6rem;
  align-items: center;
}
.product {
  width: 100%;
  height: 9rem;
}
.body {
  fill: var(--band-2);
  stroke: var(--line);
  stroke-width: 0.02;
}
.glow {
  fill: var(--light);
}
.slide {
  display: grid;
  grid-template-columns: 5.4rem 1fr 3rem;
  gap: 0.4rem;
  align-items: center;
}
.says {
  margin-right: 0.4rem;
}
output {
  text-align: right;
}
ul {
  padding-left: 1.1rem;
  margin: 0.3rem 0 0;
}
</style>
