<script setup lang="ts">
// Sets that could have made the picture, what tells them apart, and why others lost.
import { computed, ref, watch } from 'vue'
import { api, data, wholeSet, type CandidatesView, type LightSet, type SeparatingTest } from '../api/client'
import TextField from '../shell/TextField.vue'
import { useVersioned } from '../shell/versioned'
import { messageOf } from '../shell/events'

const props = defineProps<{ caseId: string }>()
const emit = defineEmits<{ take: [set: LightSet] }>()
const of = ref<'mine' | 'household' | 'all'>('mine')
const view = ref<CandidatesView | null>(null)
const problem = ref('')
const busy = ref(false)
const { save } = useVersioned(view, problem)
const query = computed(() => ({ params: { path: { id: props.caseId }, query: { of: of.value } } }))

async function load() {
  busy.value = true
  try {
    view.value = await data(api.GET('/api/cases/{id}/candidates', query.value))
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  } finally {
    busy.value = false
  }
}
watch(() => [props.caseId, of.value], load, { immediate: true })
const list = computed(() => view.value?.candidates.list ?? [])
/** The test between the two best; others under it. */
const tests = computed(() => view.value?.candidates.tests ?? [])
const letter = (i: number) => 'ABCDE'[i] ?? '?'
async function outcome(id: string, text: string | null) {
  const value = text === null ? null : Number(text.replace(',', '.').replace('−', '-'))
  if (value !== null && (text?.trim() === '' || !Number.isFinite(value))) {
    problem.value = 'The outcome is a number, such as 1.4.'
    return
  }
  await save((now) => {
    const outcomes = { ...now.outcomes }
    if (value === null) delete outcomes[id]
    else outcomes[id] = value
    return api.PUT('/api/cases/{id}/outcomes', { ...query.value, body: { version: now.version, outcomes } })
  })
}
const figure = (t: SeparatingTest, k: 0 | 1) => (t.unit === 'stops' && t.sd[k] > 3 ? 'cannot be foretold' : `${Number(t.foretold[k].toFixed(1))} ± ${Number(t.sd[k].toFixed(1))} ${t.unit}`.replace('-', '−'))
const ids = computed(() => Object.entries(view.value?.outcomes ?? {}))
</script>

<template>
  <section class="ways" aria-label="Ways it could have been made">
    <div class="top">
      <h2 class="m-0">Ways to make it</h2>
      <BButtonGroup size="sm" aria-label="Made of">
        <BButton v-for="[k, t] in [['mine', 'my kit'], ['household', 'from home'], ['all', 'anything']] as const" :key="k" variant="secondary" :class="{ active: of === k }" :aria-pressed="of === k" :data-test="`of-${k}`" @click="of = k">{{ t }}</BButton>
      </BButtonGroup>
    </div>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <p v-if="busy && !view" class="quiet m-0" role="status">Trying constructions…</p>
    <p v-for="p in view?.candidates.problems ?? []" :key="p" class="problem">{{ p }}</p>
    <ol class="list">
      <li v-for="(c, i) in list" :key="c.id" class="sheet one" data-test="candidate">
        <div class="line">
          <span class="letter" aria-hidden="true">{{ letter(i) }}</span>
          <span class="share" :style="{ '--p': c.probability }" :title="`${Math.round(100 * c.probability)} %`"><span class="figure">{{ Math.round(100 * c.probability) }} %</span></span>
          <BButton size="sm" variant="primary" :data-test="`take-${i}`" :aria-label="`Put on stage: ${letter(i)}`" @click="emit('take', wholeSet(c.set))">Put on stage</BButton>
        </div>
        <ul class="lights"><li v-for="l in c.lights" :key="l">{{ l }}</li></ul>
        <p v-for="a in c.against" :key="a" class="quiet small m-0">Against: {{ a }}.</p>
        <p v-for="m in c.missing" :key="m" class="small m-0">Missing: {{ m }}.</p>
        <details class="small">
          <summary>Against the readings</summary>
          <BTableSimple class="figure" small><tbody>
            <tr v-for="f in c.fits" :key="f.what"><th scope="row">{{ f.what }}</th><td>{{ f.unit.startsWith('°') && f.what.includes('direction') ? '' : `read ${f.read} ${f.unit}` }}</td><td>{{ f.gives }} {{ f.unit }}</td><td>{{ Math.abs(f.off_sd).toFixed(1) }} sd</td></tr>
          </tbody></BTableSimple>
        </details>
      </li>
    </ol>
    <section v-if="tests.length || ids.length" class="sheet tests" aria-label="What tells them apart">
      <h3>What tells them apart</h3>
      <div v-for="t in tests.slice(0, 3)" :key="`${t.id}${t.between}`" class="test" data-test="separating-test">
        <p class="m-0"><strong>{{ t.between.map(letter).join(' or ') }}:</strong> {{ t.instruction }}</p>
        <p class="m-0 figure">{{ letter(t.between[0] ?? 0) }} {{ figure(t, 0) }} · {{ letter(t.between[1] ?? 1) }} {{ figure(t, 1) }}
          <label class="got">read <TextField value="" inputmode="decimal" :aria-label="`Outcome: ${t.instruction}`" :data-test="`outcome-${t.id}`" @change="outcome(t.id, $event)" /></label></p>
      </div>
      <p v-for="[id, v] in ids" :key="id" class="m-0 small figure">Test {{ id.replace(':', ', ') }}: {{ v }} <BButton size="sm" variant="secondary" :aria-label="`Withdraw ${id}`" @click="outcome(id, null)">Withdraw</BButton></p>
    </section>
    <details v-if="view?.candidates.losers.length" class="small">
      <summary>Tried and set aside ({{ view.candidates.losers.length }})</summary>
      <ul class="lost"><li v-for="l in view.candidates.losers" :key="l.title"><strong>{{ l.title }}.</strong> {{ l.why }}</li></ul>
    </details>
  </section>
</template>

<style scoped>
.ways {
  display: grid;
  gap: 0.5rem;
}
.top {
  display: flex;
  justify-content: space-between;
  gap: 0.5rem;
  align-items: center;
}
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(17rem, 1fr));
  gap: 0.5rem;
}
.one {
  padding: 0.5rem 0.7rem;
  display: grid;
  gap: 0.25rem;
  align-content: start;
}
.line {
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
.letter {
  font-weight: 700;
  font-size: 1.2rem;
}
.share {
  flex: 1;
  background: linear-gradient(to right, var(--tick) calc(var(--p) * 100%), var(--band-2) 0);
  border-radius: 3px;
  padding: 0 0.4rem;
}
.share span {
  color: var(--light);
  text-shadow: 0 0 3px var(--dark);
}
.lights,
.lost {
  margin: 0;
  padding-left: 1.1rem;
}
.tests {
  padding: 0.5rem 0.7rem;
  display: grid;
  gap: 0.45rem;
}
h3 {
  font-size: 1rem;
  margin: 0;
}
.got {
  display: inline-flex;
  align-items: center;
  gap: 0.3rem;
  margin-left: 0.6rem;
}
.got input {
  width: 4.5rem;
}
th {
  font-weight: 400;
}
td {
  padding-left: 0.7rem;
}
summary {
  cursor: pointer;
}
</style>
