<script setup lang="ts">
// A large, clean picture of the set: a job that is done beside everything else, with its progress.
import { computed, onBeforeUnmount, ref } from 'vue'
import { api, data, type JobView } from '../api/client'
import { messageOf } from '../shell/events'

const props = defineProps<{ caseId: string }>()
const emit = defineEmits<{ begin: [] }>()
const job = ref<JobView | null>(null)
const problem = ref('')
let timer: ReturnType<typeof setTimeout> | undefined

const SIDE = 1600
const SAMPLES = 64
const open = computed(() => job.value?.state === 'waiting' || job.value?.state === 'running')

async function follow() {
  const id = job.value?.id
  if (!id) return
  try {
    job.value = await data(api.GET('/api/jobs/{id}', { params: { path: { id } } }))
    problem.value = job.value.problem ?? ''
  } catch (e) {
    problem.value = messageOf(e)
  }
  if (open.value) timer = setTimeout(() => void follow(), 900)
}
async function make() {
  problem.value = ''
  emit('begin')
  try {
    job.value = await data(api.POST('/api/jobs', { body: { kind: 'picture', case: props.caseId, side: SIDE, samples: SAMPLES } }))
    await follow()
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function withdraw() {
  clearTimeout(timer)
  const id = job.value?.id
  if (id) job.value = await data(api.DELETE('/api/jobs/{id}', { params: { path: { id } } }))
}
onBeforeUnmount(() => clearTimeout(timer))
</script>

<template>
  <span class="large">
    <BButton v-if="!open" size="sm" variant="secondary" data-test="large-picture" @click="make">Large picture</BButton>
    <template v-else>
      <BProgress class="bar" :value="job?.progress ?? 0" :max="1" aria-label="How much of the large picture is drawn" />
      <BButton size="sm" variant="secondary" @click="withdraw">Stop</BButton>
    </template>
    <a v-if="job?.state === 'done'" :href="`/api/jobs/${job.id}/result`" download="set-large.png" data-test="large-result">PNG, {{ SIDE }} px</a>
    <span v-if="problem" role="alert" class="problem">{{ problem }}</span>
  </span>
</template>

<style scoped>
.large {
  display: inline-flex;
  gap: 0.4rem;
  align-items: center;
}
.bar {
  width: 7rem;
}
</style>
