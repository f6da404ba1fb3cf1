<script setup lang="ts">
// One submission on a page of its own, where notices lead.
import { onMounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, data } from '../api/client'
import { messageOf } from '../shell/events'
import SubmissionCard from './SubmissionCard.vue'

const props = defineProps<{ submissionId: string }>()
const assignment = ref('')
const problem = ref('')
onMounted(async () => {
  try {
    assignment.value = (await data(api.GET('/api/submissions/{id}', { params: { path: { id: props.submissionId } } }))).assignment
  } catch (e) {
    problem.value = messageOf(e)
  }
})
</script>

<template>
  <main class="page">
    <h1>Handed in</h1>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <RouterLink v-if="assignment" :to="{ name: 'assignment', params: { assignmentId: assignment } }">The assignment</RouterLink>
    <SubmissionCard :id="submissionId" />
  </main>
</template>

<style scoped>
.page {
  padding: 0.9rem 1rem;
  max-width: 62rem;
  width: 100%;
  margin: 0 auto;
  display: grid;
  gap: 0.7rem;
  align-content: start;
}
h1 {
  margin: 0;
}
</style>
