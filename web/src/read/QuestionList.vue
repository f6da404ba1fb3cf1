<script setup lang="ts">
// What the evidence leaves open: explanations side by side, and what would tell them apart.
import type { Question } from '../api/client'
import { capital } from './where'

defineProps<{ questions: Question[] }>()
</script>

<template>
  <section v-if="questions.length" aria-label="What stays open" data-test="questions">
    <h2 class="mt-1">What stays open</h2>
    <p class="quiet small mb-1">The shares are rules of thumb and the stated spreads, not measurements: the test settles it.</p>
    <article v-for="q in questions" :key="q.about" class="sheet">
      <strong>{{ capital(q.about) }}</strong>
      <ul>
        <li v-for="o in q.options" :key="o.says">
          <span class="bar" aria-hidden="true"><span :style="{ width: `${100 * o.probability}%` }" /></span>
          <span class="figure">{{ Math.round(100 * o.probability) }} %</span> {{ o.says }}
        </li>
      </ul>
      <p class="quiet mb-0">To tell them apart: {{ q.test }}</p>
    </article>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0.25rem 0;
}
.bar {
  display: inline-block;
  width: 3.2rem;
  height: 0.55rem;
  background: var(--band-2);
  border-radius: 3px;
  margin-right: 0.4rem;
}
.bar span {
  display: block;
  height: 100%;
  background: var(--ink-3);
  border-radius: 3px;
}
article {
  font-size: 0.94rem;
  margin-bottom: 0.4rem;
}
</style>
