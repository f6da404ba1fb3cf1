<script setup lang="ts">
// The set as it stands, kept among the recipes.
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, data } from '../api/client'
import { useCase } from '../cases/case'
import { messageOf } from '../shell/events'

/** `before` it is kept, edits are saved. */
const { caseId, before } = defineProps<{ caseId: string; before: () => Promise<void> }>()
const current = useCase()
const kept = ref(false)
const problem = ref('')

async function keep() {
  problem.value = ''
  try {
    await before()
    await data(api.POST('/api/cases/{id}/set/recipe', { params: { path: { id: caseId } }, body: { title: current.view?.title ?? 'Set' } }))
    kept.value = true
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <BButton v-if="!kept" size="sm" variant="secondary" data-test="keep-recipe" @click="keep">Keep as a recipe</BButton>
  <span v-else role="status" class="quiet">Kept among the <RouterLink to="/recipes">recipes</RouterLink>.</span>
  <span v-if="problem" role="alert" class="problem">{{ problem }}</span>
</template>
