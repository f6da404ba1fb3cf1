<script setup lang="ts">
// How a student comes on over the assignments of a class: marks, and each part of the distance from the reference.
import { onMounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, data, type StudentPage } from '../api/client'
import { messageOf } from '../shell/events'
import CourseLine from './CourseLine.vue'
import { percent } from './wall'

const props = defineProps<{ classId: string; account: string }>()
const view = ref<StudentPage | null>(null)
const problem = ref('')
onMounted(async () => {
  try {
    view.value = await data(api.GET('/api/classes/{id}/students/{account}', { params: { path: { id: props.classId, account: props.account } } }))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
</script>

<template>
  <main class="page">
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <template v-if="view">
      <div class="top"><h1><bdi>{{ view.name }}</bdi></h1><strong v-if="view.total != null" class="big">{{ percent(view.total) }}</strong><RouterLink :to="{ name: 'class', params: { classId } }">the class</RouterLink></div>
      <p v-if="view.course.practise" class="caution" data-test="practise"><strong>To practise:</strong> {{ view.course.practise }}</p>
      <section class="sheet">
        <h2>Assignments</h2>
        <BTableSimple small responsive class="figure">
          <BThead><BTr><BTh>Assignment</BTh><BTh class="text-end">Mark</BTh><BTh class="text-end">Steps off</BTh><BTh>Rules broken · open · held</BTh></BTr></BThead>
          <BTbody>
            <BTr v-for="l in view.lines" :key="l.assignment" data-test="student-line">
              <BTd><RouterLink v-if="l.submission" :to="{ name: 'submission', params: { submissionId: l.submission } }">{{ l.title }}</RouterLink><template v-else>{{ l.title }}</template></BTd>
              <BTd class="text-end">{{ percent(l.cell.share) || (l.cell.handed_in ? 'handed in' : '–') }}<template v-if="l.cell.entered"> by hand</template><span v-if="l.cell.late" class="problem"> late</span></BTd>
              <BTd class="text-end">{{ l.cell.steps?.toFixed(1) ?? '' }}</BTd>
              <BTd>{{ l.submission ? l.rules.join(' · ') : '' }}</BTd>
            </BTr>
          </BTbody>
        </BTableSimple>
      </section>
      <section v-if="view.course.parts.length" class="sheet parts">
        <h2>Against the references</h2>
        <p class="quiet small m-0">Picture minus reference, with one spread up and down; the band is what one just sees.</p>
        <div class="grid">
          <figure v-for="p in view.course.parts" :key="p.kind" class="m-0" data-test="course-part">
            <figcaption>{{ p.kind }} <span class="quiet">[{{ p.unit }}]</span></figcaption>
            <CourseLine :part="p" :titles="view.lines.map((l) => l.title)" />
            <p v-if="p.says" class="small m-0">{{ p.says }}</p>
          </figure>
        </div>
      </section>
      <p v-else class="quiet">Nothing was compared with a reference yet.</p>
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 0.9rem 1rem;
  max-width: 68rem;
  width: 100%;
  margin: 0 auto;
  display: grid;
  gap: 0.7rem;
  align-content: start;
}
.top {
  display: flex;
  gap: 1rem;
  align-items: baseline;
}
h1 {
  margin: 0;
  flex: 1;
}
.big {
  font-size: 1.6rem;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(15rem, 1fr));
  gap: 1rem;
}
.parts {
  display: grid;
  gap: 0.6rem;
}
figcaption {
  font-weight: 600;
}
</style>
