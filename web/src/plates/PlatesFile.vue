<script setup lang="ts">
// Plates as a file: a job with its progress.
import { computed, ref } from 'vue'
import { useJob } from '../shell/job'

type What = 'layers' | 'masks'
const props = defineProps<{ caseId: string; before: () => Promise<void> }>()
const { job, open, problem, ask, withdraw } = useJob()
const what = ref<What>('layers')
const FILES: { what: What; text: string; name: string }[] = [
  { what: 'layers', text: 'Layers (OpenRaster)', name: 'plates.ora' },
  { what: 'masks', text: 'Masks and mix (zip)', name: 'plates.zip' },
]
const nameOf = computed(() => FILES.find((f) => f.what === what.value)?.name)
async function make(file: What) {
  what.value = file
  await props.before()
  await ask({ kind: 'plates', case: props.caseId, file })
}
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
