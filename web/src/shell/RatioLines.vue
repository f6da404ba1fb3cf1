<script setup lang="ts">
// The lighting ratio in both schools, the chosen one first, each with the range that holds it.
import { computed } from 'vue'
import { school, SCHOOLS, type School } from './school'

interface Ratio {
  key_to_fill: number
  key_to_fill_range?: number[]
  key_plus_fill_to_fill: number
  key_plus_fill_to_fill_range?: number[]
  /** Only a lower bound is told. */
  at_least?: boolean
}
const props = defineProps<{ ratio: Ratio }>()
/** A figure to one: whole from ten on. */
const few = (v: number) => v.toFixed(v < 10 ? 1 : 0)
const range = (r: number[] | undefined, value: number) => {
  const [low, high] = r ?? []
  // a set's own figures are as exact as its drawing
  if (low === undefined || high === undefined || high < 1.2 * low) return ''
  return value < 10 ? `${low.toFixed(1)} to ${few(high)}` : `${low.toFixed(0)} to ${high.toFixed(0)}`
}
const rows = computed(() => {
  const order: School[] = school.value === 'each' ? ['each', 'together'] : ['together', 'each']
  return order.map((s) => {
    const [value, r] = s === 'each' ? [props.ratio.key_to_fill, props.ratio.key_to_fill_range] : [props.ratio.key_plus_fill_to_fill, props.ratio.key_plus_fill_to_fill_range]
    return { s, name: SCHOOLS[s], value, low: r?.[0] ?? value, range: range(r, value) }
  })
})
</script>

<template>
  <div class="ratio-lines" data-test="ratio-lines">
    <div v-for="(r, i) in rows" :key="r.s" class="row2" :class="{ quiet: i }">
      <span>{{ r.name }}</span><span class="figure">{{ ratio.at_least ? `at least ${few(r.low)}` : few(r.value) }} : 1 <span v-if="r.range && !ratio.at_least" class="quiet">({{ r.range }})</span></span>
      <BButton v-if="i" size="sm" variant="secondary" data-test="other-school" :aria-label="`State first: ratios as ${r.name}`" :title="`Two schools count ratios differently. Press to state them as ${r.name} from now on.`" @click="school = r.s">state first</BButton>
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
