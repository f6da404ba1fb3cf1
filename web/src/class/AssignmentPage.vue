<script setup lang="ts">
// One assignment: for those who teach the wall, for students what is asked for and their own.
import { computed, onMounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, data, type AssignmentView } from '../api/client'
import HaloRing from '../halo/HaloRing.vue'
import { messageOf } from '../shell/events'
import { school } from '../shell/school'
import AssignmentEditor from './AssignmentEditor.vue'
import HandIn from './HandIn.vue'
import WallView from './WallView.vue'

const props = defineProps<{ assignmentId: string }>()
const view = ref<AssignmentView | null>(null)
const problem = ref('')
const editing = ref(false)
async function load() {
  try {
    view.value = await data(api.GET('/api/assignments/{id}', { params: { path: { id: props.assignmentId } } }))
    // a class speaks one language: its school of ratios is the one stated first
    if (view.value.ratio) school.value = view.value.ratio
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(load)
const teaches = computed(() => view.value?.seat === 'instructor' || view.value?.seat === 'co_teacher')
const due = computed(() => {
  const t = view.value?.assignment.due
  return t ? new Date(t).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' }) : 'no date'
})
</script>

<template>
  <main class="page">
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <template v-if="view">
      <div class="top">
        <HaloRing v-if="view.reference" :lights="view.reference.lights" :size="84" :picture="`/api/assignments/${view.id}/picture?thumb=true`" label="The reference in its halo" />
        <div class="what">
          <h1>{{ view.assignment.title }}</h1>
          <p class="quiet m-0">By {{ due }} · as {{ view.brief.name }} · <RouterLink :to="{ name: 'class', params: { classId: view.class } }">the class</RouterLink><template v-if="!view.published"> · not shown to students</template><template v-if="view.begun"> · {{ view.begun }} {{ view.begun === 1 ? 'has' : 'have' }} begun</template></p>
          <p v-if="view.reference" class="quiet small m-0 figure">{{ view.reference.slant }}</p>
        </div>
        <BButton v-if="teaches" size="sm" variant="secondary" data-test="change-assignment" @click="editing = true">Change</BButton>
      </div>
      <p v-if="view.assignment.text" class="sheet m-0" dir="auto">{{ view.assignment.text }}</p>
      <p v-if="view.has_reference && !view.reference" class="caution">The reference is shown once you have handed in.</p>
      <WallView v-if="teaches" :of="view" @changed="load" />
      <HandIn v-else :of="view" @changed="load" />
      <AssignmentEditor v-if="editing" :class-id="view.class" :of="view" @close="editing = false" @saved="load" />
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 0.7rem 1rem;
  width: 100%;
  display: grid;
  gap: 0.6rem;
  align-content: start;
}
.top {
  display: flex;
  gap: 1rem;
  align-items: center;
}
.what {
  flex: 1;
  min-width: 0;
}
h1 {
  margin: 0;
}
</style>
