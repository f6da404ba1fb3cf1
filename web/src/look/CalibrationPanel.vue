<script setup lang="ts">
// The camera's tone curve for all pictures of a case: from grey steps, or from a bracketed series.
import { computed, ref } from 'vue'
import { api, data } from '../api/client'
import { useCase } from '../cases/case'
import { messageOf } from '../shell/events'

const current = useCase()
const problem = ref('')
const busy = ref(false)
const c = computed(() => current.view?.calibration)
const frames = computed(() => (current.view?.frames ?? []).filter((f) => f.role === 'calibration').map((f) => f.id))
const hasSteps = computed(() => current.list.some((m) => m.kind === 'wedge' && !m.off))
async function change(call: Promise<unknown>) {
  busy.value = true
  problem.value = ''
  try {
    await call
    await current.show()
  } catch (e) {
    problem.value = messageOf(e)
  } finally {
    busy.value = false
  }
}
const path = () => ({ params: { path: { id: current.id } } })
const put = (frames: string[]) => change(current.flush().then(() => api.PUT('/api/cases/{id}/calibration', { ...path(), body: { frames } })))
/** One linear picture out of the series: it becomes a picture of the case, and is turned to. */
async function merge() {
  busy.value = true
  problem.value = ''
  try {
    await current.flush()
    const made = await data(api.POST('/api/cases/{id}/merge', { ...path(), body: { frames: frames.value } }))
    await current.show(made.id)
  } catch (e) {
    problem.value = messageOf(e)
  } finally {
    busy.value = false
  }
}
const forget = () => change(api.DELETE('/api/cases/{id}/calibration', path()))
</script>

<template>
  <h2>Tone curve</h2>
  <div data-test="calibration">
    <p v-if="c" class="mb-1">All pictures of this case are read through the camera's curve by {{ c.by }}: {{ c.says }}</p>
    <p v-else class="quiet mb-1">Not known: differences in stops carry the range over plausible curves. Mark grey steps in a picture (T under Read), or add two and more pictures of one scene at different exposures and call them “calibration”.</p>
    <div class="acts">
      <BButton v-if="hasSteps" size="sm" variant="secondary" :disabled="busy" data-test="calibrate-steps" @click="put([current.frame!.id])">Use this picture's grey steps for the case</BButton>
      <BButton v-if="frames.length > 1" size="sm" variant="secondary" :disabled="busy" data-test="calibrate-bracket" @click="put(frames)">Use the {{ frames.length }} calibration pictures</BButton>
      <BButton v-if="frames.length > 1" size="sm" variant="secondary" :disabled="busy" data-test="merge" @click="merge">Merge them into one picture</BButton>
      <BButton v-if="c" size="sm" variant="secondary" @click="forget">Read as plain sRGB again</BButton>
    </div>
    <p v-if="problem" role="alert" class="problem mb-0">{{ problem }}</p>
  </div>
</template>

<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
</style>
