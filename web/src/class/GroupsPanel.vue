<script setup lang="ts">
// Groups of a class that hand in together.
import { computed, onMounted, ref } from 'vue'
import { api, data, type ClassView, type Group } from '../api/client'
import { messageOf } from '../shell/events'
import { grouped } from './groups'

const props = defineProps<{ of: ClassView }>()
/** Name of the group of each student; empty for none. */
const names = ref<Record<string, string>>({})
const size = ref('3')
const problem = ref('')
const saved = ref('')
const students = computed(() => props.of.members.filter((m) => m.seat === 'student'))
function take(all: Group[]) {
  names.value = Object.fromEntries(all.flatMap((g) => g.members.map((m) => [m, g.name])))
}
onMounted(async () => {
  try {
    take(await data(api.GET('/api/classes/{id}/groups', { params: { path: { id: props.of.id } } })))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
function split() {
  const n = Math.max(2, Number(size.value) || 3)
  const mixed = students.value.map((m) => ({ id: m.id, by: Math.random() })).sort((a, b) => a.by - b.by)
  names.value = Object.fromEntries(mixed.map((m, i) => [m.id, `Group ${Math.floor(i / n) + 1}`]))
}
async function save() {
  try {
    take(await data(api.PUT('/api/classes/{id}/groups', { params: { path: { id: props.of.id } }, body: grouped(names.value) })))
    problem.value = ''
    saved.value = 'saved'
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <section class="groups">
    <p class="quiet m-0">Where an assignment is handed in by groups, what one hands in counts for all of the group. Students without a group hand in alone.</p>
    <p v-if="problem" role="alert" class="problem" data-test="groups-problem">{{ problem }}</p>
    <div class="acts">
      <label>Groups of <BFormInput v-model="size" size="sm" type="number" min="2" max="20" class="d-inline-block n" aria-label="Students in a group" /></label>
      <BButton size="sm" variant="secondary" data-test="split-groups" @click="split">Draw them by lot</BButton>
      <BButton size="sm" variant="primary" data-test="save-groups" @click="save">Save the groups</BButton>
      <span class="quiet" role="status">{{ saved }}</span>
    </div>
    <BTableSimple small>
      <BTbody>
        <BTr v-for="m in students" :key="m.id">
          <BTd><bdi>{{ m.name }}</bdi></BTd>
          <BTd><BFormInput v-model="names[m.id]" size="sm" maxlength="60" placeholder="alone" :aria-label="`Group of ${m.name}`" data-test="group-name" @input="saved = ''" /></BTd>
        </BTr>
      </BTbody>
    </BTableSimple>
  </section>
</template>

<style scoped>
.groups {
  display: grid;
  gap: 0.6rem;
  margin-top: 0.6rem;
}
.acts {
  display: flex;
  gap: 0.8rem;
  align-items: center;
}
.n {
  width: 4.5rem;
}
</style>
