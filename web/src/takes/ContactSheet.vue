<script setup lang="ts">
// Before and after on paper: the reference, then every take with what was changed and what still differs.
import { onMounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, data, pictureUrl, type ChainView } from '../api/client'
import { useCase } from '../cases/case'
import { inFeet } from '../shell/units'
import { messageOf } from '../shell/events'

const current = useCase()
const chain = ref<ChainView | null>(null)
const problem = ref('')
onMounted(async () => {
  try {
    chain.value = await data(api.GET('/api/cases/{id}/takes', { params: { path: { id: current.id }, query: { feet: inFeet() } } }))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
const print = () => window.print()
</script>

<template>
  <div class="page">
    <p class="no-print"><BButton size="sm" variant="primary" @click="print">Print</BButton> <RouterLink :to="{ name: 'takes', params: { caseId: current.id } }">Back to the takes</RouterLink></p>
    <h1>{{ current.view?.title }}: takes</h1>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <ol v-if="chain">
      <li v-if="current.reference"><img :src="pictureUrl(current.reference.id, 'thumb')" alt="The reference" /><strong>Reference</strong></li>
      <li v-for="t in chain.takes" :key="t.frame" data-test="sheet-take">
        <img :src="pictureUrl(t.frame, 'thumb')" :alt="`Take ${t.number}`" />
        <strong>Take {{ t.number }}{{ t.follows && t.follows !== t.number - 1 ? ` (after ${t.follows})` : '' }}{{ t.link.kept === 'undone' ? ', taken back' : t.link.kept === 'accepted' ? ', accepted' : '' }}</strong>
        <span>{{ t.changed.join('; ') || (t.follows ? 'no change' : 'first') }}</span>
        <span class="small">{{ t.differs == null ? '' : t.differs ? `${t.differs} readings surely differ` : 'nothing surely differs' }}</span>
        <span v-if="t.link.note" class="small">{{ t.link.note }}</span>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.page {
  padding: 0.8rem 1rem;
}
ol {
  list-style: none;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(13rem, 1fr));
  gap: 0.8rem;
}
li {
  display: grid;
  align-content: start;
  break-inside: avoid;
}
img {
  width: 100%;
  border-radius: 3px;
}
@media print {
  .no-print {
    display: none;
  }
  .page {
    background: var(--light);
    color: var(--dark);
  }
}
</style>
