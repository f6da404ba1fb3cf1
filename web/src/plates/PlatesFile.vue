<script setup lang="ts">
// Plates as a file: a job with its progress.
import { computed, onBeforeUnmount, ref } from 'vue'
import { api, data, type JobView } from '../api/client'
import { messageOf } from '../shell/events'

type What = 'layers' | 'masks'
const props = defineProps<{ caseId: string; before: () => Promise<void> }>()
const job = ref<JobView | null>(null)
const what = ref<What>('layers')
const problem = ref('')
let timer: ReturnType<typeof setTimeout> | undefined
const open = computed(() => job.value?.state === 'waiting' || job.value?.state === 'running')
const FILES: { what: What; text: string; name: string }[] = [
  { what: 'layers', text: 'Layers (OpenRaster)', name: 'plates.ora' },
  { what: 'masks', text: 'Masks and mix (zip)', name: 'plates.zip' },
]
const nameOf = computed(() => FILES.find((f) => f.what === what.value)?.name)

async function follow() {
  const id = job.value?.id
  if (!id) return
  try {
    job.value = await data(api.GET('/api/jobs/{id}', { params: { path: { id } } }))
    problem.value = job.value.problem ?? ''
  } catch (e) {
    problem.value = messageOf(e)
  }
  if (open.value) timer = setTimeout(() => void follow(), 700)
}
async function make(file: What) {
  problem.value = ''
  what.value = file
  try {
    await props.before()
    job.value = await data(api.POST('/api/jobs', { body: { kind: 'plates', case: props.caseId, file } }))
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
  <div class="files">
    <template v-if="!open"><BButton v-for="f in FILES" :key="f.what" size="sm" variant="secondary" :data-test="`file-${f.what}`" @click="make(f.what)">{{ f.text }}</BButton></template>
    <template v-else>
      <BProgress class="bar" :value="job?.progress ?? 0" :max="1" aria-label="How much of the file is written" />
      <BButton size="sm" variant="secondary" @click="withdraw">Stop</BButton>
    </template>
    <a v-if="job?.state === 'done'" :href="`/api/jobs/${job.id}/result`" :download="nameOf" data-test="plates-result">{{ nameOf }}</a>
    <span v-if="problem" role="alert" class="problem">{{ problem }}</span>
  </div>
</template>

<style scoped>
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
}
.bar {
  width: 8rem;
}
</style>
