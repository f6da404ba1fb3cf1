<script setup lang="ts">
// Accepted sets, found again by their light, look, kit or words.
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, pictureUrl, type CaseCard, type RecipeView } from '../api/client'
import HaloRing from '../halo/HaloRing.vue'
import SlantLine from '../halo/SlantLine.vue'
import { messageOf } from '../shell/events'
import PickOne from '../shell/PickOne.vue'

const router = useRouter()
const list = ref<RecipeView[] | null>(null)
const cases = ref<CaseCard[]>([])
const slant = ref('')
const look = ref('')
const words = ref('')
const withKit = ref(false)
const likeFrame = ref('')
const into = ref<Record<string, string>>({})
const problem = ref('')
const pictured = computed(() => [{ value: '', text: '–' }, ...cases.value.flatMap((c) => (c.frame_id ? [{ value: c.frame_id, text: c.title }] : []))])
/** Looks that recipes have. */
const looks = ref<string[]>([])

async function search() {
  try {
    list.value = await data(api.GET('/api/recipes', { params: { query: { slant: slant.value || undefined, look: look.value || undefined, words: words.value || undefined, with_kit: withKit.value || undefined, like_frame: likeFrame.value || undefined } } }))
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(async () => {
  await search()
  looks.value = [...new Set((list.value ?? []).flatMap((r) => r.recipe.look ?? []))].sort()
  try {
    cases.value = await data(api.GET('/api/cases'))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
async function again(r: RecipeView) {
  const caseId = into.value[r.id] ?? r.case_id
  if (!caseId) return
  try {
    await data(api.POST('/api/recipes/{id}/set-again', { params: { path: { id: r.id } }, body: { case_id: caseId } }))
    await router.push({ name: 'rebuild', params: { caseId } })
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function forget(r: RecipeView) {
  try {
    await api.DELETE('/api/recipes/{id}', { params: { path: { id: r.id } } })
    await search()
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <main class="recipes">
    <h1>Recipes</h1>
    <form class="asks sheet" aria-label="Find recipes" @submit.prevent="search">
      <label>Light, as a slant line<BFormInput v-model="slant" size="sm" class="figure" placeholder="key L45/30 o20" data-test="recipe-slant" /></label>
      <label>or like the picture of<BFormSelect v-model="likeFrame" size="sm" :options="pictured" data-test="recipe-like" /></label>
      <label>Look<BFormSelect v-model="look" size="sm" :options="[{ value: '', text: 'any' }, ...looks]" data-test="recipe-look" /></label>
      <label>Words<BFormInput v-model="words" size="sm" data-test="recipe-words" /></label>
      <BFormCheckbox v-model="withKit" class="check" data-test="recipe-kit">my kit can do it</BFormCheckbox>
      <BButton size="sm" variant="primary" type="submit" data-test="recipe-find">Find</BButton>
    </form>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <div v-if="!list && !problem" role="status" aria-label="Looking"><BPlaceholder v-for="i in 3" :key="i" class="my-2" :cols="12" /></div>
    <p v-if="list && !list.length" class="quiet">No recipe answers this. Accept a take in a case's Takes, and its set is filed here.</p>
    <ul v-if="list">
      <li v-for="r in list" :key="r.id" class="sheet" data-test="recipe">
        <HaloRing :lights="r.lights" :size="132" :label="`Light of ${r.recipe.title}`" :picture="r.frame_id ? pictureUrl(r.frame_id, 'thumb') : undefined" />
        <div class="text">
          <h2>{{ r.recipe.title }} <span v-if="r.like < 1" class="quiet">{{ Math.round(100 * r.like) }} % like</span></h2>
          <SlantLine :line="r.recipe.slant" />
          <p class="m-0">{{ r.recipe.look ? `Look: ${r.recipe.look}. ` : '' }}{{ r.lacks.length ? `Your kit lacks ${r.lacks.join('; ')}.` : 'Your kit can do it.' }}</p>
          <p v-if="r.recipe.tags?.length || r.recipe.note" class="quiet m-0">{{ [(r.recipe.tags ?? []).join(', '), r.recipe.note].filter(Boolean).join(' · ') }}</p>
          <p v-for="l in r.recipe.left ?? []" :key="l.what" class="quiet small m-0">{{ l.what }} stays {{ l.difference.toFixed(2) }} {{ l.unit }} off: {{ l.reason || 'no reason given' }}</p>
          <div class="acts">
            <label class="visually-hidden" :for="`into-${r.id}`">Case to set it up in</label>
            <PickOne :id="`into-${r.id}`" :value="into[r.id] ?? r.case_id" :options="cases.map((c) => ({ value: c.id, text: c.title }))" @pick="into[r.id] = $event" />
            <BButton size="sm" variant="primary" data-test="set-again" @click="again(r)">Set it up again</BButton>
            <BButton v-if="r.case_id" size="sm" variant="secondary" :to="{ name: 'takes', params: { caseId: r.case_id } }">Its takes</BButton>
            <BButton size="sm" variant="secondary" :aria-label="`Delete ${r.recipe.title}`" @click="forget(r)">×</BButton>
          </div>
        </div>
      </li>
    </ul>
  </main>
</template>

<style scoped>
.recipes {
  padding: 0.8rem 1rem;
  display: grid;
  gap: 0.8rem;
}
h1,
h2 {
  margin: 0;
}
h2 {
  font-size: 1.1rem;
}
.asks {
  display: flex;
  flex-wrap: wrap;
  gap: 0.8rem;
  align-items: end;
  padding: 0.6rem 0.8rem;
}
.asks label:first-child {
  flex: 1 1 16rem;
}
.check {
  padding-bottom: 0.3rem;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 0.6rem;
  grid-template-columns: repeat(auto-fill, minmax(min(32rem, 100%), 1fr));
}
li {
  display: flex;
  gap: 0.8rem;
  padding: 0.7rem;
}
.text {
  display: grid;
  gap: 0.25rem;
  align-content: start;
  min-width: 0;
  flex: 1;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
}
.acts select {
  width: 12rem;
}
</style>
