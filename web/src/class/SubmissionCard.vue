<script setup lang="ts">
// What was handed in, as its author sees it: how far it is, then marks, verdict and notes; an appeal.
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { api, data, type AssignmentView, type SubmissionView } from '../api/client'
import HaloPicture from '../halo/HaloPicture.vue'
import { messageOf } from '../shell/events'

const props = defineProps<{ id: string; of?: AssignmentView }>()
const emit = defineEmits<{ changed: [] }>()
const view = ref<SubmissionView | null>(null)
const problem = ref('')
const appeal = ref('')
let timer: ReturnType<typeof setTimeout> | undefined
const path = () => ({ params: { path: { id: props.id } } })
async function load() {
  try {
    view.value = await data(api.GET('/api/submissions/{id}', path()))
    if (view.value.state === 'reading') timer = setTimeout(() => void load(), 1200)
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(load)
onBeforeUnmount(() => clearTimeout(timer))
async function ask() {
  try {
    view.value = await data(api.POST('/api/submissions/{id}/notes', { ...path(), body: { kind: 'appeal', text: appeal.value } }))
    appeal.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function takeAway() {
  if (!window.confirm('Take this picture away, with its marks, readings and words? Points that were given stay where the class keeps them. It cannot be taken back.')) return
  try {
    await api.DELETE('/api/submissions/{id}', path())
    emit('changed')
  } catch (e) {
    problem.value = messageOf(e)
  }
}
const WORDS = { reading: 'being read', handed_in: 'handed in, waiting to be graded', returned: 'given back', failed: 'could not be read', removed: 'taken away' } as const
const nameOf = (id: string) => view.value?.grades[0]?.rubric.find((c) => c.id === id)?.name ?? props.of?.assignment.rubric.find((c) => c.id === id)?.name ?? id
const full = (id: string) => view.value?.grades[0]?.rubric.find((c) => c.id === id)?.points ?? ''
</script>

<template>
  <section class="sheet mine" aria-label="What I handed in" data-test="my-submission">
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <template v-if="view">
      <div class="picture"><HaloPicture :src="`/api/submissions/${id}/picture`" :width="view.size[0] ?? 1" :height="view.size[1] ?? 1" :lights="view.lights" alt="The picture as it was handed in" /></div>
      <div class="told">
        <p class="m-0" data-test="submission-state"><strong>{{ WORDS[view.state] }}</strong><template v-if="view.late.late"> · late by {{ view.late.days }} {{ view.late.days === 1 ? 'day' : 'days' }}<template v-if="view.late.keeps < 1">, {{ Math.round(100 * view.late.keeps) }} % of the points are left</template></template><template v-if="view.attempt > 1"> · attempt {{ view.attempt }}</template></p>
        <p v-if="view.problem" class="problem">{{ view.problem }}</p>
        <p v-if="view.counts != null" class="big">{{ (100 * view.counts).toFixed(0) }} %</p>
        <ul v-if="view.share != null" class="points"><li v-for="(p, k) in view.points" :key="k">{{ nameOf(String(k)) }}: {{ p }} of {{ full(String(k)) }}</li></ul>
        <p v-for="g in view.grades.filter((x) => x.note)" :key="g.at" class="m-0" dir="auto"><bdi>{{ g.grader }}</bdi>: <bdi>{{ g.note }}</bdi></p>
        <template v-if="view.distance?.parts.length">
          <h3>Against the reference</h3>
          <ul class="points"><li v-for="p in view.distance.parts" :key="p.kind">{{ p.says }} <span class="quiet">± {{ p.sd.toFixed(1) }} {{ p.unit }}</span></li></ul>
        </template>
        <p v-for="(n, i) in view.notes" :key="i" class="m-0" dir="auto" data-test="note"><bdi>{{ n.author }}</bdi>{{ n.kind === 'appeal' ? ' asks to look again' : '' }}: <bdi>{{ n.text }}</bdi></p>
        <p v-for="(r, i) in view.reviews" :key="`r${i}`" class="m-0" dir="auto" data-test="peer-view">A student who looked at it: <bdi>{{ r.text }}</bdi></p>
        <BForm v-if="view.state === 'returned' && view.mine" class="appeal" @submit.prevent="ask">
          <label class="w-100">Ask to look again<BFormTextarea v-model="appeal" rows="2" maxlength="2000" dir="auto" data-test="appeal-text" /></label>
          <BButton type="submit" size="sm" variant="secondary" :disabled="!appeal.trim()" data-test="appeal">Send the appeal</BButton>
        </BForm>
        <p v-if="view.mine" class="m-0"><BButton size="sm" variant="secondary" data-test="take-away" @click="takeAway">Take the picture away</BButton></p>
      </div>
    </template>
  </section>
</template>

<style scoped>
.mine {
  display: grid;
  grid-template-columns: minmax(14rem, 1fr) minmax(14rem, 1.2fr);
  gap: 0.9rem;
}
.picture {
  height: 22rem;
}
.told {
  display: grid;
  gap: 0.45rem;
  align-content: start;
}
.big {
  font-size: 2rem;
  font-weight: 600;
  margin: 0;
}
.points {
  margin: 0;
  padding-left: 1.1rem;
}
h3 {
  font-size: 1rem;
  margin: 0.3rem 0 0;
}
@media (max-width: 620px) {
  .mine {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
