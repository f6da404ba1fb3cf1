<script setup lang="ts">
// My account: all that is kept of me as one file, and its removal.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../api/client'
import { messageOf } from '../shell/events'
import { useJob } from '../shell/job'
import { useSession } from './session'

const session = useSession()
const router = useRouter()
const { job, open, problem, ask } = useJob()
const password = ref('')
const sure = ref(false)
const refused = ref('')
const result = computed(() => (job.value?.state === 'done' ? `/api/jobs/${job.value.id}/result` : null))
async function remove() {
  try {
    await api.DELETE('/api/account', { body: { password: password.value } })
    session.person = null
    await router.push({ name: 'sign-in' })
  } catch (e) {
    refused.value = messageOf(e)
  }
}
</script>

<template>
  <main class="page">
    <h1><bdi>{{ session.person?.name }}</bdi></h1>
    <p class="quiet m-0">{{ session.person?.email }} · {{ session.person?.role }}</p>
    <section class="sheet">
      <h2>All that is kept of you</h2>
      <p class="m-0">One file (zip): your pictures as you sent them; marks, readings, sets, what you handed in and what came back, as JSON. Where a picture was taken is never kept.</p>
      <BButton size="sm" variant="primary" :disabled="open" data-test="export" @click="ask({ kind: 'export' })">Make the file</BButton>
      <BProgress v-if="open" :value="100 * (job?.progress ?? 0)" :max="100" aria-label="How far the file is" />
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
      <a v-if="result" :href="result" download data-test="export-file">Fetch the file</a>
    </section>
    <section class="sheet">
      <h2>Remove the account</h2>
      <p class="m-0">Your cases and pictures, what you handed in, your notes, kit and recipes are removed at once, also from the walls of your classes. Points that were given to you stay in the books of classes that keep them, under your name. It cannot be taken back.</p>
      <BFormCheckbox v-model="sure" data-test="remove-sure">I have made the file above, or do not need it</BFormCheckbox>
      <BForm class="acts" @submit.prevent="remove">
        <label>Your password<BFormInput v-model="password" size="sm" type="password" autocomplete="current-password" data-test="remove-password" /></label>
        <BButton type="submit" size="sm" variant="secondary" :disabled="!sure || !password" data-test="remove-account">Remove the account</BButton>
      </BForm>
      <p v-if="refused" role="alert" class="problem" data-test="remove-problem">{{ refused }}</p>
    </section>
  </main>
</template>

<style scoped>
.page {
  padding: 0.9rem 1rem;
  max-width: 48rem;
  width: 100%;
  margin: 0 auto;
  display: grid;
  gap: 0.7rem;
  align-content: start;
}
h1,
h2 {
  margin: 0;
}
.sheet {
  display: grid;
  gap: 0.6rem;
  justify-items: start;
}
.acts {
  display: flex;
  gap: 0.8rem;
  align-items: end;
}
</style>
