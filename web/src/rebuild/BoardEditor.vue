<script setup lang="ts">
// One board: finish, size, what it lifts, and where it must stand for a ratio.
import { computed, ref } from 'vue'
import { api, data, type Board, type LightSet, type SetMeter } from '../api/client'
import { FINISHES } from '../kit/shelves'
import { messageOf } from '../shell/events'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'
import type { components } from '../api/schema'
import { length, type Units } from './drawing'

type Way = components['schemas']['BoardWay']
const { board, index, set, meter, units, caseId } = defineProps<{ board: Board; index: number; set: LightSet; meter: SetMeter; units: Units; caseId: string }>()
const emit = defineEmits<{ edit: [board: Board]; remove: [] }>()

const wanted = ref(3)
const ways = ref<Way[] | null>(null)
const problem = ref('')
const busy = ref(false)
const lift = computed(() => meter.boards?.find((b) => b.board === index))
async function solve() {
  busy.value = true
  problem.value = ''
  ways.value = null
  try {
    ways.value = await data(api.POST('/api/cases/{id}/set/board', { params: { path: { id: caseId } }, body: { set, board: index, key_to_fill: wanted.value } }))
  } catch (e) {
    problem.value = messageOf(e)
  }
  busy.value = false
}
function says(w: Way) {
  const where = length(w.distance_m, units)
  if (w.gives_it) return `${where} away`
  return w.key_to_fill > wanted.value ? `not even at ${where}: ${w.key_to_fill.toFixed(1)} : 1` : `there is more fill than that without it, ${w.key_to_fill.toFixed(1)} : 1`
}
function put(w: Way) {
  emit('edit', w.board)
  ways.value = null
}
</script>

<template>
  <div class="sheet board" :data-test="`board-${index + 1}`">
    <div class="line">
      <span>Board {{ length(board.width_m, units) }} × {{ length(board.height_m, units) }}, {{ length(Math.hypot(...board.position_m), units) }} away</span>
      <PickOne :value="board.finish" :options="FINISHES" :aria-label="`Finish of board ${index + 1}`" @pick="(f) => emit('edit', { ...board, finish: f })" />
      <BButton size="sm" variant="secondary" :aria-label="`Remove board ${index + 1}`" @click="emit('remove')">×</BButton>
    </div>
    <p v-if="lift" class="small m-0" :data-test="`lift-${index + 1}`">{{ lift.says }}</p>
    <div class="line">
      <NumberField label="Key : fill wanted, to 1" :value="wanted" :least="1.1" :most="64" :digits="1" :data-test="`wanted-${index + 1}`" @change="wanted = $event ?? wanted" />
      <BButton size="sm" variant="secondary" class="align-self-end" :disabled="busy" :data-test="`solve-${index + 1}`" @click="solve">{{ busy ? 'Solving…' : 'Where must it stand?' }}</BButton>
    </div>
    <ul v-if="ways" class="ways" :data-test="`ways-${index + 1}`">
      <li v-for="w in ways" :key="w.name">
        <span :class="{ quiet: !w.gives_it }">{{ w.name }}<span v-if="w.mine" class="quiet"> ({{ w.board.finish }})</span>: {{ says(w) }}<span v-if="w.in_frame">; it would stand in the frame</span></span>
        <BButton size="sm" variant="secondary" :aria-label="`Put there: ${w.name}`" @click="put(w)">Put there</BButton>
      </li>
    </ul>
    <p v-if="problem" class="problem m-0" role="alert" :data-test="`unsolved-${index + 1}`">{{ problem }}</p>
  </div>
</template>

<style scoped>
.board {
  display: grid;
  gap: 0.35rem;
  font-size: 0.86rem;
  border-left: 4px solid var(--light);
}
.line {
  display: flex;
  gap: 0.5rem;
  align-items: center;
  justify-content: space-between;
}
.ways {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.25rem;
}
.ways li {
  display: flex;
  gap: 0.5rem;
  justify-content: space-between;
  align-items: center;
}
</style>
