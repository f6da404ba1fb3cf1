<script setup lang="ts">
// Marks on the floor of somebody who walks, and a meter carried along them.
import { computed } from 'vue'
import type { LightSet, SetMeter } from '../api/client'
import NumberField from '../shell/NumberField.vue'
import { fromMetres, length, toMetres, type Units } from './drawing'

type Walk = NonNullable<LightSet['walk_m']>
const { walk, meter, units } = defineProps<{ walk: Walk; meter: SetMeter; units: Units }>()
const emit = defineEmits<{ edit: [walk: Walk] }>()

const MOST = 12
const figure = (v: number) => `${v >= 0 ? '+' : '−'}${Math.abs(v).toFixed(1)}`
const rows = computed(() =>
  (meter.walk?.points ?? []).map((p) => ({
    mark: p.mark == null ? '' : `mark ${p.mark + 1}`,
    along: length(p.along_m, units),
    dome: figure(p.dome_stops),
    flat: figure(p.flat_stops),
    ...Object.fromEntries(p.lights.map((l) => [`of ${l.name}`, figure(l.stops)])),
  })),
)
const names = computed(() => [...new Set((meter.walk?.points ?? []).flatMap((p) => p.lights.map((l) => l.name)))])
const fields = computed(() => [{ key: 'mark', label: '' }, { key: 'along', label: 'along' }, { key: 'dome', label: 'dome' }, { key: 'flat', label: 'flat' }, ...names.value.map((n) => ({ key: `of ${n}`, label: n }))])
/** One more mark: a step on from the last, towards the camera first. */
function add() {
  const [x, z] = walk.at(-1) ?? [0, -0.6]
  emit('edit', [...walk, walk.length ? [x, Math.round((z + 0.6) * 100) / 100] : [0, -0.6]])
}
const put = (i: number, k: 0 | 1, v: number | null) => v !== null && emit('edit', walk.map((m, j) => (j === i ? (k ? [m[0], toMetres(String(v), units)] : [toMetres(String(v), units), m[1]]) : m)))
</script>

<template>
  <details class="sheet walk" :open="walk.length > 0" data-test="walk">
    <summary>A walk{{ walk.length ? `: ${walk.length} marks on the floor` : '' }}</summary>
    <div v-for="(m, i) in walk" :key="i" class="place">
      <span>Mark {{ i + 1 }}</span>
      <NumberField :label="`right, ${units}`" :value="Number(fromMetres(m[0], units))" :digits="2" :data-test="`mark-${i}-x`" @change="put(i, 0, $event)" />
      <NumberField :label="`to the camera, ${units}`" :value="Number(fromMetres(m[1], units))" :digits="2" :data-test="`mark-${i}-z`" @change="put(i, 1, $event)" />
      <BButton size="sm" variant="secondary" :aria-label="`Remove mark ${i + 1}`" @click="emit('edit', walk.filter((_, k) => k !== i))">×</BButton>
    </div>
    <BButton size="sm" variant="secondary" :disabled="walk.length >= MOST" data-test="add-mark" @click="add">Add a mark</BButton>
    <p v-for="s in meter.walk?.says ?? []" :key="s" class="m-0" data-test="walk-says">{{ s }}</p>
    <div v-if="rows.length" class="wide"><BTable small :items="rows" :fields="fields" class="figure m-0" data-test="walk-table" /></div>
    <p v-if="rows.length" class="quiet small m-0">Stops over the exposure that is set, at the height of the subject's reference point, turned to the lens; nobody stands in the way.</p>
  </details>
</template>

<style scoped>
.walk {
  font-size: 0.86rem;
}
.place {
  display: grid;
  grid-template-columns: 4rem 1fr 1fr auto;
  gap: 0.4rem;
  align-items: end;
  margin-bottom: 0.3rem;
}
.wide {
  overflow-x: auto;
}
</style>
