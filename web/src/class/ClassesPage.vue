<script setup lang="ts">
// My classes: joined by a code, made by instructors.
import { computed, onMounted, ref } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, data, type ClassCard } from '../api/client'
import { useSession } from '../entry/session'
import { messageOf } from '../shell/events'

const route = useRoute()
const router = useRouter()
const session = useSession()
const all = ref<ClassCard[] | null>(null)
const problem = ref('')
const code = ref(typeof route.query.code === 'string' ? route.query.code : '')
const name = ref('')
const teaches = computed(() => session.person && session.person.role !== 'student')
const SEATS = { instructor: 'you teach it', co_teacher: 'you teach with', student: 'you learn in it', guest: 'you look on' } as const

onMounted(async () => {
  try {
    all.value = await data(api.GET('/api/classes'))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
async function join() {
  try {
    const c = await data(api.POST('/api/classes/join', { body: { code: code.value } }))
    await router.push({ name: 'class', params: { classId: c.id } })
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function make() {
  try {
    const c = await data(api.POST('/api/classes', { body: { name: name.value } }))
    await router.push({ name: 'class', params: { classId: c.id } })
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <main class="page">
    <h1>Classes</h1>
    <p v-if="problem" role="alert" class="problem" data-test="class-problem">{{ problem }}</p>
    <div class="forms">
      <BForm class="sheet" @submit.prevent="join">
        <label>Join by the code you were told<BFormInput v-model="code" size="sm" maxlength="40" autocomplete="off" data-test="join-code" /></label>
        <BButton type="submit" size="sm" variant="primary" :disabled="!code.trim()" data-test="join">Join</BButton>
      </BForm>
      <p class="sheet m-0">A live round on the wall? <RouterLink to="/live" data-test="to-live">Take part by its code</RouterLink></p>
      <BForm v-if="teaches" class="sheet" @submit.prevent="make">
        <label>Make a class<BFormInput v-model="name" size="sm" maxlength="120" placeholder="Light for the stage, autumn" data-test="class-name" /></label>
        <BButton type="submit" size="sm" variant="primary" :disabled="!name.trim()" data-test="make-class">Make it</BButton>
      </BForm>
    </div>
    <p v-if="all && !all.length" class="quiet">You are in no class yet.</p>
    <ul class="list">
      <li v-for="c in all ?? []" :key="c.id" class="sheet" :class="{ aside: c.archived }" data-test="class-card">
        <RouterLink :to="{ name: 'class', params: { classId: c.id } }"><strong>{{ c.name }}</strong></RouterLink>
        <span class="quiet">{{ SEATS[c.seat] }} · {{ c.students }} {{ c.students === 1 ? 'student' : 'students' }} · {{ c.assignments }} {{ c.assignments === 1 ? 'assignment' : 'assignments' }}<template v-if="c.to_grade"> · {{ c.to_grade }} to grade</template><template v-if="c.archived"> · laid aside</template></span>
      </li>
    </ul>
  </main>
</template>

<style scoped>
.page {
  padding: 0.9rem 1rem;
  max-width: 62rem;
  width: 100%;
  margin: 0 auto;
  display: grid;
  gap: 0.8rem;
  align-content: start;
}
h1 {
  margin: 0;
}
.forms {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(16rem, 1fr));
  gap: 0.7rem;
}
.forms form {
  display: grid;
  gap: 0.5rem;
  justify-items: start;
}
.forms label {
  width: 100%;
}
.list {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 0.5rem;
}
.list li {
  display: flex;
  gap: 1rem;
  flex-wrap: wrap;
  align-items: baseline;
}
.aside {
  opacity: 0.75;
}
</style>
