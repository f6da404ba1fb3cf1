<script setup lang="ts">
// Accept a take: what still differs is written down with the reason it stays, and the set is filed as a recipe.
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, data, type LedgerLine, type RecipeView, type TakeView } from '../api/client'
import { messageOf } from '../shell/events'

const props = defineProps<{ take: TakeView; ledger: LedgerLine[]; title: string }>()
const emit = defineEmits<{ done: [] }>()
const name = ref(props.title)
const reasons = ref<Record<string, string>>({})
const problem = ref('')
const filed = ref<RecipeView | null>(null)
const REASONS = ['liked better so', 'no room to go further', 'not in the kit', 'too small to be seen', 'the subject differs']
const off = () => props.ledger.filter((l) => l.sure)
async function accept() {
  try {
    filed.value = await data(
      api.POST('/api/frames/{id}/accept', {
        params: { path: { id: props.take.frame } },
        body: { version: props.take.version, title: name.value, left: off().map((l) => ({ what: l.what, difference: l.difference, unit: l.unit, reason: reasons.value[l.what] ?? '' })), tags: props.take.link.tags ?? [], note: props.take.link.note ?? '' },
      }),
    )
    problem.value = ''
    emit('done')
  } catch (e) {
    problem.value = messageOf(e)
  }
}
const figure = (l: LedgerLine) => `${l.difference.toFixed(l.unit === '°' ? 0 : 2)} ${l.unit}`.replace('-', '−')
</script>

<template>
  <form class="sheet" data-test="accept" @submit.prevent="accept">
    <p v-if="filed" role="status" class="m-0">Filed as <RouterLink to="/recipes">{{ filed.recipe.title }}</RouterLink>: it is found again by its light, look, kit or words.</p>
    <template v-else>
      <label>Name of the recipe<BFormInput v-model="name" size="sm" required maxlength="120" data-test="recipe-name" /></label>
      <label v-for="l in off()" :key="l.what">{{ l.what }} is {{ figure(l) }} off and stays, because<BFormInput v-model="reasons[l.what]" size="sm" list="reasons" maxlength="400" /></label>
      <datalist id="reasons"><option v-for="r in REASONS" :key="r" :value="r" /></datalist>
      <p v-if="!off().length" class="quiet m-0">Nothing that can be measured differs.</p>
      <p v-if="problem" role="alert" class="problem m-0">{{ problem }}</p>
      <BButton size="sm" variant="primary" type="submit" data-test="accept-take">Accept and file</BButton>
    </template>
  </form>
</template>

<style scoped>
.sheet {
  display: grid;
  gap: 0.5rem;
  padding: 0.6rem 0.8rem;
}
</style>
