<script setup lang="ts">
// Common beliefs about light, each computed for this picture.
import { onMounted, ref } from 'vue'
import { api, data, type Myth } from '../api/client'
import { useCase } from '../cases/case'
import { messageOf } from '../shell/events'

const current = useCase()
const all = ref<Myth[] | null>(null)
const problem = ref('')
onMounted(async () => {
  try {
    all.value = await data(api.GET('/api/frames/{id}/verdict/beliefs', { params: { path: { id: current.shown.id } } }))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
</script>

<template>
  <div class="panel">
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <p v-else-if="!all" class="quiet" role="status">Working out…</p>
    <p v-else-if="!all.length" class="sheet m-0">No light was read that a belief could be held against: mark a face, an eye or a ball.</p>
    <article v-for="m in all ?? []" :key="m.id" class="sheet" data-test="belief">
      <p class="belief">“{{ m.belief }}”</p>
      <p><strong>Here:</strong> {{ m.here }}</p>
      <p>{{ m.truth }}</p>
      <p class="quiet small">{{ m.source }}</p>
    </article>
  </div>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 0.55rem;
  align-content: start;
}
p {
  margin: 0.15rem 0;
}
.belief {
  font-style: italic;
  font-size: 1.04rem;
}
</style>
