<script setup lang="ts">
// What is put before a lamp besides its modifier: colour, a filter by name, barn doors.
import { computed, onMounted, ref } from 'vue'
import { api, data, type Gel, type LightSet, type SetLight } from '../api/client'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'
import { messageOf } from '../shell/events'
import { allGels } from './gels'

const { light, worn, index, set, caseId } = defineProps<{ light: SetLight; worn: string | null | undefined; index: number; set: LightSet; caseId: string }>()
const emit = defineEmits<{ edit: [change: Partial<SetLight>]; flags: [flags: LightSet['flags']] }>()

const table = ref<Gel[]>([])
const says = ref('')
const problem = ref('')
const open = ref(70)
onMounted(async () => (table.value = await allGels()))
const own = computed(() => (worn ? '' : light.gel_rgb ? 'a colour of its own' : light.gel_mired ? `${light.gel_mired > 0 ? '+' : '−'}${Math.abs(light.gel_mired).toFixed(0)} mired` : 'no filter'))
const options = computed(() => table.value.map((g) => ({ value: g.id, text: `${g.name}: ${g.mired ? `${g.mired > 0 ? '+' : '−'}${Math.abs(g.mired)} mired, ` : ''}−${g.loss_stops} stops` })))
const path = { params: { path: { id: caseId } } }
async function tried(what: () => Promise<void>) {
  problem.value = ''
  try {
    await what()
  } catch (e) {
    problem.value = messageOf(e)
  }
}
const put = (gel: string) =>
  tried(async () => {
    const found = await data(api.POST('/api/cases/{id}/set/gel', { ...path, body: { set, light: index, gel: gel || null } }))
    says.value = found.says
    emit('edit', { gel_mired: found.light.gel_mired ?? 0, gel_rgb: found.light.gel_rgb ?? null, level: found.light.level })
  })
const hang = () =>
  tried(async () => {
    const found = await data(api.POST('/api/cases/{id}/set/doors', { ...path, body: { set, light: index, open_deg: open.value } }))
    says.value = found.says
    emit('flags', found.flags)
  })
</script>

<template>
  <div class="before">
    <NumberField label="Colour, K" :value="light.cct_k" :least="1000" :most="40000" :digits="0" :data-test="`kelvin-${index}`" @change="emit('edit', { cct_k: $event })" />
    <label class="gel">Filter<PickOne :value="worn ?? ''" :none="own" :options="options" :aria-label="`Filter on the ${light.name}`" :data-test="`gel-${index}`" @pick="put" /></label>
    <BButton v-if="light.gel_mired || light.gel_rgb" size="sm" variant="secondary" @click="put('')">Take it off</BButton>
    <NumberField label="Leaves, ° open" :value="open" :least="30" :most="170" :digits="0" :data-test="`open-${index}`" @change="(v) => (open = v ?? open)" />
    <BButton size="sm" variant="secondary" class="align-self-end" :data-test="`doors-${index}`" @click="hang">Hang barn doors</BButton>
    <p v-if="says" class="quiet small m-0 all" role="status" :data-test="`before-says-${index}`">{{ says }}</p>
    <p v-if="problem" class="problem m-0 all" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.before {
  display: grid;
  grid-template-columns: 6rem minmax(0, 1fr) auto;
  gap: 0.35rem 0.6rem;
  align-items: end;
  font-size: 0.86rem;
  margin-top: 0.35rem;
}
.all {
  grid-column: 1 / -1;
}
</style>
