<script setup lang="ts">
// A lamp's output by two readings of a meter, in place of what is printed on it.
import { computed, ref } from 'vue'
import { api, data, type Lamp, type LampReading, type Metered } from '../api/client'
import NumberField from '../shell/NumberField.vue'
import TextField from '../shell/TextField.vue'
import { messageOf } from '../shell/events'
import { read, shutter } from '../shell/units'

const props = defineProps<{ lamp: Lamp }>()
const emit = defineEmits<{ keep: [lamp: Lamp]; close: [] }>()
const flash = computed(() => props.lamp.output.measured === 'guide' || props.lamp.output.measured === 'joules')
const half = { fraction: '1/4', percent: '25 %', stops: '-2', panel: String((props.lamp.full_panel ?? 10) - 2), joules: '-2', fixed: 'full' }[props.lamp.control ?? 'fixed']
const blank = (power: string): LampReading => ({ power, distance_m: 1.5, f_number: 5.6, iso: 100, shutter_s: 1 / 60 })
const readings = ref<LampReading[]>([blank('full'), blank(half)])
const found = ref<Metered | null>(null)
const problem = ref('')
async function work() {
  try {
    found.value = await data(api.POST('/api/kit/lamps/metered', { body: { lamp: props.lamp.id, readings: readings.value } }))
    problem.value = ''
  } catch (e) {
    found.value = null
    problem.value = messageOf(e)
  }
}
const put = (r: LampReading, change: Partial<LampReading>) => {
  Object.assign(r, change)
  found.value = null
}
</script>

<template>
  <BModal :model-value="true" :title="`Meter ${lamp.name}`" size="lg" no-footer @hidden="emit('close')">
    <p>Everything else off, the lamp in its own reflector. Hold the meter flat on its axis, turned to it. Measure from the bright face. Change the power between the readings, or the distance, not both.</p>
    <div v-for="(r, k) in readings" :key="k" class="reading" role="group" :aria-label="`Reading ${k + 1}`">
      <label>Power<TextField :value="r.power" :data-test="`power-${k}`" @change="(v) => put(r, { power: v })" /></label>
      <NumberField label="Distance, m" :value="r.distance_m" :least="0.1" :most="30" :data-test="`distance-${k}`" @change="(v) => v && put(r, { distance_m: v })" />
      <NumberField label="Shows f/" :value="r.f_number" :least="0.5" :most="128" :data-test="`aperture-${k}`" @change="(v) => v && put(r, { f_number: v })" />
      <NumberField label="ISO" :value="r.iso" :least="1" :data-test="`iso-${k}`" @change="(v) => v && put(r, { iso: v })" />
      <label v-if="!flash">Time, s<TextField :value="shutter(r.shutter_s)" :data-test="`time-${k}`" @change="(t) => put(r, { shutter_s: read(t, 's') ?? r.shutter_s })" /></label>
    </div>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <div v-if="found" role="status">
      <p v-for="s in found.says" :key="s" class="m-0" data-test="metered">{{ s }}</p>
    </div>
    <div class="acts">
      <BButton variant="secondary" @click="readings.push(blank('full'))">One more reading</BButton>
      <BButton variant="primary" data-test="work-out" @click="work">Work it out</BButton>
      <BButton v-if="found" variant="primary" data-test="keep-metered" @click="emit('keep', found.lamp)">Keep it in the kit</BButton>
    </div>
  </BModal>
</template>

<style scoped>
.reading {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(6.5rem, 1fr));
  gap: 0.5rem;
  margin-bottom: 0.6rem;
}
.acts {
  display: flex;
  gap: 0.5rem;
  justify-content: end;
  margin-top: 0.8rem;
}
</style>
