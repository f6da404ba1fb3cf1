<script setup lang="ts">
// One cutter: what it leaves of a light, and where it must stand for a band of a height and an edge.
import { computed, ref, watch } from 'vue'
import { api, data, type LightSet, type SetMeter } from '../api/client'
import { messageOf } from '../shell/events'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'
import { length, type Units } from './drawing'

type Flag = LightSet['flags'][number]
const { flag, index, set, meter, units, caseId } = defineProps<{ flag: Flag; index: number; set: LightSet; meter: SetMeter; units: Units; caseId: string }>()
const emit = defineEmits<{ edit: [flag: Flag]; remove: [] }>()

const MM = 1000
const leaves = computed(() => meter.flags?.find((f) => f.flag === index))
const kind = computed(() => flag.pattern?.kind ?? 'solid')
const light = ref<string>()
const band = ref({ height: 50, edge: 12, apart: null as number | null, up: 0 })
// what it leaves as it stands is where one begins
watch(
  leaves,
  (l) => {
    if (!l) return
    light.value = l.light
    band.value = { height: l.band.height_m * MM, edge: l.band.edge_m * MM, apart: l.band.apart_m == null ? null : l.band.apart_m * MM, up: (l.band.at_m?.[1] ?? 0) * MM }
  },
  { immediate: true },
)
const problem = ref('')
const says = ref<string[]>([])
const busy = ref(false)
const names = computed(() => set.lights.map((l) => l.name))
const chosen = computed(() => Math.max(0, names.value.indexOf(light.value ?? 'key')))

let asked = 0
async function place(change: Partial<typeof band.value>) {
  band.value = { ...band.value, ...change }
  busy.value = true
  problem.value = ''
  const mine = ++asked
  try {
    const b = band.value
    const wanted = { at_m: [0, b.up / MM, 0] as [number, number, number], height_m: b.height / MM, edge_m: b.edge / MM, ...(b.apart == null ? {} : { apart_m: b.apart / MM }) }
    const found = await data(api.POST('/api/cases/{id}/set/cutter', { params: { path: { id: caseId } }, body: { set, light: chosen.value, band: wanted } }))
    // only what was asked for last counts
    if (mine !== asked) return
    says.value = found.says
    emit('edit', found.flag)
  } catch (e) {
    if (mine === asked) problem.value = messageOf(e)
  }
  if (mine === asked) busy.value = false
}
const SOLID = { kind: 'solid' } as const
function pattern(k: 'solid' | 'slit' | 'blinds' | 'leaves' | 'lace') {
  if (k === 'solid') emit('edit', { ...flag, pattern: SOLID })
  else if (k === 'leaves') emit('edit', { ...flag, pattern: { kind: 'leaves', leaf_m: 0.12, open: 0.4 } })
  else if (k === 'lace') emit('edit', { ...flag, pattern: { kind: 'lace', pitch_m: 0.04, open: 0.35 } })
  else void place({ apart: k === 'blinds' ? (band.value.apart ?? band.value.height) : null })
}
</script>

<template>
  <div class="sheet flag" :data-test="`flag-${index + 1}`">
    <div class="line">
      <span>Cutter {{ length(flag.width_m, units) }} × {{ length(flag.height_m, units) }}, {{ length(Math.hypot(...flag.position_m), units) }} away</span>
      <PickOne :value="kind" :options="[{ value: 'slit', text: 'slit' }, { value: 'blinds', text: 'blinds' }, { value: 'leaves', text: 'leaves' }, { value: 'lace', text: 'lace' }, { value: 'solid', text: 'solid' }]" :aria-label="`Kind of cutter ${index + 1}`" @pick="pattern" />
      <BButton size="sm" variant="secondary" :aria-label="`Remove cutter ${index + 1}`" @click="emit('remove')">×</BButton>
    </div>
    <p v-if="leaves" class="small m-0" :data-test="`leaves-${index + 1}`">{{ leaves.says }}</p>
    <template v-if="kind === 'slit' || kind === 'blinds'">
      <div class="fields">
        <label>Cuts the<PickOne :value="names[chosen]" :options="names" @pick="(n) => { light = n; void place({}) }" /></label>
        <NumberField label="Band, mm high" :value="band.height" :least="2" :most="3000" :digits="0" :data-test="`band-${index + 1}`" @change="place({ height: $event ?? band.height })" />
        <NumberField label="Edges, mm" :value="band.edge" :least="0.5" :most="3000" :digits="1" :data-test="`edge-${index + 1}`" @change="place({ edge: $event ?? band.edge })" />
        <NumberField v-if="kind === 'blinds'" label="Dark between, mm" :value="band.apart" :least="2" :most="3000" :digits="0" @change="place({ apart: $event ?? band.apart })" />
        <NumberField label="Over the eyes, mm" :value="band.up" :least="-2000" :most="2000" :digits="0" @change="place({ up: $event ?? 0 })" />
        <BButton size="sm" variant="secondary" class="align-self-end" :disabled="busy" :data-test="`cut-${index + 1}`" @click="place({})">Stand it there</BButton>
      </div>
      <p v-for="s in says" :key="s" class="quiet small m-0">{{ s }}</p>
    </template>
    <div v-if="flag.pattern?.kind === 'leaves'" class="fields">
      <NumberField label="Leaf, mm long" :value="flag.pattern.leaf_m * MM" :least="5" :most="2000" :digits="0" @change="(v) => v && flag.pattern?.kind === 'leaves' && emit('edit', { ...flag, pattern: { ...flag.pattern, leaf_m: v / MM } })" />
      <NumberField label="Open, %" :value="flag.pattern.open * 100" :least="2" :most="98" :digits="0" @change="(v) => v && flag.pattern?.kind === 'leaves' && emit('edit', { ...flag, pattern: { ...flag.pattern, open: v / 100 } })" />
    </div>
    <p v-if="problem" class="problem m-0" role="alert" :data-test="`uncut-${index + 1}`">{{ problem }}</p>
  </div>
</template>

<style scoped>
.flag {
  display: grid;
  gap: 0.35rem;
  font-size: 0.86rem;
  border-left: 4px solid var(--ink-3);
}
.line {
  display: flex;
  gap: 0.5rem;
  align-items: center;
  justify-content: space-between;
}
.fields {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0.35rem 0.6rem;
  align-items: end;
}
</style>
