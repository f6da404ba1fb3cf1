<script setup lang="ts">
// What holds, what to change first, the findings, and what cannot be told.
import { computed } from 'vue'
import FindingCard from './FindingCard.vue'
import FirstChange from './FirstChange.vue'
import { useVerdict } from './verdict'

const v = useVerdict()
const holds = computed(() => v.of('holds'))
const asked = computed(() => holds.value.filter((f) => f.by_brief))
/** Told at once; the rest is folded away, so that what to change stays in sight. */
const SHOWN = 3
const told = computed(() => asked.value.slice(0, SHOWN))
const folded = computed(() => [...asked.value.slice(SHOWN), ...holds.value.filter((f) => !f.by_brief)])
const unsure = computed(() => v.of('unsure'))
/** What cannot be told yet, by what to mark for it. */
const untold = computed(() => {
  const by = new Map<string, { what: string[]; take: string }>()
  for (const f of v.of('cannot_tell')) {
    const row = by.get(f.says) ?? { what: [], take: f.settles ?? '' }
    row.what.push(f.title.toLowerCase())
    by.set(f.says, row)
  }
  return [...by]
})
</script>

<template>
  <div class="panel">
    <template v-if="holds.length">
      <h2>What holds</h2>
      <div class="sheet" data-test="holds">
        <ul v-if="told.length" class="holds">
          <li v-for="f in told" :key="f.rule" data-test="finding" data-outcome="holds" :class="{ here: v.here === f.rule }" @pointerenter="v.here = f.rule" @pointerleave="v.here = null">{{ f.says }}</li>
        </ul>
        <details v-if="folded.length">
          <summary>{{ folded.length }} more {{ folded.length === 1 ? 'rule holds' : 'rules hold' }}</summary>
          <ul class="holds small">
            <li v-for="f in folded" :key="f.rule" data-test="finding" data-outcome="holds" :class="{ here: v.here === f.rule }" @pointerenter="v.here = f.rule" @pointerleave="v.here = null">{{ f.says }}</li>
          </ul>
        </details>
      </div>
    </template>
    <FirstChange />
    <p v-if="!v.faults.length && !unsure.length" class="sheet m-0">Nothing that was marked has to change.</p>
    <template v-if="v.faults.length">
      <h2>To change</h2>
      <FindingCard v-for="f in v.faults" :key="f.rule" :finding="f" />
    </template>
    <template v-if="unsure.length">
      <h2>Cannot be decided</h2>
      <FindingCard v-for="f in unsure" :key="f.rule" :finding="f" />
    </template>
    <template v-if="untold.length">
      <h2>Cannot be told yet</h2>
      <ul class="sheet holds small" data-test="untold">
        <li v-for="[how, row] in untold" :key="how" data-test="finding" data-outcome="cannot_tell">
          {{ how }} <span class="quiet">({{ row.what.join('; ') }})</span>
          <span v-if="row.take" class="quiet"> Or: {{ row.take }}</span>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 0.55rem;
  align-content: start;
}
.holds {
  margin: 0;
  padding-left: 1.9rem;
  display: grid;
  gap: 0.2rem;
}
.holds .here {
  background: var(--raised);
}
</style>
