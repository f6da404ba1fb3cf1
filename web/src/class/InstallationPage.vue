<script setup lang="ts">
// The administrator's page: accounts and roles, who may sign up, what is stored, jobs.
import { computed, onMounted, ref } from 'vue'
import { api, data, type AuditLine, type Installation, type Person } from '../api/client'
import { messageOf } from '../shell/events'
import NumberField from '../shell/NumberField.vue'
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
const many = ref(1)
const role = ref<'student' | 'instructor'>('student')
const invite = () => take(data(api.POST('/api/installation/invitations', { body: { role: role.value, many: many.value } })))
const takeBack = (code: string) => take(data(api.DELETE('/api/installation/invitations/{code}', { params: { path: { code } } })))
const done = ref<AuditLine[] | null>(null)
async function audit() {
  try {
    done.value = await data(api.GET('/api/installation/audit'))
  } catch (e) {
    problem.value = messageOf(e)
  }
}
const shown = computed(() => (view.value?.accounts ?? []).filter((a) => `${a.name} ${a.email} ${a.role}`.toLowerCase().includes(words.value.trim().toLowerCase())))
const megabytes = (n: number) => `${(n / 1e6).toFixed(0)} MB`
</script>

<template>
  <main class="page">
    <h1>Installation</h1>
    <p v-if="problem" role="alert" class="problem" data-test="admin-problem">{{ problem }}</p>
    <template v-if="view">
      <section class="sheet">
        <p class="m-0">{{ view.accounts.length }} accounts, {{ view.cases }} cases, {{ view.pictures }} pictures, {{ view.classes }} classes, {{ view.submissions }} handed in; database {{ megabytes(view.database_bytes) }}, pictures and files {{ megabytes(view.stored_bytes) }}.</p>
        <p class="m-0">Accounts can be made by <PickOne class="d-inline-block w-auto" :value="view.sign_up" :options="[{ value: 'open', text: 'everyone' }, { value: 'invited', text: 'who has an invitation' }, { value: 'closed', text: 'nobody' }]" aria-label="Who may make an account" data-test="sign-up-rule" @pick="signUp" /></p>
      </section>
      <section class="sheet">
        <h2>Invitations</h2>
        <p class="m-0">For <NumberField class="d-inline-block n" label="Accounts" hidden-label :value="many" :least="1" :most="500" @change="(v) => (many = Math.round(v ?? 1))" /> accounts as <PickOne class="d-inline-block w-auto" :value="role" :options="['student', 'instructor']" aria-label="Role of those invited" @pick="(r) => (role = r)" /> <BButton size="sm" variant="secondary" data-test="invite" @click="invite">Make an invitation</BButton></p>
        <ul><li v-for="i in view.invitations" :key="i.code" data-test="invitation"><strong class="figure">{{ i.code }}</strong> for {{ i.left }} {{ i.left === 1 ? 'account' : 'accounts' }} as {{ i.role }} <BButton size="sm" variant="secondary" :aria-label="`Take ${i.code} back`" @click="takeBack(i.code)">Take back</BButton></li></ul>
      </section>
      <section class="sheet">
        <h2>Accounts</h2>
        <a href="/api/installation/accounts.csv" data-test="accounts-csv">As a table (CSV)</a>
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
        <h2>What was done</h2>
        <BButton v-if="!done" size="sm" variant="secondary" data-test="whole-audit" @click="audit">Show it</BButton>
        <ul v-else><li v-for="(d, i) in done" :key="i" data-test="audit-line">{{ new Date(d.at).toLocaleString() }}: <bdi>{{ d.actor }}</bdi> {{ d.did }}</li></ul>
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
.n {
  width: 5rem;
}
h1,
ul {
  margin: 0;
}
</style>
