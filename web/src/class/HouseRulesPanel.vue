<script setup lang="ts">
// House rules of a class: rules switched off, ranges of its own, how ratios are stated, words for notes.
import { computed, onMounted, reactive, ref } from 'vue'
import { api, data, type ClassView, type HouseRules, type RuleBook } from '../api/client'
import { messageOf } from '../shell/events'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'
import { SCHOOLS, type School } from '../shell/school'

const props = defineProps<{ of: ClassView }>()
const emit = defineEmits<{ changed: [] }>()
const book = ref<RuleBook | null>(null)
const problem = ref('')
const said = ref('')
const leads = computed(() => props.of.seat === 'instructor')
type Range = { least?: number | null; most?: number | null }
const h = reactive({
  off: [...(props.of.house.off ?? [])],
  ranges: { ...props.of.house.ranges } as Record<string, Range>,
  ratio: (props.of.house.ratio ?? null) as School | null,
  phrases: (props.of.house.phrases ?? []).join('\n'),
})
onMounted(async () => {
  try {
    book.value = await data(api.GET('/api/rules'))
  } catch (e) {
    problem.value = messageOf(e)
  }
})
const rules = computed(() => book.value?.rules ?? [])
const titleOf = (id: string) => rules.value.find((r) => r.id === id)?.title ?? id
/** Measures a class can ask for, each once with the ends that some rule holds. */
const askable = computed(() => {
  const all = new Map<string, { measure: string; title: string; unit: string; least: boolean; most: boolean }>()
  for (const a of book.value?.askable ?? []) {
    const was = all.get(a.measure)
    all.set(a.measure, was ? { ...was, least: was.least || a.least, most: was.most || a.most } : { ...a })
  }
  return [...all.values()]
})
const asked = computed(() => askable.value.filter((a) => h.ranges[a.measure]))
const more = computed(() => askable.value.filter((a) => !h.ranges[a.measure]).map((a) => ({ value: a.measure, text: `${a.title} (${a.unit})` })))
const others = computed(() => rules.value.filter((r) => !h.off.includes(r.id)).map((r) => ({ value: r.id, text: `${r.title} (${r.measure})` })))
function range(measure: string, end: 'least' | 'most', value: number | null) {
  const r: Range = { ...h.ranges[measure] }
  if (value === null) delete r[end]
  else r[end] = value
  h.ranges = { ...h.ranges, [measure]: r }
}
const without = (measure: string) => (h.ranges = Object.fromEntries(Object.entries(h.ranges).filter(([m]) => m !== measure)))
const SCHOOL = (Object.keys(SCHOOLS) as School[]).map((value) => ({ value, text: SCHOOLS[value] }))
async function save() {
  const house: HouseRules = {
    off: h.off,
    // a row without figures asks for nothing
    ranges: Object.fromEntries(Object.entries(h.ranges).filter(([, r]) => r.least != null || r.most != null)),
    ratio: h.ratio,
    phrases: h.phrases.split('\n').map((l) => l.trim()).filter(Boolean),
  }
  try {
    await data(api.PATCH('/api/classes/{id}', { params: { path: { id: props.of.id } }, body: { version: props.of.version, house } }))
    problem.value = ''
    said.value = 'Kept. They count for what is set from now on, and for assignments that are saved again before anything is graded.'
    emit('changed')
  } catch (e) {
    problem.value = messageOf(e)
    said.value = ''
  }
}
</script>

<template>
  <section class="house" aria-label="House rules" data-test="house-rules">
    <p class="quiet m-0">What counts in this class whatever the brief says.</p>
    <label class="school">Ratios are stated as<PickOne :value="h.ratio" :options="SCHOOL" none="each as they like" :disabled="!leads" data-test="house-ratio" @pick="(v) => (h.ratio = v)" @clear="h.ratio = null" /></label>
    <h2>Ranges of the class</h2>
    <BTableSimple v-if="asked.length" small>
      <BThead><BTr><BTh>Measure</BTh><BTh>Least</BTh><BTh>Most</BTh><BTh>Unit</BTh><BTh><span class="visually-hidden">Remove</span></BTh></BTr></BThead>
      <BTbody>
        <BTr v-for="a in asked" :key="a.measure" :data-test="`house-${a.measure}`">
          <BTd>{{ a.title }}<br /><code class="small quiet">{{ a.measure }}</code></BTd>
          <BTd class="num"><NumberField v-if="a.least" :label="`Least, ${a.measure}`" hidden-label :value="h.ranges[a.measure]?.least" :least="-1000" :most="1000" @change="(x) => range(a.measure, 'least', x)" /></BTd>
          <BTd class="num"><NumberField v-if="a.most" :label="`Most, ${a.measure}`" hidden-label :value="h.ranges[a.measure]?.most" :least="-1000" :most="1000" @change="(x) => range(a.measure, 'most', x)" /></BTd>
          <BTd>{{ a.unit }}</BTd>
          <BTd><BButton v-if="leads" size="sm" variant="secondary" :aria-label="`Ask nothing of ${a.title}`" @click="without(a.measure)">✕</BButton></BTd>
        </BTr>
      </BTbody>
    </BTableSimple>
    <p v-else class="quiet m-0">None: each brief’s own count.</p>
    <PickOne v-if="leads" :key="`m${more.length}`" :value="null" :options="more" none="Ask for one more…" aria-label="A measure to ask for" data-test="house-more" @pick="(m) => (h.ranges = { ...h.ranges, [m]: {} })" />
    <h2>Rules switched off</h2>
    <ul v-if="h.off.length" class="off">
      <li v-for="r in h.off" :key="r"><span>{{ titleOf(r) }}</span> <BButton v-if="leads" size="sm" variant="secondary" :aria-label="`Switch on: ${titleOf(r)}`" @click="h.off = h.off.filter((o) => o !== r)">✕</BButton></li>
    </ul>
    <p v-else class="quiet m-0">None.</p>
    <PickOne v-if="leads" :key="`o${others.length}`" :value="null" :options="others" none="Switch one off…" aria-label="A rule to switch off" data-test="house-off" @pick="(r) => (h.off = [...h.off, r])" />
    <h2>Words for notes</h2>
    <label class="w-100">One a line; names in braces, as {{ '{key_up}' }} or {{ '{contrast_stops}' }}, are filled with what was measured<BFormTextarea v-model="h.phrases" rows="4" dir="auto" :readonly="!leads" data-test="house-phrases" /></label>
    <p v-if="problem" role="alert" class="problem" data-test="house-problem">{{ problem }}</p>
    <p v-if="said" role="status" class="m-0" data-test="house-said">{{ said }}</p>
    <div v-if="leads"><BButton size="sm" variant="primary" data-test="house-save" @click="save">Keep the house rules</BButton></div>
  </section>
</template>

<style scoped>
.house {
  display: grid;
  gap: 0.6rem;
  max-width: 46rem;
  margin-top: 0.6rem;
}
.school {
  max-width: 20rem;
}
h2 {
  font-size: 1.05rem;
  margin: 0.5rem 0 0;
}
.num {
  width: 7rem;
}
.off {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.3rem;
}
.off li {
  display: flex;
  gap: 0.6rem;
  align-items: baseline;
}
</style>
