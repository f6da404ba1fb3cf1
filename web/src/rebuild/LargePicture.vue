<script setup lang="ts">
// A large, clean picture of the set: a job that is done beside everything else, with its progress.
import { useJob } from '../shell/job'

const props = defineProps<{ caseId: string }>()
const emit = defineEmits<{ begin: [] }>()
const { job, open, problem, ask, withdraw } = useJob()

const SIDE = 1600
const SAMPLES = 64
async function make() {
  emit('begin')
  await ask({ kind: 'picture', case: props.caseId, side: SIDE, samples: SAMPLES })
}
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
