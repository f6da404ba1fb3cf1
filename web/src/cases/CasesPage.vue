<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, data, pictureUrl, type Brief, type CaseCard } from '../api/client'
import HaloRing from '../halo/HaloRing.vue'
import PictureDrop from './PictureDrop.vue'
import { messageOf } from '../shell/events'

const router = useRouter()
const cases = ref<CaseCard[] | null>(null)
const briefs = ref<Brief[]>([])
const problem = ref('')
const adding = ref(false)
const title = ref('')
const brief = ref('everyday')
const filter = ref('')
let started: string | null = null

const shown = computed(() => {
  const words = filter.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (cases.value ?? []).filter((c) => {
    const text = `${c.title} ${c.brief} ${c.readings?.slant ?? ''} ${c.readings?.look?.name ?? ''}`.toLowerCase()
    return words.every((w) => text.includes(w))
  })
})

async function load() {
  try {
    const [list, b] = await Promise.all([data(api.GET('/api/cases')), data(api.GET('/api/briefs'))])
    cases.value = list
    briefs.value = b
    adding.value = list.length === 0
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(load)

/** The case is made when its first picture is sent; a refused picture keeps it for the next try. */
async function prepare(): Promise<string> {
  started ??= (await data(api.POST('/api/cases', { body: { title: title.value.trim() || 'Untitled study', brief: brief.value } }))).id
  return started
}
async function remove(c: CaseCard) {
  if (!window.confirm(`Delete "${c.title}" with its picture and marks?`)) return
  try {
    await api.DELETE('/api/cases/{id}', { params: { path: { id: c.id } } })
    await load()
  } catch (e) {
    problem.value = messageOf(e)
  }
}
const briefName = (id: string) => briefs.value.find((b) => b.id === id)?.name ?? id
</script>

<template>
  <main class="cases">
    <div class="head">
      <h1>Your cases</h1>
      <BFormInput v-if="cases?.length" v-model="filter" size="sm" class="search" type="search" placeholder="Title, look, or part of a slant line" aria-label="Search cases" />
      <BButton variant="secondary" to="/plan" data-test="plan-set">Plan without a picture</BButton>
      <BButton variant="primary" :aria-expanded="adding" data-test="new-case" @click="adding = !adding">New case</BButton>
    </div>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <section v-if="adding" class="sheet new" aria-label="New case">
      <div class="fields">
        <label class="form-label">Title<BFormInput v-model="title" placeholder="Untitled study" maxlength="120" data-test="title" /></label>
        <label class="form-label">Judged as
          <BFormSelect v-model="brief" :options="briefs.map((b) => ({ value: b.id, text: b.name }))" data-test="brief" />
        </label>
        <p class="quiet small mb-0">{{ briefs.find((b) => b.id === brief)?.says }}</p>
      </div>
      <PictureDrop :prepare="prepare" @taken="(_, id) => router.push({ name: 'read', params: { caseId: id } })" />
    </section>
    <div v-if="cases === null && !problem" class="wall" role="status" aria-label="Loading"><BPlaceholderCard v-for="i in 6" :key="i" no-button /></div>
    <p v-else-if="cases?.length === 0" class="quiet">No cases yet. Start with a picture of your own: anything with an eye or a ball in it.</p>
    <p v-else-if="cases && shown.length === 0" class="quiet">No case matches.</p>
    <ul class="wall">
      <li v-for="c in shown" :key="c.id" class="card-case">
        <RouterLink class="open" :to="{ name: !c.frame_id && c.has_set ? 'rebuild' : 'read', params: { caseId: c.id } }" data-test="case">
          <HaloRing :lights="c.readings?.lights ?? []" :size="148" :picture="c.frame_id ? pictureUrl(c.frame_id, 'thumb') : undefined" :label="c.readings?.summary?.[0] ?? 'Not read yet'" />
          <span class="text">
            <strong>{{ c.title }}</strong>
            <span class="quiet">{{ c.readings?.summary?.[0] ?? (c.has_set ? 'A set, planned without a picture.' : 'No picture yet.') }}</span>
            <span class="quiet small">{{ briefName(c.brief) }}<template v-if="c.readings?.look"> · {{ c.readings.look.name }}</template></span>
          </span>
        </RouterLink>
        <BButton size="sm" variant="secondary" class="del" :aria-label="`Delete ${c.title}`" @click="remove(c)">Delete</BButton>
      </li>
    </ul>
  </main>
</template>

<style scoped>
.cases {
  padding: 1rem;
  max-width: 76rem;
  width: 100%;
  margin: 0 auto;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.8rem;
  margin-bottom: 0.9rem;
}
.head h1 {
  margin: 0;
  margin-right: auto;
}
.search {
  width: 17rem;
}
.new {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.3fr);
  gap: 1.2rem;
  margin-bottom: 1rem;
}
.fields {
  display: grid;
  gap: 0.6rem;
  align-content: start;
}
.wall {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(22rem, 1fr));
  gap: 0.8rem;
}
.card-case {
  position: relative;
  background: var(--sheet);
  border-radius: 8px;
}
.open {
  display: flex;
  gap: 0.9rem;
  padding: 0.7rem;
  color: inherit;
  text-decoration: none;
  border-radius: 8px;
  height: 100%;
}
.open:hover {
  background: var(--raised);
}
.open svg {
  flex: none;
}
.text {
  display: grid;
  gap: 0.3rem;
  align-content: start;
  min-width: 0;
  padding-bottom: 2rem;
}
.del {
  color: var(--ink-2);
  position: absolute;
  right: 0.6rem;
  bottom: 0.6rem;
}
.del:hover {
  color: var(--light);
  text-decoration: underline;
}
@media (max-width: 700px) {
  .new {
    grid-template-columns: 1fr;
  }
  .wall {
    grid-template-columns: 1fr;
  }
  .search {
    width: 100%;
    order: 3;
  }
}
</style>
