<script setup lang="ts">
// A word of the trade with its meaning a press away.
import { useId } from 'vue'
import { TERMS } from './terms'

defineProps<{ term: keyof typeof TERMS }>()
const id = useId()
</script>

<template>
  <span class="term"><slot>{{ term }}</slot><BButton :id="id" size="sm" variant="secondary" class="ask" :aria-label="`What is ${term}?`" data-test="term">?</BButton></span>
  <BPopover :target="id" click close-on-hide placement="top" :title="term"><p class="m-0">{{ TERMS[term] }}</p></BPopover>
</template>

<style scoped>
.term {
  white-space: nowrap;
}
.ask {
  padding: 0 0.36rem;
  margin-left: 0.25rem;
  font-size: 0.72rem;
  line-height: 1.3;
  vertical-align: 0.1em;
}
</style>
