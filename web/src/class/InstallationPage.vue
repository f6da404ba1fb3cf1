<script setup lang="ts">
// The administrator's page: accounts and roles, who may sign up, what is stored, jobs.
import { computed, onMounted, ref } from 'vue'
import { api, data, type Installation, type Person } from '../api/client'
import { messageOf } from '../shell/events'
import PickOne from '../shell/PickOne.vue'

const view = ref<Installation | null>(null)
const problem = ref('')
const words = ref('')
const ROLES: { value: Person['role']; text: string }[] = [
  { value: 'student', text: 'student' },
  { value: 'instructor', text: 'instructor' },
  { value: 'administrator', text: 'administrator' },
]
async function take(call: Promise<Installation>) {
  try {
    view.value = await call
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(() => take(data(api.GET('/api/installation'))))
const setRole = (id: string, role: Person['role']) => take(data(api.PUT('/api/installation/accounts/{id}', { params: { path: { id } }, body: { role } })))
const signUp = (sign_up: Installation['sign_up']) => take(data(api.PUT('/api/installation', { body: { sign_up } })))
const shown = computed(() => (view.value?.accounts ?? []).filter((a) => `${a.name} ${a.email} ${a.role}`.toLowerCase().includes(words.value.trim().toLowerCase())))
const megabytes = (n: number) => `${(n / 1e6).toFixed(0)} MB`
</script>

<template>
  <main class="page">
    <h1>Installation</h1>
    <p v-if="problem" role="alert" class="problem" data-test="admin-problem">{{ problem }}</p>
    <template v-if="view">
      <section class="sheet">
        <p class="m-0">{{ view.accounts.length }} accounts, {{ view.cases }} cases, {{ view.pictures }} pictures, {{ view.classes }} classes, {{ view.submissions }} handed in; database {{ megabytes(view.database_bytes) }}.</p>
        <p class="m-0">Accounts can be made by <PickOne class="d-inline-block w-auto" :value="view.sign_up" :options="[{ value: 'open', text: 'everyone' }, { value: 'closed', text: 'nobody' }]" aria-label="Who may make an account" data-test="sign-up-rule" @pick="signUp" /></p>
      </section>
      <section class="sheet">
        <h2>Accounts</h2>
        <BFormInput v-model="words" size="sm" type="search" class="w-auto" placeholder="Name, address, role" aria-label="Accounts" />
        <BTableSimple small responsive>
          <BThead><BTr><BTh>Name</BTh><BTh>Address</BTh><BTh>Role</BTh><BTh class="text-end">Cases</BTh><BTh>Since</BTh></BTr></BThead>
          <BTbody>
            <BTr v-for="a in shown" :key="a.id" data-test="account">
              <BTd><bdi>{{ a.name }}</bdi></BTd>
              <BTd>{{ a.email }}</BTd>
              <BTd><PickOne class="w-auto" :value="a.role" :options="ROLES" :aria-label="`Role of ${a.name}`" @pick="(r) => setRole(a.id, r)" /></BTd>
              <BTd class="text-end">{{ a.cases }}</BTd>
              <BTd>{{ new Date(a.since).toLocaleDateString() }}</BTd>
            </BTr>
          </BTbody>
        </BTableSimple>
      </section>
      <section class="sheet">
        <h2>Jobs of the last seven days</h2>
        <ul><li v-for="j in view.jobs" :key="j.kind + j.state">{{ j.kind }}: {{ j.many }} {{ j.state }}</li></ul>
      </section>
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 0.9rem 1rem;
  max-width: 62rem;
  width: 100%;
  margin: 0 auto;
  display: grid;
  gap: 0.7rem;
  align-content: start;
}
.sheet {
  display: grid;
  gap: 0.5rem;
  justify-items: start;
}
h1,
ul {
  margin: 0;
}
</style>
