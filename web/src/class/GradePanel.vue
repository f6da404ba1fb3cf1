<script setup lang="ts">
// One submission beside the wall: the picture, what is proposed with its evidence, points by keys, notes.
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { api, data, type AssignmentView, type SubmissionView } from '../api/client'
import HaloPicture from '../halo/HaloPicture.vue'
import { isTyping, messageOf, withCommand } from '../shell/events'
import NumberField from '../shell/NumberField.vue'
import { pointsOf } from './wall'

const props = defineProps<{ id: string; of: AssignmentView; next: string | null }>()
const emit = defineEmits<{ changed: []; next: []; close: [] }>()
const kept = new Map<string, Promise<SubmissionView>>()
const view = ref<SubmissionView | null>(null)
const points = ref<Record<string, number>>({})
const note = ref('')
const said = ref('')
const pin = ref<[number, number] | null>(null)
const placing = ref(false)
const phrases = ref<string[]>([])
const field = ref<{ focus: () => void }>()
const secret = ref(false)
const at = ref(0)
const problem = ref('')
const path = (id: string) => ({ params: { path: { id } } })
const fetched = (id: string) => data(api.GET('/api/submissions/{id}', path(id)))
const rubric = computed(() => props.of.assignment.rubric)

async function load(id: string) {
  try {
    // the next one is prepared ahead, with its picture
    const v = await (kept.get(id) ?? fetched(id))
    kept.delete(id)
    if (props.id !== id) return
    view.value = v
    const mine = v.grades.find((g) => g.mine)
    const proposed = Object.fromEntries(v.proposals.flatMap((p) => (p.points == null ? [] : [[p.criterion, p.points]])))
    points.value = { ...proposed, ...(mine?.points ?? {}) }
    note.value = mine?.note ?? ''
    at.value = Math.max(0, rubric.value.findIndex((c) => points.value[c.id] === undefined))
    problem.value = ''
    pin.value = null
    placing.value = false
    phrases.value = []
    ahead()
  } catch (e) {
    problem.value = messageOf(e)
  }
}
function ahead() {
  const id = props.next
  if (!id || kept.has(id)) return
  const coming = fetched(id)
  coming.catch(() => kept.delete(id))
  kept.set(id, coming)
  new Image().src = `/api/submissions/${id}/picture`
}
watch(() => props.id, load, { immediate: true })
watch(() => props.next, ahead)

const given = computed(() => rubric.value.reduce((n, c) => n + (points.value[c.id] ?? 0), 0))
const all = computed(() => rubric.value.reduce((n, c) => n + c.points, 0))
const whole = computed(() => rubric.value.every((c) => points.value[c.id] !== undefined))
const evidence = (id: string) => view.value?.proposals.find((p) => p.criterion === id)
async function save() {
  view.value = await data(api.PUT('/api/submissions/{id}/grade', { ...path(props.id), body: { points: points.value, note: note.value } }))
}
async function keep(back: boolean) {
  try {
    await save()
    if (back) view.value = await data(api.POST('/api/submissions/{id}/return', path(props.id)))
    emit('changed')
    if (back) {
      await nextTick()
      emit('next')
    }
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function say() {
  try {
    view.value = await data(api.POST('/api/submissions/{id}/notes', { ...path(props.id), body: { kind: secret.value ? 'private' : 'note', text: said.value, pin: pin.value } }))
    said.value = ''
    pin.value = null
    placing.value = false
  } catch (e) {
    problem.value = messageOf(e)
  }
}
/** Phrases are fetched when they are wanted. */
async function book() {
  try {
    phrases.value = await data(api.GET('/api/submissions/{id}/phrases', path(props.id)))
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function takePhrase(p: string) {
  said.value = said.value ? `${said.value.trimEnd()} ${p}` : p
  await nextTick()
  field.value?.focus()
}
async function sample(on: boolean) {
  try {
    view.value = await data(api.PUT('/api/submissions/{id}/sample', { ...path(props.id), body: { sample: on } }))
    emit('changed')
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function takeAway() {
  if (!window.confirm('Take this picture away, with its marks, readings and words? Its points stay where the class keeps them. It cannot be taken back.')) return
  try {
    await api.DELETE('/api/submissions/{id}', path(props.id))
    emit('changed')
    emit('close')
  } catch (e) {
    problem.value = messageOf(e)
  }
}
/** Notes that have a pin, with their signs. */
const pins = computed(() => [
  ...(view.value?.notes ?? []).flatMap((n, i) => (n.pin ? [{ sign: String(i + 1), at: [n.pin[0] ?? 0, n.pin[1] ?? 0] as [number, number] }] : [])),
  ...(pin.value ? [{ sign: '+', at: pin.value }] : []),
])
function press(_: PointerEvent, at: [number, number]) {
  pin.value = at
  placing.value = false
}
function key(e: KeyboardEvent) {
  if (isTyping(e) || withCommand(e) || !view.value || document.querySelector('.modal.show')) return
  const c = rubric.value[at.value]
  const p = c ? pointsOf(e.key, c) : null
  if (c && p !== null) {
    points.value = { ...points.value, [c.id]: p }
    at.value = Math.min(rubric.value.length - 1, at.value + 1)
  } else if (e.key === 'ArrowDown') at.value = Math.min(rubric.value.length - 1, at.value + 1)
  else if (e.key === 'ArrowUp') at.value = Math.max(0, at.value - 1)
  else if (e.key === 'Enter' && whole.value) void keep(true)
  else return
  e.preventDefault()
}
onMounted(() => window.addEventListener('keydown', key))
onBeforeUnmount(() => window.removeEventListener('keydown', key))
</script>

<template>
  <aside class="sheet panel" aria-label="Grading" data-test="grade-panel">
    <div class="top"><h2><bdi>{{ view?.name ?? '…' }}</bdi></h2><BButton size="sm" variant="secondary" aria-label="Close" @click="emit('close')">✕</BButton></div>
    <p v-if="problem" role="alert" class="problem" data-test="grade-problem">{{ problem }}</p>
    <template v-if="view">
      <div class="picture"><HaloPicture :src="`/api/submissions/${view.id}/picture`" :width="view.size[0] ?? 1" :height="view.size[1] ?? 1" :lights="view.lights" :against="of.reference?.lights" :alt="`Picture of ${view.name}`" :armed="placing" @press="press"><template #default="{ stage }"><g v-for="(p, i) in pins" :key="i" :transform="`translate(${stage(p.at).x} ${stage(p.at).y})`" class="pin" data-test="note-pin"><rect x="-10" y="-10" width="20" height="20" rx="4" /><text>{{ p.sign }}</text></g></template></HaloPicture></div>
      <p v-if="view.blind" class="caution" data-test="blind">A sample: others' points are shown once you gave yours.</p>
      <p v-if="view.copies.length" class="problem" data-test="copies">The same picture, or nearly, was handed in by {{ view.copies.join(', ') }}.</p>
      <p v-if="view.late.late" class="quiet m-0">Late by {{ view.late.days }} {{ view.late.days === 1 ? 'day' : 'days' }}; {{ Math.round(100 * view.late.keeps) }} % of the points count.</p>
      <p v-if="view.paragraph" class="m-0" dir="auto">“{{ view.paragraph }}”</p>
      <p v-if="!view.may_show" class="quiet small m-0">Not agreed to be shown to the class.</p>
      <ol class="criteria">
        <li v-for="(c, i) in rubric" :key="c.id" :class="{ here: i === at }" data-test="criterion" @click="at = i">
          <span class="c">{{ c.name }}</span>
          <NumberField class="num" :label="`Points for ${c.name}`" hidden-label :value="points[c.id]" :least="0" :most="c.points" @change="(v) => (points = v === null ? Object.fromEntries(Object.entries(points).filter(([k]) => k !== c.id)) : { ...points, [c.id]: v })" />
          <span class="quiet">of {{ c.points }}</span>
          <span v-if="evidence(c.id)" class="quiet small e">{{ evidence(c.id)?.points ?? 'not told' }}: {{ evidence(c.id)?.evidence }}</span>
        </li>
      </ol>
      <p class="m-0" data-test="grade-total"><strong>{{ given }}</strong> of {{ all }} points<template v-if="view.disputed"> · <span class="problem">graders differ by more than a tenth</span></template></p>
      <label class="w-100">Words for the student<BFormTextarea v-model="note" rows="2" maxlength="2000" dir="auto" data-test="grade-note" /></label>
      <div class="acts">
        <BButton size="sm" variant="secondary" data-test="grade-save" @click="keep(false)">Keep the points</BButton>
        <BButton size="sm" variant="primary" :disabled="!whole" data-test="grade-return" @click="keep(true)">Give it back</BButton>
      </div>
      <details v-if="view.grades.length">
        <summary>{{ view.grades.length }} {{ view.grades.length === 1 ? 'grade was' : 'grades were' }} given</summary>
        <ul class="small"><li v-for="g in view.grades" :key="g.at">{{ new Date(g.at).toLocaleString() }}: <bdi>{{ g.grader }}</bdi>, {{ g.share == null ? 'not whole' : `${(100 * g.share).toFixed(0)} %` }}</li></ul>
      </details>
      <p v-for="(n, i) in view.notes" :key="i" class="m-0 small" dir="auto" data-test="note"><template v-if="n.pin">[{{ i + 1 }}] </template><bdi>{{ n.author }}</bdi>{{ n.kind === 'private' ? ' (private)' : n.kind === 'appeal' ? ' asks to look again' : '' }}: <bdi>{{ n.text }}</bdi></p>
      <BForm class="say" @submit.prevent="say">
        <BFormInput ref="field" v-model="said" size="sm" maxlength="2000" placeholder="A note" aria-label="A note" dir="auto" data-test="note-text" />
        <BFormCheckbox v-model="secret">private</BFormCheckbox>
        <BButton type="submit" size="sm" variant="secondary" :disabled="!said.trim()" data-test="note-add">Add</BButton>
      </BForm>
      <div class="acts">
        <BButton size="sm" variant="secondary" :pressed="placing" data-test="note-place" @click="placing = !placing">{{ pin ? 'Move the pin' : 'Pin it to the picture' }}</BButton>
        <BDropdown size="sm" variant="secondary" text="Phrase book" data-test="note-phrases" @show="book">
          <BDropdownItemButton v-for="p in phrases" :key="p" class="phrase" data-test="note-phrase" @click="takePhrase(p)">{{ p }}</BDropdownItemButton>
        </BDropdown>
      </div>
      <p v-for="(r, i) in view.reviews" :key="`r${i}`" class="m-0 small" dir="auto" data-test="peer-view"><bdi>{{ r.by ?? 'A student' }}</bdi> looked at it<template v-for="(p, c) in r.points" :key="c">, {{ rubric.find((x) => x.id === String(c))?.name ?? c }} {{ p }}</template>: <bdi>{{ r.text }}</bdi></p>
      <div class="acts">
        <BButton size="sm" variant="secondary" :pressed="view.sample" data-test="sample" @click="sample(!view.sample)">{{ view.sample ? 'A sample: all graders mark it first' : 'Make it a sample for all graders' }}</BButton>
        <BButton size="sm" variant="secondary" data-test="take-away" @click="takeAway">Take it away</BButton>
      </div>
    </template>
  </aside>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 0.5rem;
  max-height: calc(100vh - 230px);
  overflow: auto;
}
.top {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.picture {
  height: 19rem;
}
.criteria {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 0.3rem;
}
.criteria li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 5rem auto;
  gap: 0.1rem 0.5rem;
  align-items: center;
  border-left: 3px solid transparent;
  padding-left: 0.5rem;
}
.criteria .here {
  border-color: var(--light);
  background: var(--raised);
}
.e {
  grid-column: 1 / -1;
}
.pin rect {
  fill: var(--deep);
  stroke: var(--light);
}
.pin text {
  fill: var(--light);
  font-size: 12px;
  text-anchor: middle;
  dominant-baseline: central;
}
.acts,
.say {
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
</style>
