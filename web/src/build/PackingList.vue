<script setup lang="ts">
// What to take along for the set, counted against the kit, and what the lamps draw from one circuit.
import { computed } from 'vue'
import type { Packing } from '../api/client'

const props = defineProps<{ packing: Packing }>()
const lines = computed(() => props.packing.lines.map((l) => ({ ...l, short: l.count > l.have })))
</script>

<template>
  <section class="packing" aria-label="What to take along">
    <BTableSimple small responsive>
      <caption class="visually-hidden">Things of the kit that the set needs</caption>
      <thead><tr><th scope="col">Bag</th><th scope="col">What</th><th scope="col">Needs</th><th scope="col">Have</th><th scope="col">For</th></tr></thead>
      <tbody>
        <tr v-for="l in lines" :key="`${l.bag}:${l.what}`" :class="{ short: l.short }" data-test="pack-line">
          <td>{{ l.bag }}</td>
          <td>{{ l.what }}</td>
          <td><span class="figure">{{ l.count }}</span></td>
          <td><span class="figure">{{ l.have }}</span><template v-if="l.short"> (too few)</template></td>
          <td>{{ l.stands_for.join(', ') }}</td>
        </tr>
      </tbody>
    </BTableSimple>
    <p v-for="m in packing.missing" :key="m" class="problem" data-test="pack-missing">{{ m }}</p>
    <p v-if="packing.mains" :class="{ problem: packing.mains.over }" data-test="mains">{{ packing.mains.says }}</p>
    <ul><li v-for="a in packing.also" :key="a">{{ a }}</li></ul>
  </section>
</template>

<style scoped>
.short td {
  font-weight: 700;
}
ul {
  padding-left: 1.2rem;
  margin: 0;
}
p {
  margin: 0 0 0.4rem;
}
</style>
