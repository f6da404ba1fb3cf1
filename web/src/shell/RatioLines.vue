<script setup lang="ts">
// A ratio in both schools, the chosen one first.
import { computed } from 'vue'
import { school, SCHOOLS, type School } from './school'

const props = defineProps<{ ratio: { key_to_fill: number; key_plus_fill_to_fill: number } }>()
const rows = computed(() => {
  const order: School[] = school.value === 'each' ? ['each', 'together'] : ['together', 'each']
  return order.map((s) => ({ s, name: SCHOOLS[s], value: s === 'each' ? props.ratio.key_to_fill : props.ratio.key_plus_fill_to_fill }))
})
</script>

<template>
  <div class="ratio-lines" data-test="ratio-lines">
    <div v-for="(r, i) in rows" :key="r.s" class="row2" :class="{ quiet: i }">
      <span>{{ r.name }}</span><span class="figure">{{ r.value.toFixed(1) }} : 1</span>
      <button v-if="i" type="button" class="btn btn-sm btn-plain" data-test="other-school" :aria-label="`State ratios as ${r.name} first`" @click="school = r.s">first</button>
    </div>
  </div>
</template>

<style scoped>
.row2 {
  display: flex;
  gap: 0.6rem;
  align-items: baseline;
}
.row2 .figure {
  margin-left: auto;
}
.btn {
  padding: 0 0.4rem;
  font-size: 0.8rem;
}
</style>
