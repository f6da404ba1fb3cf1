<script setup lang="ts">
// The verdict in a paragraph: composed from the findings, or written by hand; and the report to hand over.
import { computed, onMounted, ref } from 'vue'
import { api, ApiProblem, data, type ParagraphView } from '../api/client'
import { useCase } from '../cases/case'
import { messageOf } from '../shell/events'
import { useJob } from '../shell/job'
import { currentOf } from '../shell/kept'

const current = useCase()
const kept = ref<ParagraphView | null>(null)
const text = ref('')
const problem = ref('')
const saved = ref(false)
const path = () => ({ params: { path: { id: current.shown.id } } })
const touched = computed(() => kept.value !== null && text.value !== (kept.value.written ?? kept.value.composed))
function adopt(p: ParagraphView) {
  kept.value = p
  text.value = p.written ?? p.composed
}
onMounted(async () => {
  try {
    adopt(await data(api.GET('/api/frames/{id}/paragraph', path())))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
async function save(words: string | null) {
  if (!kept.value) return
  try {
    adopt(await data(api.PUT('/api/frames/{id}/paragraph', { ...path(), body: { version: kept.value.version, text: words } })))
    problem.value = ''
    saved.value = true
  } catch (e) {
    problem.value = messageOf(e)
    // theirs is kept beside what was typed here: the next save goes on top of it
    const theirs = e instanceof ApiProblem ? currentOf<ParagraphView>(e) : null
    if (theirs) kept.value = theirs
  }
}

const file = ref<'html' | 'pdf' | 'json'>('pdf')
const paper = ref<'a4' | 'letter'>('a4')
const contact = ref(false)
const { job, open, problem: jobProblem, ask, withdraw } = useJob()
const takes = computed(() => current.view?.frames.filter((f) => f.role === 'take').length ?? 0)
const FILES = [
  { value: 'pdf', text: 'PDF, two pages' },
  { value: 'html', text: 'A page for the browser' },
  { value: 'json', text: 'Data (slant-report/1)' },
]
const PAPERS = [
  { value: 'a4', text: 'A4' },
  { value: 'letter', text: 'Letter' },
]
async function make() {
  if (touched.value) await save(text.value)
  await ask({ kind: 'report', case: current.id, frame: current.shown.id, file: file.value, paper: paper.value, contact: contact.value })
}
</script>

<template>
  <div class="panel">
    <section class="sheet">
      <h2>In short</h2>
      <p v-if="!kept && !problem" class="quiet" role="status">Composing…</p>
      <BFormTextarea v-model="text" rows="11" maxlength="6000" dir="auto" aria-label="The verdict in a paragraph" data-test="paragraph" @update:model-value="saved = false" />
      <div class="row-of">
        <BButton size="sm" variant="primary" :disabled="!touched" data-test="paragraph-save" @click="save(text)">Save</BButton>
        <BButton v-if="kept?.written" size="sm" variant="secondary" data-test="paragraph-compose" @click="save(null)">Compose it again</BButton>
        <span class="quiet small" role="status">{{ touched ? 'Not saved yet' : kept?.written ? 'Written by hand' : 'Composed from the findings' }}<template v-if="saved && !touched">, saved</template></span>
      </div>
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    </section>
    <section class="sheet">
      <h2>Report to hand over</h2>
      <div class="row-of">
        <BFormSelect v-model="file" size="sm" class="w-auto" :options="FILES" aria-label="File" data-test="report-file" />
        <BFormSelect v-if="file === 'pdf'" v-model="paper" size="sm" class="w-auto" :options="PAPERS" aria-label="Paper" data-test="report-paper" />
      </div>
      <BFormCheckbox v-model="contact" :disabled="!takes">With a contact sheet of {{ takes }} {{ takes === 1 ? 'take' : 'takes' }}</BFormCheckbox>
      <div class="row-of">
        <BButton v-if="!open" size="sm" variant="primary" data-test="report-make" @click="make">Make it</BButton>
        <template v-else>
          <BProgress class="bar" :value="job?.progress ?? 0" :max="1" aria-label="How much of the report is made" />
          <BButton size="sm" variant="secondary" @click="withdraw">Stop</BButton>
        </template>
        <a v-if="job?.state === 'done'" :href="`/api/jobs/${job.id}/result`" data-test="report-result">Download the report</a>
      </div>
      <p v-if="jobProblem" role="alert" class="problem">{{ jobProblem }}</p>
      <p class="quiet small m-0">The picture with its halo and pins, the paragraph, findings and remarks, what was read with its spreads, the set drawn to scale, and how it was measured. It stands on its own: nothing is loaded from elsewhere. Show pictures of people only as they agreed to.</p>
    </section>
  </div>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 0.55rem;
  align-content: start;
}
.row-of {
  display: flex;
  gap: 0.5rem;
  margin: 0.4rem 0;
  align-items: center;
  flex-wrap: wrap;
}
.bar {
  width: 8rem;
}
</style>
