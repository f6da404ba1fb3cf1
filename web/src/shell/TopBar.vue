<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, data, type OpenAssignment } from '../api/client'
import { useCase } from '../cases/case'
import { useSession } from '../entry/session'
import NoticesMenu from '../class/NoticesMenu.vue'

const route = useRoute()
const router = useRouter()
const session = useSession()
const current = useCase()

const steps = [
  { name: 'look', text: 'Look' },
  { name: 'read', text: 'Read' },
  { name: 'rebuild', text: 'Rebuild' },
  { name: 'build', text: 'Build' },
  { name: 'takes', text: 'Takes' },
  { name: 'verdict', text: 'Verdict' },
  { name: 'plates', text: 'Plates' },
  { name: 'series', text: 'Series' },
]
const caseId = computed(() => (typeof route.params.caseId === 'string' ? route.params.caseId : null))

/** What the open case can be handed in for; those it is a draft of first. */
const open = ref<OpenAssignment[]>([])
watch([caseId, () => session.person?.id], async ([id, person]) => {
  // a bar without it still serves
  const all = id && person ? await data(api.GET('/api/assignments/open')).catch(() => []) : []
  if (id === caseId.value) open.value = [...all.filter((a) => a.draft_case === id), ...all.filter((a) => a.draft_case !== id)]
}, { immediate: true })
/** The one that goes without asking which: the only one, or the one this case is the draft of. */
const only = computed(() => open.value.find((a) => a.draft_case === caseId.value) ?? (open.value.length === 1 ? open.value[0] : undefined))
/** The picture is put into the draft of an assignment, and one stands before handing it in. */
async function handIn(a: OpenAssignment) {
  const path = { params: { path: { id: a.id } } }
  if (current.frame && a.draft_case !== caseId.value) {
    await current.flush()
    const was = await data(api.GET('/api/assignments/{id}/draft', path)).catch(() => null)
    await data(api.PUT('/api/assignments/{id}/draft', { ...path, body: { paragraph: was?.paragraph ?? '', may_show: was?.may_show ?? false, who: was?.who ?? '', frame: current.frame.id } })).catch(() => null)
  }
  await router.push({ name: 'assignment', params: { assignmentId: a.id } })
}

async function leave() {
  await session.signOut()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <header class="bar">
    <RouterLink class="name" to="/cases">Slant Cast</RouterLink>
    <span v-if="caseId && current.view" class="title" data-test="case-title">{{ current.view.title }}</span>
    <nav v-if="caseId && (current.frame || current.view?.has_set)" class="steps" aria-label="Steps">
      <RouterLink v-for="(s, i) in steps" :key="s.name" class="step" active-class="here" :to="{ name: s.name, params: { caseId } }" :data-test="`step-${s.name}`">
        <span class="n" aria-hidden="true">{{ i + 1 }}</span>{{ s.text }}
      </RouterLink>
    </nav>
    <template v-if="caseId && current.frame && open.length">
      <BButton v-if="only" size="sm" variant="primary" data-test="case-hand-in" :title="`${only.title}, ${only.class_name}`" @click="handIn(only)">Hand in</BButton>
      <BDropdown v-else size="sm" variant="primary" text="Hand in" data-test="case-hand-in">
        <BDropdownItem v-for="a in open" :key="a.id" data-test="case-hand-in-for" @click="handIn(a)">{{ a.title }} <span class="quiet">{{ a.class_name }}{{ a.mine ? ' · again' : '' }}</span></BDropdownItem>
      </BDropdown>
    </template>
    <nav v-if="session.person" class="tools" aria-label="Tools">
      <RouterLink class="step" active-class="here" to="/classes" data-test="tool-class">Class</RouterLink>
      <RouterLink v-if="session.person.role === 'administrator'" class="step" active-class="here" to="/installation" data-test="tool-installation">Installation</RouterLink>
      <RouterLink class="step" active-class="here" to="/plan" data-test="tool-plan">Plan</RouterLink>
      <RouterLink class="step" active-class="here" to="/bench" data-test="tool-bench">Bench</RouterLink>
      <RouterLink class="step" active-class="here" to="/recipes" data-test="tool-recipes">Recipes</RouterLink>
      <RouterLink class="step" active-class="here" to="/kit" data-test="tool-kit">Kit</RouterLink>
    </nav>
    <div class="who">
      <span v-if="caseId && current.frame" class="state" role="status" data-test="save-state">{{ current.saveText }}</span>
      <NoticesMenu v-if="session.person" />
      <RouterLink class="person" to="/account" data-test="account"><bdi>{{ session.person?.name }}</bdi></RouterLink>
      <BButton size="sm" variant="secondary" data-test="sign-out" @click="leave">Sign out</BButton>
    </div>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.25rem 0.6rem;
  background: var(--bar);
  padding: 0.4rem 1rem;
  min-height: 46px;
}
.name {
  font-weight: 700;
  letter-spacing: 0.02em;
  color: var(--light);
  text-decoration: none;
}
.title {
  color: var(--ink-2);
  flex: 1 1 5rem;
  max-width: 15rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.steps,
.tools {
  display: flex;
  gap: 0.15rem;
  margin-left: auto;
}
.step {
  color: var(--ink);
  text-decoration: none;
  padding: 0.24rem 0.4rem;
  border-bottom: 3px solid transparent;
}
.step:hover {
  border-color: var(--tick);
}
.step.here {
  border-color: var(--light);
  font-weight: 600;
}
.n {
  color: var(--ink-3);
  font-size: 0.8rem;
  margin-right: 0.25rem;
}
.who {
  display: flex;
  align-items: center;
  gap: 0.7rem;
  margin-left: auto;
}
.tools + .who {
  margin-left: 0;
}
.steps + .tools {
  margin-left: 0;
  border-left: 1px solid var(--raised);
  padding-left: 0.5rem;
}
.state,
.person {
  color: var(--ink-2);
  font-size: 0.9rem;
}
.state {
  min-width: 3.4rem;
  text-align: right;
}
@media (max-width: 1500px) {
  .steps ~ .who .person {
    display: none;
  }
  .steps ~ .who {
    gap: 0.35rem;
  }
  .steps .step,
  .steps ~ .tools .step {
    padding: 0.24rem 0.26rem;
    font-size: 0.92rem;
  }
  .steps .n {
    margin-right: 0.12rem;
  }
  .steps ~ .tools {
    padding-left: 0.25rem;
  }
  .title {
    flex-basis: 2rem;
  }
  .bar {
    padding: 0.4rem 0.7rem;
    column-gap: 0.4rem;
  }
}
@media (max-width: 700px) {
  .title {
    display: none;
  }
  .steps {
    order: 3;
    width: 100%;
    margin: 0;
    flex-wrap: wrap;
    gap: 0;
  }
  .bar {
    gap: 0.1rem 0.6rem;
    padding: 0.3rem 0.6rem;
  }
  .tools {
    margin-left: 0;
  }
  .steps + .tools {
    border-left: 0;
    padding-left: 0;
  }
  .step {
    padding: 0.3rem 0.2rem;
    flex: 1;
    text-align: center;
    font-size: 0.94rem;
  }
  .n {
    display: none;
  }
  .state {
    min-width: 0;
  }
}
</style>
