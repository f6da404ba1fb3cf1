<script setup lang="ts">
// A brief of one's own: what it asks of each measure, in words, and which rules it switches off.
import { computed, onMounted, reactive, ref } from 'vue'
import { api, data, type BriefView, type RuleBook } from '../api/client'
import { messageOf } from '../shell/events'
import { currentOf } from '../shell/kept'
import NumberField from '../shell/NumberField.vue'

const props = defineProps<{ brief: BriefView }>()
const emit = defineEmits<{ close: []; saved: [BriefView] }>()
type Range = { least?: number | null; most?: number | null }
const book = ref<RuleBook | null>(null)
const problem = ref('')
const warns = ref<string[]>(props.brief.contradictions)
const version = ref(props.brief.version ?? 0)
const b = reactive({
  name: props.brief.name,
  says: props.brief.says,
  school: props.brief.school,
  must: props.brief.must.join('\n'),
  free: props.brief.free.join('\n'),
  never: props.brief.never.join('\n'),
  ranges: { ...props.brief.ranges } as Record<string, Range>,
  off: [...(props.brief.off ?? [])],
})
onMounted(async () => {
  try {
    book.value = await data(api.GET('/api/rules'))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
const askable = computed(() => (book.value?.askable ?? []).filter((a) => a.kind === props.brief.kind))
const rules = computed(() => (book.value?.rules ?? []).filter((r) => !r.kind || r.kind === props.brief.kind))
function range(measure: string, end: 'least' | 'most', value: number | null) {
  const r: Range = { ...b.ranges[measure] }
  if (value === null) delete r[end]
  else r[end] = value
  const rest = Object.entries(b.ranges).filter(([name]) => name !== measure)
  b.ranges = Object.fromEntries(Object.keys(r).length ? [...rest, [measure, r]] : rest)
}
const lines = (text: string) => text.split('\n').map((l) => l.trim()).filter(Boolean)
async function save(leave: boolean) {
  const brief = { ...props.brief, name: b.name, says: b.says, school: b.school, must: lines(b.must), free: lines(b.free), never: lines(b.never), ranges: b.ranges, off: b.off }
  try {
    const saved = await data(api.PUT('/api/briefs/{id}', { params: { path: { id: props.brief.id } }, body: { version: version.value, brief } }))
    version.value = saved.version ?? version.value
    warns.value = saved.contradictions
    problem.value = ''
    emit('saved', saved)
    if (leave && !saved.contradictions.length) emit('close')
  } catch (e) {
    problem.value = messageOf(e)
    version.value = currentOf<BriefView>(e)?.version ?? version.value
  }
}
async function remove() {
  try {
    await data(api.DELETE('/api/briefs/{id}', { params: { path: { id: props.brief.id } } }))
    emit('saved', props.brief)
    emit('close')
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <BModal :model-value="true" :title="`Brief: ${brief.name}`" size="lg" scrollable @hidden="emit('close')">
    <div class="fields">
      <label>Name<BFormInput v-model="b.name" size="sm" maxlength="80" data-test="brief-name" /></label>
      <label>What it asks for<BFormTextarea v-model="b.says" rows="2" maxlength="400" /></label>
      <label>School<BFormTextarea v-model="b.school" rows="2" maxlength="400" /></label>
      <div class="words">
        <label>Must hold, a line each<BFormTextarea v-model="b.must" rows="3" /></label>
        <label>Left open<BFormTextarea v-model="b.free" rows="3" /></label>
        <label>Never wanted<BFormTextarea v-model="b.never" rows="3" /></label>
      </div>
    </div>
    <h2 class="mt-3">What it asks of each measure</h2>
    <BTableSimple small>
      <BThead><BTr><BTh>Measure</BTh><BTh>Least</BTh><BTh>Most</BTh><BTh>Unit</BTh></BTr></BThead>
      <BTbody>
        <BTr v-for="a in askable" :key="a.measure" :data-test="`ask-${a.measure}`">
          <BTd>{{ a.title }}<br /><code class="small quiet">{{ a.measure }}</code></BTd>
          <BTd class="num"><NumberField v-if="a.least" :label="`Least, ${a.measure}`" hidden-label :value="b.ranges[a.measure]?.least" :least="-1000" :most="1000" @change="(x) => range(a.measure, 'least', x)" /></BTd>
          <BTd class="num"><NumberField v-if="a.most" :label="`Most, ${a.measure}`" hidden-label :value="b.ranges[a.measure]?.most" :least="-1000" :most="1000" @change="(x) => range(a.measure, 'most', x)" /></BTd>
          <BTd>{{ a.unit }}</BTd>
        </BTr>
      </BTbody>
    </BTableSimple>
    <details class="mt-3">
      <summary>Rules switched off: {{ b.off.length }} of {{ rules.length }}</summary>
      <BFormCheckboxGroup v-model="b.off" stacked :options="rules.map((r) => ({ value: r.id, text: `${r.title} (${r.measure})` }))" />
    </details>
    <BAlert v-if="warns.length" :model-value="true" variant="warning" class="mt-3" data-test="contradictions"><p v-for="w in warns" :key="w" class="m-0">{{ w }}</p></BAlert>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <template #footer>
      <BButton variant="secondary" class="me-auto" @click="remove">Remove this brief</BButton>
      <BButton variant="secondary" @click="emit('close')">Leave it</BButton>
      <BButton variant="primary" data-test="brief-save" @click="save(true)">Save</BButton>
    </template>
  </BModal>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.5rem;
}
.fields label {
  display: block;
}
.words {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(12rem, 1fr));
  gap: 0.6rem;
}
.num {
  width: 7rem;
}
</style>
