<script setup lang="ts">
// A set one could build: its picture, its plan, what it gives and what it needs.
import { computed } from 'vue'
import { wholeSet, type Proposed } from '../api/client'
import RoleMark from '../halo/RoleMark.vue'
import SlantLine from '../halo/SlantLine.vue'
import SetDrawing from '../rebuild/SetDrawing.vue'
import type { Units } from '../rebuild/drawing'

const { made, best, units, busy } = defineProps<{ made: Proposed; best: boolean; units: Units; busy: boolean }>()
const emit = defineEmits<{ take: [] }>()
const p = computed(() => made.proposal)
const set = computed(() => wholeSet(p.value.set))
const powers = computed(() => p.value.lamps.filter((l) => l.lamp))
</script>

<template>
  <BCard class="proposal" body-class="body" data-test="proposal">
    <header>
      <h2>
        <span v-for="l in p.lights" :key="l"><svg viewBox="-7 -7 14 14" width="14" height="14"><RoleMark :role="l.split(/[ :]/)[0] ?? ''" /></svg> {{ l }}</span>
      </h2>
      <BBadge v-if="best" variant="light">nearest to the wish</BBadge>
    </header>
    <div class="two">
      <img v-if="made.jpeg" :src="`data:image/jpeg;base64,${made.jpeg}`" alt="What this set would give, drawn by the stand-in studio" />
      <SetDrawing :set="set" :meter="p.meter" aspect="plan" :units="units" :chosen="null" />
    </div>
    <SlantLine :line="p.meter.slant" />
    <ul class="says">
      <li v-for="s in p.says" :key="s">{{ s }}</li>
      <li v-for="l in powers" :key="l.light">{{ l.light }}: {{ l.says }}</li>
    </ul>
    <p v-for="m in p.missing" :key="m" class="lack" data-test="missing">The kit lacks {{ m }}.</p>
    <p v-for="x in p.problems" :key="x" class="problem" data-test="proposal-problem">{{ x }}</p>
    <details v-if="p.cautions.length" class="caution">
      <summary><strong>Take care:</strong> {{ p.cautions.length }} {{ p.cautions.length === 1 ? 'caution' : 'cautions' }}</summary>
      <p v-for="c in p.cautions" :key="c">{{ c }}</p>
    </details>
    <BButton variant="primary" :disabled="busy" data-test="take-proposal" @click="emit('take')">Make a case of it</BButton>
  </BCard>
</template>

<style scoped>
.proposal :deep(.body) {
  display: grid;
  gap: 0.5rem;
  align-content: start;
}
header {
  display: flex;
  gap: 0.6rem;
  align-items: start;
  justify-content: space-between;
}
h2 {
  font-size: 1rem;
  margin: 0;
  display: grid;
  gap: 0.2rem;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.4fr);
  gap: 0.6rem;
  align-items: center;
}
.two img {
  width: 100%;
  border-radius: 4px;
}
.says {
  padding-left: 1.1rem;
  margin: 0;
  font-size: 0.92rem;
}
p {
  margin: 0;
  font-size: 0.92rem;
}
.lack {
  color: var(--light);
}
</style>
