<script setup lang="ts">
// What one owns to light with. Rebuild and Build use it; figures come with how they were measured.
import { computed, onMounted, ref } from 'vue'
import { api, data, wholeKit, type Kit, type KitView, type Lamp, type Substitute } from '../api/client'
import MeterLamp from './MeterLamp.vue'
import NumberField from '../shell/NumberField.vue'
import PickFiles from '../shell/PickFiles.vue'
import PickOne from '../shell/PickOne.vue'
import TextField from '../shell/TextField.vue'
import { addOwn, addTo, missing, NOTATIONS, outputOf, putOutput, SHELVES, type Owned, type Shelf } from './shelves'
import { useVersioned } from '../shell/versioned'
import { messageOf } from '../shell/events'
import { copy } from '../shell/copy'

const view = ref<KitView | null>(null)
const kit = computed(() => (view.value ? wholeKit(view.value.kit) : null))
const catalogue = ref<Kit | null>(null)
const problem = ref('')
const { state: saved, save } = useVersioned(view, problem)
onMounted(async () => {
  try {
    const [mine, all] = await Promise.all([data(api.GET('/api/kit')), data(api.GET('/api/catalogue'))])
    view.value = mine
    catalogue.value = wholeKit(all)
  } catch (e) {
    problem.value = messageOf(e)
  }
})
async function edit(change: (k: Kit) => void) {
  await save(({ version, kit }) => {
    const mine = copy(wholeKit(kit))
    change(mine)
    return api.PUT('/api/kit', { body: { version, kit: mine } })
  })
}
/** Changes one thing on a shelf. */
const change = (s: Shelf<Owned>, id: string, how: (t: Owned) => void) =>
  void edit((k) => {
    const t = s.list(k).find((x) => x.id === id)
    if (t) how(t)
  })
const metering = ref<string | null>(null)
/** Puts a lamp in place of the one with its id. */
function keepMetered(lamp: Lamp) {
  metering.value = null
  void edit((k) => (k.lamp = k.lamp.map((l) => (l.id === lamp.id ? { ...lamp, count: l.count } : l))))
}
const open = ref('')
function add(s: Shelf<Owned>, id: string) {
  const thing = catalogue.value && s.list(catalogue.value).find((t) => t.id === id)
  if (thing) void edit((k) => addTo(s, k, thing))
}
function own(s: Shelf<Owned>, measured?: string) {
  const all = catalogue.value ? s.list(catalogue.value) : []
  const like = (measured ? catalogue.value?.lamp.find((l) => l.output.measured === measured) : undefined) ?? all[0]
  if (like) void edit((k) => (open.value = `${s.name}:${addOwn(s, k, like)}`))
}
const lampOf = (id: string) => kit.value?.lamp.find((l) => l.id === id)
const meteredLamp = computed(() => (metering.value ? lampOf(metering.value) : null))
const printed = (id: string) => {
  const l = lampOf(id)
  return l ? outputOf(l) : null
}
/** What is printed on a lamp: its own figure in place of the usual one. */
const output = (id: string, v: number | null) =>
  void edit((k) => {
    const l = k.lamp.find((x) => x.id === id)
    if (l && v) putOutput(l, v)
  })
async function takeTable([file]: File[]) {
  const csv = await file?.text()
  if (csv !== undefined) await save(({ version }) => api.PUT('/api/kit/table', { body: { version, csv } }))
}
const shelfItems = (s: Shelf<Owned>) => (kit.value && catalogue.value ? missing(s, kit.value, catalogue.value) : []).map((t) => ({ value: t.id, text: `${t.name}${t.household ? ' (household)' : ''}` }))
// substitutes
const wanted = ref('octagon-100')
const far = ref(1.4)
const found = ref<Substitute[] | null>(null)
async function substitutes() {
  try {
    found.value = await data(api.POST('/api/kit/substitutes', { body: { modifier: wanted.value, distance_m: far.value } }))
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
}
const all = computed(() => (catalogue.value?.modifier ?? []).map((m) => ({ value: m.id, text: m.name })))
</script>

<template>
  <main class="kit">
    <div class="head">
      <h1>Kit</h1>
      <span class="quiet" role="status" data-test="kit-saved">{{ view ? saved : 'Opening…' }}</span>
      <BButton size="sm" variant="secondary" href="/api/kit/table" download="kit.csv">Save as a table (CSV)</BButton>
      <PickFiles label="Take a table" accept=".csv,text/csv" data-test="kit-table" @files="takeTable" />
    </div>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <p class="quiet">Rebuild makes sets of this, Build sets the power of these lamps. Outputs are usual ones of their kind: put in what is printed on yours, or what you metered.</p>
    <div v-if="!kit && !problem" class="shelves" aria-hidden="true">
      <BPlaceholderCard v-for="i in 4" :key="i" no-img no-button />
    </div>
    <div v-if="kit" class="shelves">
      <section v-for="s in SHELVES" :key="s.name" class="sheet" :aria-label="s.title">
        <h2>{{ s.title }}</h2>
        <p v-if="!s.list(kit).length" class="quiet">None.</p>
        <ul>
          <li v-for="t in s.list(kit)" :key="t.id">
            <NumberField class="count" hidden-label :label="`How many: ${t.name}`" :value="t.count ?? 1" :least="0" :most="999" @change="(n) => n !== null && change(s, t.id, (x) => (x.count = n))" />
            <span class="name">{{ t.name }}<br /><span class="quiet small">{{ s.about(t) }}</span></span>
            <NumberField v-if="s.name === 'lamp'" class="out" hidden-label :label="`Output of ${t.name}`" :value="printed(t.id)" :least="0" @change="output(t.id, $event)" />
            <BButton size="sm" variant="secondary" :aria-label="`Figures of ${t.name}`" :aria-expanded="open === `${s.name}:${t.id}`" :data-test="`figures-${t.id}`" @click="open = open === `${s.name}:${t.id}` ? '' : `${s.name}:${t.id}`">…</BButton>
            <BButton size="sm" variant="secondary" :aria-label="`Remove ${t.name}`" @click="edit((k) => s.put(k, s.list(k).filter((x) => x.id !== t.id)))">×</BButton>
            <div v-if="open === `${s.name}:${t.id}`" class="figures">
              <label class="long">Name<TextField :value="t.name" :data-test="`name-${t.id}`" @change="(name) => change(s, t.id, (x) => (x.name = name))" /></label>
              <template v-for="f in s.fields.filter((x) => !x.has || x.has(t))" :key="f.label">
                <label v-if="'words' in f">{{ f.label }} <PickOne :value="f.of(t)" :options="f.words" @pick="(w) => change(s, t.id, (x) => f.pick(x, w))" /></label>
                <NumberField v-else :label="f.label" :value="f.of(t)" :data-test="`${f.name}-${t.id}`" @change="(v) => change(s, t.id, (x) => (v === null ? f.clear?.(x) : f.put(x, v)))" />
              </template>
              <BButton v-if="s.name === 'lamp'" size="sm" variant="secondary" class="align-self-end" :data-test="`meter-${t.id}`" @click="metering = t.id">Meter it…</BButton>
            </div>
          </li>
        </ul>
        <PickOne v-if="shelfItems(s).length" :aria-label="`Add to ${s.title}`" :data-test="`add-${s.name}`" value="" none="Add…" :options="shelfItems(s)" @pick="add(s, $event)" />
        <div class="owns">
          <template v-if="s.name === 'lamp'"><BButton v-for="n in NOTATIONS" :key="n.measured" size="sm" variant="secondary" :data-test="`own-${n.measured}`" @click="own(s, n.measured)">Own {{ n.text }}</BButton></template>
          <BButton v-else size="sm" variant="secondary" :data-test="`own-${s.name}`" @click="own(s)">One of my own</BButton>
        </div>
      </section>
      <section class="sheet" aria-label="Room">
        <h2>Room</h2>
        <NumberField label="Ceiling above the floor, m" :value="kit.ceiling_m" :least="1" :most="50" data-test="ceiling" @change="(v) => edit((k) => (k.ceiling_m = v))" />
        <NumberField label="Mains, V" :value="kit.circuit.volts" :least="12" :most="480" data-test="volts" @change="(v) => v && edit((k) => (k.circuit.volts = v))" />
        <NumberField label="One circuit carries, A" :value="kit.circuit.amperes" :least="1" :most="400" data-test="amperes" @change="(v) => v && edit((k) => (k.circuit.amperes = v))" />
        <p class="quiet small m-0">What is printed on its fuse or breaker. Local codes and a qualified electrician go before any sum made here.</p>
      </section>
      <section class="sheet" aria-label="What does instead">
        <h2>What does instead</h2>
        <div class="ask">
          <PickOne :value="wanted" :options="all" aria-label="Modifier wanted" @pick="wanted = $event" />
          <span>at</span>
          <NumberField class="out" hidden-label label="Distance in metres" :value="far" :least="0.1" :most="50" @change="(v) => v && (far = v)" /><span>m</span>
          <BButton size="sm" variant="primary" data-test="substitutes" @click="substitutes">Find</BButton>
        </div>
        <ol v-if="found" class="subs">
          <li v-for="f in found.filter((x) => x.usable)" :key="f.id" data-test="substitute">{{ f.says }}</li>
          <li v-if="!found.some((x) => x.usable)" class="quiet">Nothing in the kit fills that angle at a distance it is used at. Nearest: {{ found[0]?.says }}</li>
        </ol>
        <p class="quiet small m-0">By the angle it fills, the light it lets out of the same lamp (± 0.35 stops) and what it spills: not by name.</p>
      </section>
    </div>
    <MeterLamp v-if="meteredLamp" :lamp="meteredLamp" @keep="keepMetered" @close="metering = null" />
  </main>
</template>

<style scoped>
.kit {
  padding: 0.8rem 1rem;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 0.8rem;
  align-items: center;
}
.head h1 {
  margin: 0 auto 0 0;
}
.shelves {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(22rem, 1fr));
  gap: 0.8rem;
  align-items: start;
}
.sheet {
  padding: 0.7rem 0.8rem;
}
ul,
ol {
  list-style: none;
  padding: 0;
  margin: 0 0 0.5rem;
}
.subs {
  list-style: decimal;
  padding-left: 1.2rem;
}
.figures {
  flex-basis: 100%;
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 0.35rem 0.6rem;
  padding: 0.3rem 0 0.5rem 1rem;
  font-size: 0.88rem;
}
.figures .long {
  grid-column: 1 / -1;
}
.owns {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  margin-top: 0.4rem;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: center;
  padding: 0.2rem 0;
  border-bottom: 1px solid var(--raised);
}
.subs li {
  display: list-item;
}
.name {
  flex: 1;
  min-width: 0;
}
.count {
  width: 3rem;
}
.out {
  width: 5rem;
}
.ask {
  display: flex;
  gap: 0.4rem;
  align-items: center;
  margin-bottom: 0.5rem;
}
</style>
