<script setup lang="ts">
// The live rounds of a class: made of pictures of my cases, opened on the wall.
import { computed, onMounted, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, data, pictureUrl, type CaseCard, type RoundCard } from '../api/client'
import { messageOf } from '../shell/events'

const props = defineProps<{ classId: string }>()
const router = useRouter()
const all = ref<RoundCard[] | null>(null)
const cases = ref<CaseCard[]>([])
const title = ref('')
const chosen = ref<string[]>([])
const problem = ref('')
const path = () => ({ params: { path: { id: props.classId } } })
async function load() {
  try {
    all.value = await data(api.GET('/api/classes/{id}/rounds', path()))
    cases.value = await data(api.GET('/api/cases'))
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(load)
const pictures = computed(() => cases.value.flatMap((c) => (c.frame_id ? [{ id: c.frame_id, title: c.title }] : [])))
async function make() {
  try {
    const r = await data(api.POST('/api/classes/{id}/rounds', { ...path(), body: { title: title.value, frames: chosen.value } }))
    await router.push({ name: 'round', params: { roundId: r.id } })
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function remove(r: RoundCard) {
  if (!window.confirm(`Remove "${r.title}" with what was placed in it?`)) return
  try {
    await api.DELETE('/api/rounds/{id}', { params: { path: { id: r.id } } })
  } catch (e) {
    problem.value = messageOf(e)
  }
  await load()
}
const STAGES = { waiting: 'ready', placing: 'under way', told: 'under way', ended: 'over' } as const
</script>

<template>
  <section class="rounds">
    <p v-if="problem" role="alert" class="problem" data-test="rounds-problem">{{ problem }}</p>
    <p class="quiet m-0">A picture is shown on the wall, everyone places its light on their phone, the cloud of places appears, then the light and its evidence.</p>
    <ul class="list">
      <li v-for="r in all ?? []" :key="r.id" class="sheet" data-test="round-card">
        <RouterLink :to="{ name: 'round', params: { roundId: r.id } }"><strong>{{ r.title }}</strong></RouterLink>
        <span class="quiet">{{ STAGES[r.stage] }} · code {{ r.code }} · {{ r.pictures }} {{ r.pictures === 1 ? 'picture' : 'pictures' }} · {{ r.players }} in it</span>
        <BButton size="sm" variant="secondary" :aria-label="`Remove ${r.title}`" @click="remove(r)">Remove</BButton>
      </li>
    </ul>
    <BForm class="sheet make" @submit.prevent="make">
      <h2 class="m-0">Make a round</h2>
      <label>Title<BFormInput v-model="title" size="sm" maxlength="120" placeholder="Where was the moon?" data-test="round-title" /></label>
      <BFormCheckboxGroup v-model="chosen" class="cases" aria-label="Pictures">
        <BFormCheckbox v-for="p in pictures" :key="p.id" :value="p.id" data-test="round-choice"><img :src="pictureUrl(p.id, 'thumb')" :alt="p.title" /><br />{{ p.title }}</BFormCheckbox>
      </BFormCheckboxGroup>
      <BButton type="submit" size="sm" variant="primary" :disabled="!title.trim() || !chosen.length" data-test="make-round">Make it</BButton>
    </BForm>
  </section>
</template>

<style scoped>
.rounds,
.make {
  display: grid;
  gap: 0.6rem;
  margin-top: 0.6rem;
  justify-items: start;
}
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.5rem;
  width: 100%;
}
.list li {
  display: flex;
  gap: 1rem;
  align-items: baseline;
  flex-wrap: wrap;
}
.list .quiet {
  flex: 1;
}
.cases {
  display: flex;
  flex-wrap: wrap;
  gap: 0.8rem;
}
.cases img {
  width: 96px;
  height: 96px;
  object-fit: cover;
  border-radius: 5px;
}
</style>
