<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import HaloRing from '../halo/HaloRing.vue'
import { useSession } from './session'
import { api, data } from '../api/client'
import { messageOf } from '../shell/events'

const session = useSession()
const route = useRoute()
const router = useRouter()
const fresh = ref(false)
const name = ref('')
const email = ref('')
const password = ref('')
const invitation = ref('')
const problem = ref('')
const busy = ref(false)
const ready = computed(() => email.value && password.value && (!fresh.value || name.value) && !busy.value)

const lights = [
  { role: 'key', azimuth_deg: -42, elevation_deg: 36, angular_size_deg: 22, level_stops: 0 },
  { role: 'fill', azimuth_deg: 58, elevation_deg: -8, angular_size_deg: 50, level_stops: -1.9 },
  { role: 'rim', azimuth_deg: 140, elevation_deg: 30, angular_size_deg: 14, level_stops: -0.6 },
]

/** Those who teach begin at the wall that waits for them, others at their cases. */
async function landing(): Promise<string> {
  if (session.person?.role !== 'instructor') return '/cases'
  const c = (await data(api.GET('/api/classes'))).find((x) => x.to_grade > 0)
  if (!c) return '/cases'
  const open = (await data(api.GET('/api/classes/{id}/assignments', { params: { path: { id: c.id } } }))).find((a) => a.handed_in > a.returned)
  return open ? `/assignments/${open.id}` : '/cases'
}
async function enter() {
  busy.value = true
  problem.value = ''
  try {
    if (fresh.value) await session.signUp(name.value, email.value, password.value, invitation.value)
    else await session.signIn(email.value, password.value)
    const asked = typeof route.query.next === 'string' && route.query.next.startsWith('/') ? route.query.next : null
    await router.push(asked ?? (await landing()))
  } catch (e) {
    problem.value = messageOf(e)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="entry">
    <section class="about">
      <HaloRing :lights="lights" :size="132" label="A picture inside its halo: a key upper left, a fill on the right, a rim behind" />
      <h1>Slant Cast</h1>
      <p>Mark a ball, an eye or two patches in a picture. Slant Cast says where each light stood, how large and how strong it was, how sure that is, and how to set it up again.</p>
    </section>
    <form class="sheet" @submit.prevent="enter">
      <h2>{{ fresh ? 'New account' : 'Sign in' }}</h2>
      <label v-if="fresh" class="form-label">Name<BFormInput v-model="name" autocomplete="name" data-test="name" /></label>
      <label class="form-label">E-mail<BFormInput v-model="email" type="email" autocomplete="username" data-test="email" /></label>
      <label class="form-label">Password<BFormInput v-model="password" type="password" :autocomplete="fresh ? 'new-password' : 'current-password'" data-test="password" /></label>
      <label v-if="fresh" class="form-label">Invitation, if you have one<BFormInput v-model="invitation" autocomplete="off" maxlength="40" data-test="invitation" /></label>
      <p v-if="fresh" class="quiet small">At least ten characters; a sentence is fine.</p>
      <p v-if="problem" class="problem" role="alert" data-test="problem">{{ problem }}</p>
      <BButton variant="primary" type="submit" :disabled="!ready" data-test="enter">{{ fresh ? 'Make the account' : 'Sign in' }}</BButton>
      <BButton variant="secondary" data-test="switch" @click="((fresh = !fresh), (problem = ''))">
        {{ fresh ? 'I have an account' : 'I am new here' }}
      </BButton>
      <RouterLink to="/live" class="small" data-test="to-live">Take part in a live round by its code</RouterLink>
    </form>
  </main>
</template>

<style scoped>
.entry {
  flex: 1;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: center;
  gap: 2rem 4rem;
  padding: 2rem 1rem;
}
.about {
  max-width: 24rem;
}
.about h1 {
  margin-top: 1rem;
  font-size: 2rem;
}
form {
  width: min(22rem, 100%);
  display: grid;
  gap: 0.7rem;
  padding: 1.2rem;
}
.form-label {
  margin: 0;
}
</style>
