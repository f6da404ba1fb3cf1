<script setup lang="ts">
// A student hands a picture of one of their cases in, or a new one from the phone.
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, data, pictureUrl, upload, type AssignmentView, type CaseCard } from '../api/client'
import { messageOf } from '../shell/events'
import PickFiles from '../shell/PickFiles.vue'
import { PICTURES } from '../shell/pictures'
import PeerTasks from './PeerTasks.vue'
import SubmissionCard from './SubmissionCard.vue'

const props = defineProps<{ of: AssignmentView }>()
const emit = defineEmits<{ changed: [] }>()
const router = useRouter()
const cases = ref<CaseCard[]>([])
const frame = ref<string | null>(null)
const paragraph = ref('')
const mayShow = ref(false)
const who = ref('')
const problem = ref('')
const busy = ref('')
const kept = ref('')
const path = { params: { path: { id: props.of.id } } }
onMounted(async () => {
  try {
    const [all, draft] = await Promise.all([data(api.GET('/api/cases')), data(api.GET('/api/assignments/{id}/draft', path))])
    cases.value = all
    if (draft) {
      frame.value = draft.frame ?? null
      paragraph.value = draft.paragraph
      mayShow.value = draft.may_show
      who.value = draft.who
      kept.value = 'Your draft, as you left it. Nobody else sees it.'
    }
  } catch (e) {
    problem.value = messageOf(e)
  }
  // what is begun is kept as one goes
  watch([frame, paragraph, mayShow, who], () => {
    clearTimeout(timer)
    timer = setTimeout(() => void keep(), 700)
  })
})
let timer: ReturnType<typeof setTimeout> | undefined
const draft = (of: string | null) => ({ frame: of, paragraph: paragraph.value, may_show: mayShow.value, who: who.value })
async function keep() {
  timer = undefined
  try {
    await data(api.PUT('/api/assignments/{id}/draft', { ...path, body: draft(frame.value) }))
    kept.value = 'The draft is kept. Nobody else sees it.'
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onBeforeUnmount(() => {
  if (!timer) return
  clearTimeout(timer)
  void keep()
})
const own = computed(() => cases.value.filter((c) => c.frame_id))
/** What has to be in its case. */
const asked = computed(() => {
  const h = props.of.assignment.hand_in
  return [h?.takes ? `at least ${h.takes} takes` : '', h?.plates ? `at least ${h.plates} plates` : '', h?.set ? 'the set' : '', h?.paragraph ? 'a paragraph' : ''].filter(Boolean).join(', ')
})
async function send(files: File[]) {
  const file = files[0]
  if (!file) return
  let made: string | null = null
  busy.value = 'Sending…'
  problem.value = ''
  try {
    const c = await data(api.POST('/api/cases', { body: { title: props.of.assignment.title, brief: props.of.brief.based_on ?? props.of.brief.id } }))
    made = c.id
    const sent = await upload(c.id, file, () => {})
    made = null
    clearTimeout(timer)
    timer = undefined
    // the draft holds it while its marks are found, read and confirmed in Read; from there one click leads back
    await data(api.PUT('/api/assignments/{id}/draft', { ...path, body: draft(sent.id) }))
    await router.push({ name: 'read', params: { caseId: c.id } })
  } catch (e) {
    problem.value = messageOf(e)
    // a file that is none leaves no empty case behind
    if (made) await api.DELETE('/api/cases/{id}', { params: { path: { id: made } } }).catch(() => null)
  }
  busy.value = ''
}
async function handIn() {
  if (!frame.value) return
  clearTimeout(timer)
  timer = undefined
  busy.value = 'Handing in…'
  try {
    await data(api.POST('/api/assignments/{id}/submissions', { params: { path: { id: props.of.id } }, body: { frame: frame.value, paragraph: paragraph.value, may_show: mayShow.value, who: who.value } }))
    problem.value = ''
    kept.value = ''
    emit('changed')
  } catch (e) {
    problem.value = messageOf(e)
  }
  busy.value = ''
}
</script>

<template>
  <div class="hand">
    <PeerTasks :of="of" />
    <SubmissionCard v-if="of.mine" :id="of.mine" :key="of.mine" :of="of" @changed="emit('changed')" />
    <BForm v-if="!of.mine || of.assignment.again" class="sheet" @submit.prevent="handIn">
      <h2>{{ of.mine ? 'Hand in again' : 'Hand in' }}</h2>
      <p v-if="of.assignment.groups" class="quiet m-0">What one of a group hands in counts for all of it.</p>
      <p v-if="asked" class="quiet m-0">With it go {{ asked }}.</p>
      <p class="quiet m-0">Choose a picture of one of your cases; its marks and what they say are frozen as they are now.</p>
      <BFormRadioGroup v-model="frame" class="cases" aria-label="Which picture">
        <BFormRadio v-for="c in own" :key="c.id" :value="c.frame_id" data-test="hand-in-case"><img :src="pictureUrl(c.frame_id ?? '', 'thumb')" :alt="c.title" /><br />{{ c.title }}</BFormRadio>
      </BFormRadioGroup>
      <p class="m-0">Or send a new one: <PickFiles :accept="PICTURES" label="Choose or take a picture" data-test="hand-in-file" @files="send" /> <span class="quiet small">It becomes a case whose marks are found and read by themselves; look at them in Read, and one click leads back here.</span></p>
      <label class="w-100">In your own words{{ of.assignment.hand_in?.paragraph ? '' : ' (if you like)' }}<BFormTextarea v-model="paragraph" rows="3" maxlength="6000" dir="auto" data-test="hand-in-words" /></label>
      <label class="w-100">Who is in the picture<BFormInput v-model="who" size="sm" maxlength="400" placeholder="nobody, or names" /></label>
      <BFormCheckbox v-model="mayShow">They agreed that the class may see it</BFormCheckbox>
      <BButton type="submit" size="sm" variant="primary" :disabled="!frame || !!busy" data-test="hand-in">Hand in</BButton>
      <span v-if="busy" role="status" class="quiet"> {{ busy }}</span>
      <p v-if="kept" role="status" class="quiet small m-0" data-test="draft-kept">{{ kept }}</p>
      <p v-if="problem" role="alert" class="problem" data-test="hand-in-problem">{{ problem }}</p>
      <p class="quiet small m-0">Where a picture was taken is never kept. <RouterLink to="/cases">My cases</RouterLink></p>
    </BForm>
  </div>
</template>

<style scoped>
.hand {
  display: grid;
  gap: 0.7rem;
  max-width: 60rem;
}
form {
  display: grid;
  gap: 0.6rem;
  justify-items: start;
}
.cases {
  display: flex;
  flex-wrap: wrap;
  gap: 0.8rem;
}
.cases img {
  width: 110px;
  height: 110px;
  object-fit: cover;
  border-radius: 5px;
}
</style>
