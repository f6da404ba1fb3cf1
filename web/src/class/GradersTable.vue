<script setup lang="ts">
// Graders held against each other: who gives more, and on what.
import { ref } from 'vue'
import { api, data, type GraderLine } from '../api/client'
import { messageOf } from '../shell/events'

const props = defineProps<{ of: string }>()
const all = ref<GraderLine[] | null>(null)
const problem = ref('')
async function load() {
  try {
    all.value = await data(api.GET('/api/assignments/{id}/graders', { params: { path: { id: props.of } } }))
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <div class="graders">
    <BButton size="sm" variant="secondary" data-test="graders" @click="load">Graders together</BButton>
    <p v-if="problem" role="alert" class="problem small" data-test="graders-problem">{{ problem }}</p>
    <p v-if="all && !all.length" class="quiet small m-0">No picture was graded by two yet.</p>
    <ul v-if="all?.length" class="small m-0 p-0"><li v-for="g in all" :key="g.grader" data-test="grader-line">{{ g.says }}</li></ul>
  </div>
</template>

<style scoped>
.graders {
  display: grid;
  gap: 0.4rem;
  margin-top: 0.6rem;
}
ul {
  list-style: none;
  display: grid;
  gap: 0.3rem;
}
</style>
