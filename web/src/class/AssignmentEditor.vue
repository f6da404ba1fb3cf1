<script setup lang="ts">
// What is asked for: reference, brief, rubric, date, what being late costs.
import { computed, onMounted, reactive, ref } from 'vue'
import { api, ApiProblem, data, type Assignment, type AssignmentView, type BriefView, type CaseCard, type Criterion } from '../api/client'
import { messageOf } from '../shell/events'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'

/** `start`: a picture that a new one is set with, and what it is called and judged as. */
const props = defineProps<{ classId: string; of?: AssignmentView; start?: { frame: string; title: string; brief: string } }>()
const emit = defineEmits<{ close: []; saved: [] }>()
const FRESH: Criterion[] = [
  { id: 'place', name: 'Place of the key', points: 10, by: 'measured', measure: 'direction' },
  { id: 'size', name: 'Size of the key', points: 5, by: 'measured', measure: 'size' },
  { id: 'contrast', name: 'Contrast', points: 5, by: 'measured', measure: 'contrast' },
  { id: 'brief', name: 'What the brief asks', points: 5, by: 'measured', measure: 'brief' },
  { id: 'idea', name: 'Idea and care', points: 5, by: 'judged' },
]
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
const was = props.of?.assignment
const a = reactive<Assignment>({
  title: was?.title ?? props.start?.title ?? '',
  text: was?.text ?? '',
  brief: was?.brief ?? props.start?.brief ?? 'everyday',
  rubric: (was?.rubric ?? FRESH).map((c) => ({ ...c })),
  due: was?.due ?? null,
  zone: was?.zone ?? zone,
  late: was?.late ?? { kind: 'told' },
  again: was?.again ?? true,
  hand_in: was?.hand_in ?? { takes: 0, set: false, paragraph: false, plates: 0 },
  groups: was?.groups ?? false,
  peers: was?.peers ?? 0,
  hidden: was?.hidden ?? false,
  anonymous: was?.anonymous ?? false,
  weight: was?.weight ?? 1,
})
/** The instant as the clock of this place shows it, for the field; and back. */
const local = (t: string | null | undefined) => {
  if (!t) return ''
  const d = new Date(t)
  return new Date(d.getTime() - 60_000 * d.getTimezoneOffset()).toISOString().slice(0, 16)
}
const due = computed({ get: () => local(a.due), set: (v: string) => (a.due = v ? new Date(v).toISOString() : null) })
const published = ref(props.of?.published ?? true)
const reference = ref<string | null>(props.start?.frame ?? null)
const cases = ref<CaseCard[]>([])
const briefs = ref<BriefView[]>([])
const problem = ref('')
const asks = ref(false)
onMounted(async () => {
  try {
    ;[cases.value, briefs.value] = await Promise.all([data(api.GET('/api/cases')), data(api.GET('/api/briefs'))])
  } catch (e) {
    problem.value = messageOf(e)
  }
})
const pictures = computed(() => {
  const own = cases.value.flatMap((c) => (c.frame_id && c.frame_id !== props.start?.frame ? [{ value: c.frame_id, text: c.title }] : []))
  return props.start ? [{ value: props.start.frame, text: `${props.start.title}: what its set gives` }, ...own] : own
})
type Measure = NonNullable<Criterion['measure']>
const MEASURES: { value: Measure; text: string }[] = [
  { value: 'whole', text: 'nearness as a whole' },
  { value: 'direction', text: 'direction of the key' },
  { value: 'size', text: 'size of the key' },
  { value: 'contrast', text: 'contrast' },
  { value: 'levels', text: 'other lights' },
  { value: 'colour', text: 'colour' },
  { value: 'exposure', text: 'exposure' },
  { value: 'brief', text: 'what the brief asks' },
]
function measure(c: Criterion, m: Measure | null) {
  c.by = m ? 'measured' : 'judged'
  if (m) c.measure = m
  else delete c.measure
}
function more() {
  const n = a.rubric.length + 1
  a.rubric.push({ id: `c${n}-${Date.now() % 10000}`, name: `Criterion ${n}`, points: 5, by: 'judged' })
}
const LATE = [
  { value: 'told' as const, text: 'taken, and marked as late' },
  { value: 'closed' as const, text: 'not taken' },
  { value: 'costs' as const, text: 'costs points' },
]
function late(kind: 'told' | 'closed' | 'costs') {
  a.late = kind === 'costs' ? { kind, percent_a_day: 10 } : { kind }
}
async function save() {
  const body = { version: props.of?.version ?? 0, assignment: { ...a }, published: published.value, reference: reference.value, anyway: asks.value }
  try {
    if (props.of) await data(api.PUT('/api/assignments/{id}', { params: { path: { id: props.of.id } }, body }))
    else await data(api.POST('/api/classes/{id}/assignments', { params: { path: { id: props.classId } }, body }))
    emit('saved')
    emit('close')
  } catch (e) {
    problem.value = messageOf(e)
    // it asks once: saved again it goes through
    asks.value = e instanceof ApiProblem && e.status === 409 && messageOf(e).startsWith('Marks were given')
  }
}
</script>

<template>
  <BModal :model-value="true" :title="of ? 'Change the assignment' : 'Set an assignment'" size="lg" scrollable @hidden="emit('close')">
    <div class="fields">
      <label>Title<BFormInput v-model="a.title" size="sm" maxlength="120" data-test="assignment-title" /></label>
      <label>What to do<BFormTextarea v-model="a.text" rows="3" maxlength="4000" /></label>
      <div class="pair">
        <label>Reference<PickOne :value="reference" :options="pictures" :none="of?.has_reference ? 'as it is' : 'none'" data-test="assignment-reference" @pick="(v) => (reference = v)" @clear="reference = null" /></label>
        <label>Judged as<PickOne :value="a.brief" :options="briefs.map((b) => ({ value: b.id, text: b.name }))" data-test="assignment-brief" @pick="(v) => (a.brief = v)" /></label>
      </div>
      <div class="pair">
        <label>Due (time of {{ zone }})<BFormInput v-model="due" size="sm" type="datetime-local" data-test="assignment-due" /></label>
        <label>After that it is<PickOne :value="a.late.kind" :options="LATE" @pick="late" /></label>
        <NumberField v-if="a.late.kind === 'costs'" label="Per cent for each day begun" :value="a.late.percent_a_day" :least="0" :most="100" @change="(v) => (a.late = { kind: 'costs', percent_a_day: v ?? 0 })" />
        <NumberField label="Weight in the gradebook" :value="a.weight" :least="0" :most="100" @change="(v) => (a.weight = v ?? 1)" />
      </div>
      <BFormCheckbox v-model="a.again">Can be handed in again until it is given back</BFormCheckbox>
      <BFormCheckbox v-model="a.hidden">The reference is shown only once one has handed in</BFormCheckbox>
      <BFormCheckbox v-model="a.anonymous">Graders see no names</BFormCheckbox>
      <BFormCheckbox v-if="a.hand_in" v-model="a.hand_in.paragraph">A paragraph in one's own words goes with it</BFormCheckbox>
      <BFormCheckbox v-if="a.hand_in" v-model="a.hand_in.set">The set goes with it</BFormCheckbox>
      <BFormCheckbox v-model="a.groups">Groups hand in together</BFormCheckbox>
      <div class="pair">
        <NumberField v-if="a.hand_in" label="Takes that go with it, at least" :value="a.hand_in.takes" :least="0" :most="200" @change="(v) => a.hand_in && (a.hand_in.takes = Math.round(v ?? 0))" />
        <NumberField v-if="a.hand_in" label="Plates that go with it, at least" :value="a.hand_in.plates" :least="0" :most="40" @change="(v) => a.hand_in && (a.hand_in.plates = Math.round(v ?? 0))" />
        <NumberField label="Pictures of others each looks at" :value="a.peers" :least="0" :most="5" @change="(v) => (a.peers = Math.round(v ?? 0))" />
      </div>
      <BFormCheckbox v-model="published">Students see it</BFormCheckbox>
    </div>
    <h2 class="mt-3">Rubric</h2>
    <BTableSimple small>
      <BThead><BTr><BTh>Criterion</BTh><BTh>Measured by</BTh><BTh>Points</BTh><BTh><span class="visually-hidden">Remove</span></BTh></BTr></BThead>
      <BTbody>
        <BTr v-for="(c, i) in a.rubric" :key="c.id">
          <BTd><BFormInput v-model="c.name" size="sm" maxlength="120" :aria-label="`Name of criterion ${i + 1}`" /></BTd>
          <BTd><PickOne :value="c.measure" :options="MEASURES" none="a person judges" :aria-label="`Measure of criterion ${i + 1}`" @pick="(m) => measure(c, m)" @clear="measure(c, null)" /></BTd>
          <BTd class="num"><NumberField :label="`Points of criterion ${i + 1}`" hidden-label :value="c.points" :least="0.5" :most="1000" @change="(v) => (c.points = v ?? c.points)" /></BTd>
          <BTd><BButton size="sm" variant="secondary" :aria-label="`Remove ${c.name}`" @click="a.rubric.splice(i, 1)">✕</BButton></BTd>
        </BTr>
      </BTbody>
    </BTableSimple>
    <BButton size="sm" variant="secondary" @click="more">Add a criterion</BButton>
    <p v-if="problem" role="alert" class="problem" data-test="assignment-problem">{{ problem }}</p>
    <template #footer>
      <BButton variant="secondary" @click="emit('close')">Leave it</BButton>
      <BButton variant="primary" data-test="assignment-save" @click="save">{{ asks ? 'Change it all the same' : 'Save' }}</BButton>
    </template>
  </BModal>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.5rem;
}
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(13rem, 1fr));
  gap: 0.6rem;
}
.num {
  width: 6rem;
}
</style>
