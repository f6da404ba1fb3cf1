<script setup lang="ts">
// A bright line on a glossy product: how it fades, which directions it asks for, and what of the kit gives it from where.
import { computed } from 'vue'
import type { LinePlan, LineWanted, LineWay } from '../api/client'
import HaloRing from '../halo/HaloRing.vue'
import PickOne from '../shell/PickOne.vue'

const props = defineProps<{ wanted: LineWanted; plan: LinePlan | null; problem: string; isBox: boolean }>()
const emit = defineEmits<{ edit: [line: LineWanted]; close: []; take: [way: LineWay] }>()

const FADES = [
  { value: 'none', text: 'crisp at both edges' },
  { value: 'left', text: 'to its left edge' },
  { value: 'right', text: 'to its right edge' },
  { value: 'both', text: 'to both edges' },
] as const
const SIDES = [
  { value: 'front', text: 'front' },
  { value: 'left', text: 'left side' },
  { value: 'right', text: 'right side' },
  { value: 'top', text: 'top' },
] as const
const USUAL_FADE = 0.6
const minus = (t: string) => t.replaceAll('-', '−')
const way = (a: number, b: number) => minus(`${Math.min(a, b).toFixed(0)}° to ${Math.max(a, b).toFixed(0)}°`)
/** The directions as a lobe of the halo. */
const lobe = computed(() => {
  const d = props.plan?.directions
  if (!d) return []
  const middle = (d.azimuth_from_deg + d.azimuth_to_deg) / 2
  return [{ role: 'other', azimuth_deg: middle, elevation_deg: (d.elevation_bottom_deg + d.elevation_top_deg) / 2, angular_size_deg: Math.max(6, Math.abs(d.azimuth_to_deg - d.azimuth_from_deg)) }]
})
function fade(side: (typeof FADES)[number]['value']) {
  const share = props.wanted.fade?.share ?? USUAL_FADE
  emit('edit', { ...props.wanted, fade: side === 'none' ? null : { side, share } })
}
const percent = (v: number) => `${(100 * v).toFixed(0)} %`
</script>

<template>
  <section class="sheet line" aria-label="A bright line on the product" data-test="line">
    <div class="head">
      <h2 class="m-0">A bright line on it</h2>
      <BButton size="sm" variant="secondary" data-test="line-close" @click="emit('close')">Close</BButton>
    </div>
    <p class="quiet m-0">Stroke over the product in the picture above where the line should run; pull its edges, ends and, if it fades, the square.</p>
    <div class="choices">
      <label v-if="isBox">On its<PickOne :value="wanted.side ?? 'front'" :options="SIDES" data-test="line-side" @pick="emit('edit', { ...wanted, side: $event })" /></label>
      <label>It fades<PickOne :value="wanted.fade?.side ?? 'none'" :options="FADES" data-test="line-fade" @pick="fade" /></label>
      <span v-if="wanted.fade && wanted.fade.side !== 'both'" class="figure quiet">over {{ percent(wanted.fade.share) }} of its width</span>
    </div>
    <p v-if="problem" class="problem m-0" role="alert" data-test="line-problem">{{ problem }}</p>
    <template v-if="plan">
      <div class="asks">
        <HaloRing :lights="lobe" :size="92" label="Where it must be bright, on the halo" />
        <div>
          <p class="m-0" data-test="line-directions">A source must fill {{ way(plan.directions.azimuth_from_deg, plan.directions.azimuth_to_deg) }} round the product (0° is the lens, positive to camera right), {{ way(plan.directions.elevation_bottom_deg, plan.directions.elevation_top_deg) }} up: dashed in plan and from the side.</p>
          <p v-for="s in plan.says" :key="s" class="m-0" data-test="line-says">{{ s }}</p>
        </div>
      </div>
      <ol>
        <li v-for="w in plan.ways" :key="w.name" :class="{ quiet: !w.gives_it }" data-test="line-way">
          <span class="says"><strong v-if="w.gives_it">Gives it. </strong>{{ minus(w.says.join(' ')) }}</span>
          <BButton size="sm" variant="secondary" data-test="take-line" @click="emit('take', w)">Stand it there</BButton>
        </li>
      </ol>
      <p v-if="!plan.ways.length && !plan.says.length" class="quiet m-0">Nothing in the kit has a size to give a line: add a strip, a sheet or a board.</p>
    </template>
  </section>
</template>

<style scoped>
.line {
  font-size: 0.88rem;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
h2 {
  font-size: 1.05rem;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 0.8rem;
  align-items: end;
  margin: 0.35rem 0;
}
.asks {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 0.6rem;
  align-items: start;
}
.says {
  margin-right: 0.4rem;
}
ol {
  padding-left: 1.2rem;
  margin: 0.3rem 0 0;
  max-height: 22rem;
  overflow-y: auto;
}
li + li {
  margin-top: 0.3rem;
}
</style>
