<script setup lang="ts">
// The bench: every figure can be typed, any one that takes part in the relation is solved for.
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data, wholeKit, type Field, type Kit } from '../api/client'
import { full, read, show, word } from '../shell/units'
import TextField from '../shell/TextField.vue'
import BenchCurve from './BenchCurve.vue'
import { useBench } from './bench'
import PickOne from '../shell/PickOne.vue'

const bench = useBench()
const router = useRouter()
const route = useRoute()
function putBack() {
  const id = bench.giveBack()
  if (id) void router.push({ name: 'rebuild', params: { caseId: id } })
}
const kit = ref<Kit | null>(null)
const lamp = ref('')
const modifier = ref('')
onMounted(async () => {
  await bench.load()
  // a finding names the sum that works it out
  const asked = bench.sums.find((s) => s.id === route.query.sum)
  if (asked) bench.chosen = asked.id
  try {
    kit.value = wholeKit((await data(api.GET('/api/kit'))).kit)
  } catch {
    // the bench works without a kit
  }
})
const solved = computed(() => bench.solve[bench.chosen] ?? null)
const value = (f: Field) => bench.answer?.values[f.id] ?? bench.values[f.id] ?? f.usual
const flash = computed(() => (bench.values.flash ?? 0) > 0.5)
/** Figures that say nothing as the choices stand are left out. */
const fields = computed(() =>
  (bench.sum?.field ?? []).filter((f) => {
    const v = (id: string) => bench.values[id] ?? bench.sum?.field.find((x) => x.id === id)?.usual ?? 0
    if (bench.chosen !== 'path') return true
    if (f.id === 'lux_1m') return !flash.value
    if (f.id === 'guide_m' || f.id === 'sync_s') return flash.value
    if (f.id === 'share') return v('modifier') > 0.5
    if (f.id === 'dish_beam_deg') return v('modifier') > 1.5
    if (['gap_m', 'sheet_w_m', 'sheet_h_m', 'transmission'].includes(f.id)) return v('sheet') > 0.5
    return true
  }),
)
function put(f: Field, text: string) {
  if (f.unit === 'power') return void bench.putPower(f.id, text)
  const v = read(text, f.unit)
  if (v === null) bench.problem = `${f.name}: "${text}" is not a number. Write 1/125, 5.6, 90 cm, 3 ft 6.`
  else bench.put(f.id, v)
}
const results = computed(() => bench.answer?.results ?? [])
/** A lamp of the kit puts its figures on the bench. */
function takeLamp(id: string) {
  const l = kit.value?.lamp.find((x) => x.id === id)
  lamp.value = id
  if (!l) return
  const o = l.output
  const next: Record<string, number> = { ...bench.values, beam_deg: o.beam_deg, lamp_m: l.face_m }
  if (o.measured === 'lux') Object.assign(next, { flash: 0, lux_1m: o.lux * o.at_m * o.at_m })
  if (o.measured === 'guide') Object.assign(next, { flash: 1, guide_m: o.guide_number_m })
  bench.values = next
  void bench.ask()
}
function takeModifier(id: string) {
  const m = kit.value?.modifier.find((x) => x.id === id)
  modifier.value = id
  if (!m) return
  const dish = m.throws === 'dish'
  bench.values = { ...bench.values, modifier: dish ? 2 : 1, face_w_m: m.size_m[0], face_h_m: m.size_m[1], share: m.share ?? 0.45, ...(dish ? { dish_beam_deg: m.beam_deg ?? 75 } : {}) }
  void bench.ask()
}
</script>

<template>
  <main class="bench">
    <nav class="sums" aria-label="Sums">
      <h1>Bench</h1>
      <BButton v-for="s in bench.sums" :key="s.id" variant="secondary" :class="{ active: s.id === bench.chosen }" :aria-pressed="s.id === bench.chosen" :data-test="`sum-${s.id}`" @click="bench.chosen = s.id">{{ s.name }}</BButton>
      <p class="quiet small">A figure that stands on several sums is the same figure. Lengths take cm, feet and inches; shutter and power take fractions.</p>
    </nav>
    <section v-if="bench.sum" class="figures" :aria-label="bench.sum.name">
      <h2>{{ bench.sum.name }}</h2>
      <p class="quiet">{{ bench.sum.about }}</p>
      <p v-if="bench.from" class="from">Figures of the {{ bench.from.name }} of a set. <BButton size="sm" variant="primary" data-test="put-back" @click="putBack">Put distance, face and exposure back</BButton></p>
      <div v-if="bench.chosen === 'path' && kit" class="take">
        <PickOne :value="lamp" none="A lamp of my kit…" :options="kit.lamp.filter((x) => x.output.measured === 'lux' || x.output.measured === 'guide').map((l) => ({ value: l.id, text: l.name }))" aria-label="Lamp of my kit" @pick="takeLamp" />
        <PickOne :value="modifier" none="A modifier of my kit…" :options="kit.modifier.filter((x) => !x.alone).map((m) => ({ value: m.id, text: m.name }))" aria-label="Modifier of my kit" @pick="takeModifier" />
      </div>
      <BTableSimple class="rows" small>
        <thead>
          <tr><th scope="col">Figure</th><th scope="col">Value</th><th scope="col">Solve for</th></tr>
        </thead>
        <tbody>
          <tr v-for="f in fields" :key="f.id" :class="{ solved: solved === f.id }">
            <th scope="row"><label :for="`f-${f.id}`">{{ f.name }}</label></th>
            <td>
              <PickOne v-if="f.choices?.length" :id="`f-${f.id}`" :value="String(value(f))" :options="f.choices.map((text, i) => ({ value: String(i), text }))" :data-test="`f-${f.id}`" @pick="(v) => bench.put(f.id, Number(v))" />
              <output v-else-if="solved === f.id" :id="`f-${f.id}`" class="figure answer" :data-test="`f-${f.id}`">{{ full(value(f), f.unit) }}<span v-if="bench.answer?.solved_sd" class="quiet"> ± {{ show(bench.answer.solved_sd, f.unit === 's' ? 'number' : f.unit) }}</span></output>
              <span v-else class="with">
                <TextField :id="`f-${f.id}`" :value="show(value(f), f.unit)" inputmode="text" :data-test="`f-${f.id}`" @change="put(f, $event)" />
                <span class="quiet">{{ f.unit === 'f' ? '' : word(f.unit) }}</span>
              </span>
            </td>
            <td>
              <BFormRadio v-if="f.solve" :model-value="solved ?? ''" :value="f.id" name="solve" :aria-label="`Solve for ${f.name}`" :data-test="`solve-${f.id}`" @update:model-value="bench.solveFor(f.id)" />
            </td>
          </tr>
          <tr>
            <th scope="row" class="quiet">Solve for none: every figure as typed</th>
            <td></td>
            <td><BFormRadio :model-value="solved ?? ''" value="" name="solve" aria-label="Solve for none" data-test="solve-none" @update:model-value="bench.solveFor(null)" /></td>
          </tr>
        </tbody>
      </BTableSimple>
    </section>
    <section v-if="bench.sum" class="answers" aria-label="What follows" aria-live="polite">
      <p v-if="bench.problem" role="alert" class="problem">{{ bench.problem }}</p>
      <template v-if="bench.answer">
        <p v-for="p in bench.answer.problems" :key="p" class="problem" data-test="bench-problem">{{ p }}</p>
        <p v-for="s in bench.answer.says" :key="s" class="says">{{ s }}</p>
        <BTableSimple class="results" small>
          <tbody>
            <tr v-for="r in results" :key="r.name">
              <th scope="row">{{ r.name }}</th>
              <td class="figure" data-test="result">{{ full(r.value, r.unit) }}</td>
              <td class="figure quiet">{{ r.sd > 1e-6 * Math.abs(r.value) && show(r.sd, r.unit) !== '0' && Number(show(r.sd, r.unit)) !== 0 ? `± ${show(r.sd, r.unit === 's' ? 'number' : r.unit)}` : '' }}</td>
            </tr>
          </tbody>
        </BTableSimple>
        <BenchCurve v-for="c in bench.answer.curves" :key="c.up" :curve="c" />
        <details>
          <summary>The working</summary>
          <p class="formula">{{ bench.sum.formula }}</p>
          <ul class="figure"><li v-for="w in bench.answer.working" :key="w">{{ w }}</li></ul>
        </details>
      </template>
    </section>
    <p v-else-if="bench.problem" role="alert" class="problem">{{ bench.problem }}</p>
  </main>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 14rem minmax(20rem, 28rem) minmax(0, 1fr);
  gap: 1.1rem;
  padding: 0.8rem 1rem;
  align-items: start;
}
.sums {
  display: grid;
  gap: 0.25rem;
}
.sums button {
  text-align: left;
}
.take {
  display: flex;
  gap: 0.5rem;
  margin-bottom: 0.5rem;
}
.rows,
.results {
  width: 100%;
  border-collapse: collapse;
}
.rows th,
.results th {
  font-weight: 400;
  padding: 0.14rem 0.6rem 0.14rem 0;
}
.rows thead th {
  font-size: 0.85rem;
  color: var(--ink-2);
}
.rows td:nth-child(2) {
  width: 9.5rem;
}
.rows td:last-child {
  text-align: center;
  width: 4.5rem;
}
.with {
  display: grid;
  grid-template-columns: 1fr 2.6rem;
  gap: 0.35rem;
  align-items: center;
}
.solved {
  background: var(--sheet);
}
.answer {
  font-weight: 700;
  font-size: 1.1rem;
  padding-left: 0.5rem;
}
.answers {
  display: grid;
  gap: 0.6rem;
}
.says {
  margin: 0;
  font-size: 1.05rem;
}
.results td:nth-child(2) {
  text-align: right;
  font-weight: 600;
  white-space: nowrap;
}
.results td:last-child {
  padding-left: 0.6rem;
  white-space: nowrap;
}
summary {
  cursor: pointer;
}
.formula {
  margin: 0.4rem 0;
}
@media (max-width: 1000px) {
  .bench {
    grid-template-columns: minmax(0, 1fr);
  }
  .sums {
    grid-template-columns: 1fr 1fr;
  }
  .sums h1,
  .sums p {
    grid-column: 1 / -1;
  }
}
</style>
