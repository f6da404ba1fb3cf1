<script setup lang="ts">
// What one owns to light with. Rebuild and Build use it; figures come with how they were measured.
import { computed, onMounted, ref } from 'vue'
import { api, data, type Kit, type KitView, type Lamp, type Substitute } from '../api/client'
import TextField from '../shell/TextField.vue'
import { read, show } from '../shell/units'
import { useVersioned } from '../shell/versioned'

const view = ref<KitView | null>(null)
const catalogue = ref<Kit | null>(null)
const problem = ref('')
const { state: saved, save } = useVersioned(view, problem)
onMounted(async () => {
  try {
    ;[view.value, catalogue.value] = await Promise.all([data(api.GET('/api/kit')), data(api.GET('/api/catalogue'))])
  } catch (e) {
    problem.value = (e as Error).message
  }
})
type Shelf = 'lamp' | 'modifier' | 'sheet' | 'board' | 'stand'
const SHELVES: [Shelf, string][] = [
  ['lamp', 'Lamps'],
  ['modifier', 'Modifiers'],
  ['sheet', 'Sheets of diffusion'],
  ['board', 'Boards'],
  ['stand', 'Stands'],
]
type Thing = { id: string; name: string; count?: number; household?: boolean }
const things = (k: Kit | null | undefined, s: Shelf) => ((k?.[s] ?? []) as Thing[])
async function put(kit: Kit) {
  if (view.value) await save(api.PUT('/api/kit', { body: { version: view.value.version, kit } }))
}
function edit(change: (k: Kit) => void) {
  const k = JSON.parse(JSON.stringify(view.value!.kit)) as Kit
  change(k)
  return put(k)
}
function add(s: Shelf, id: string) {
  const thing = things(catalogue.value, s).find((t) => t.id === id)
  if (!thing) return
  void edit((k) => {
    const list = (k[s] ??= []) as Thing[]
    const mine = list.find((t) => t.id === id)
    if (mine) mine.count = (mine.count ?? 1) + 1
    else list.push({ ...thing, count: 1 })
  })
}
// a row of one's own, and every figure of a row
type Field = { label: string; path: (string | number)[]; unit: string; choices?: string[] }
const open = ref('')
const SIZE: Field[] = [
  { label: 'Width, m', path: ['size_m', 0], unit: 'm' },
  { label: 'Height, m', path: ['size_m', 1], unit: 'm' },
]
const FIELDS: Record<Shelf, Field[]> = {
  lamp: [
    { label: 'Measured at, m', path: ['output', 'at_m'], unit: 'm' },
    { label: 'Beam, °', path: ['output', 'beam_deg'], unit: 'deg' },
    { label: 'Face, m', path: ['face_m'], unit: 'm' },
    { label: 'Colour, K', path: ['cct_k'], unit: 'number' },
    { label: 'Lowest power, stops', path: ['lowest_stops'], unit: 'stops' },
    { label: 'Spread, stops', path: ['spread_stops'], unit: 'stops' },
    { label: 'Power set as', path: ['control'], unit: '', choices: ['fraction', 'percent', 'stops', 'panel', 'joules', 'fixed'] },
  ],
  modifier: [...SIZE, { label: 'Used from, m', path: ['near_m'], unit: 'm' }, { label: 'to, m', path: ['far_m'], unit: 'm' }, { label: 'Lets out, share', path: ['share'], unit: 'number' }, { label: 'Beam, °', path: ['beam_deg'], unit: 'deg' }],
  sheet: [...SIZE, { label: 'Lets through, share', path: ['transmission'], unit: 'number' }, { label: 'Spread, stops', path: ['spread_stops'], unit: 'stops' }],
  board: [...SIZE, { label: 'Finish', path: ['finish'], unit: '', choices: ['white', 'silver', 'gold', 'black', 'mirror'] }],
  stand: [{ label: 'Lowest, m', path: ['lowest_m'], unit: 'm' }, { label: 'Highest, m', path: ['highest_m'], unit: 'm' }],
}
type Tree = Record<string | number, unknown>
const at = (t: Thing, path: (string | number)[]) => path.reduce<unknown>((v, k) => (v as Tree | undefined)?.[k], t)
function put1(s: Shelf, id: string, path: (string | number)[], v: unknown) {
  void edit((k) => {
    const t = things(k, s).find((x) => x.id === id) as unknown as Tree
    const inner = path.slice(0, -1).reduce<Tree>((o, key) => o[key] as Tree, t)
    inner[path.at(-1)!] = v
  })
}
function setField(s: Shelf, id: string, f: Field, text: string) {
  const v = f.choices ? text : text.trim() === '' ? null : read(text, f.unit)
  if (v === null && text.trim() !== '') problem.value = `${f.label}: a number is needed.`
  else put1(s, id, f.path, v)
}
const KINDS = [
  ['guide', 'flash, guide number'],
  ['joules', 'flash, joules'],
  ['lux', 'continuous, lux'],
  ['lumens', 'continuous, lumens'],
] as const
/** A row of one's own: starts as a plain thing of its kind. */
function own(s: Shelf, measured: string) {
  const like = things(catalogue.value, s).find((t) => s !== 'lamp' || (t as Lamp).output.measured === measured) ?? things(catalogue.value, s)[0]
  if (!like) return
  const n = 1 + things(view.value?.kit, s).filter((t) => t.id.startsWith('own-')).length
  const id = `own-${s}-${n}`
  void edit((k) => ((k[s] ??= []) as Thing[]).push({ ...like, id, name: `My ${s} ${n}`, count: 1, household: false }))
  open.value = `${s}:${id}`
}
const missing = (s: Shelf) => things(catalogue.value, s).filter((t) => !things(view.value?.kit, s).some((m) => m.id === t.id))
function lampText(l: Lamp) {
  const o = l.output
  const out = { lux: () => `${(o as { lux: number }).lux} lux at ${(o as { at_m: number }).at_m} m`, lumens: () => `${(o as { lumens: number }).lumens} lumens`, guide: () => `guide number ${(o as { guide_number_m: number }).guide_number_m} m`, joules: () => `${(o as { joules: number }).joules} J` }[o.measured]()
  return `${out} in ${o.beam_deg}°, ± ${l.spread_stops ?? 0.3} stops, ${l.cct_k} K`
}
function about(s: Shelf, t: Thing): string {
  const k = view.value!.kit
  const size = (v: number[] | undefined) => (v ? `${show(v[0]!, 'm')} × ${show(v[1]!, 'm')} m` : '')
  if (s === 'lamp') return lampText(k.lamp!.find((l) => l.id === t.id)!)
  if (s === 'modifier') {
    const m = k.modifier!.find((x) => x.id === t.id)!
    return `${size(m.size_m)}, lets out ${Math.round(100 * (m.share ?? 0.45))} %${m.beam_deg ? `, beam ${m.beam_deg}°` : ''}`
  }
  if (s === 'sheet') {
    const m = k.sheet!.find((x) => x.id === t.id)!
    return `${size(m.size_m)}, ${Math.round(100 * m.transmission)} % comes through, ± ${m.spread_stops ?? 0.3} stops`
  }
  if (s === 'board') {
    const m = k.board!.find((x) => x.id === t.id)!
    return `${size(m.size_m)}, ${m.finish}`
  }
  const m = k.stand!.find((x) => x.id === t.id)!
  return `${show(m.lowest_m, 'm')} to ${show(m.highest_m, 'm')} m${m.boom ? ', boom' : ''}`
}
function count(s: Shelf, id: string, text: string) {
  const n = Number(text)
  void edit((k) => {
    const list = (k[s] ?? []) as Thing[]
    list.find((t) => t.id === id)!.count = n
  })
}
const remove = (s: Shelf, id: string) =>
  edit((k) => {
    ;(k as Record<string, unknown>)[s] = things(k, s).filter((t) => t.id !== id)
  })
/** What is printed on a lamp: its own figure in place of the usual one. */
function output(id: string, text: string) {
  const v = Number(text.replace(',', '.'))
  void edit((k) => {
    const o = k.lamp!.find((l) => l.id === id)!.output
    if (o.measured === 'lux') o.lux = v
    else if (o.measured === 'lumens') o.lumens = v
    else if (o.measured === 'guide') o.guide_number_m = v
    else o.joules = v
  })
}
const outputOf = (id: string) => {
  const o = view.value!.kit.lamp!.find((l) => l.id === id)!.output
  return o.measured === 'lux' ? o.lux : o.measured === 'lumens' ? o.lumens : o.measured === 'guide' ? o.guide_number_m : o.joules
}
async function takeTable(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file || !view.value) return
  await save(api.PUT('/api/kit/table', { body: { version: view.value.version, csv: await file.text() } }))
  input.value = ''
}
// substitutes
const wanted = ref('octagon-100')
const far = ref(1.4)
const found = ref<Substitute[] | null>(null)
async function substitutes() {
  try {
    found.value = await data(api.POST('/api/kit/substitutes', { body: { modifier: wanted.value, distance_m: far.value } }))
    problem.value = ''
  } catch (e) {
    problem.value = (e as Error).message
  }
}
function setFar(text: string) {
  const v = read(text, 'm')
  if (v) far.value = v
}
const text = (e: Event) => (e.target as HTMLSelectElement).value
const all = computed(() => catalogue.value?.modifier ?? [])
</script>

<template>
  <main class="kit">
    <div class="head">
      <h1>Kit</h1>
      <span class="quiet" role="status" data-test="kit-saved">{{ view ? saved : 'Opening…' }}</span>
      <a class="btn btn-sm btn-secondary" href="/api/kit/table" download="kit.csv">Save as a table (CSV)</a>
      <label class="btn btn-sm btn-secondary m-0">Take a table<input type="file" accept=".csv,text/csv" class="visually-hidden" data-test="kit-table" @change="takeTable" /></label>
    </div>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <p class="quiet">Rebuild makes sets of this, Build sets the power of these lamps. Outputs are usual ones of their kind: put in what is printed on yours, or what you metered.</p>
    <div v-if="view" class="shelves">
      <section v-for="[s, title] in SHELVES" :key="s" class="sheet" :aria-label="title">
        <h2>{{ title }}</h2>
        <p v-if="!things(view.kit, s).length" class="quiet">None.</p>
        <ul>
          <li v-for="t in things(view.kit, s)" :key="t.id">
            <TextField class="count" inputmode="numeric" :value="t.count ?? 1" :aria-label="`How many: ${t.name}`" @change="count(s, t.id, $event)" />
            <span class="name">{{ t.name }}<br /><span class="quiet small">{{ about(s, t) }}</span></span>
            <TextField v-if="s === 'lamp'" class="out" inputmode="decimal" :value="outputOf(t.id)" :aria-label="`Output of ${t.name}`" @change="output(t.id, $event)" />
            <BButton size="sm" variant="secondary" :aria-label="`Figures of ${t.name}`" :aria-expanded="open === `${s}:${t.id}`" :data-test="`figures-${t.id}`" @click="open = open === `${s}:${t.id}` ? '' : `${s}:${t.id}`">…</BButton>
            <BButton size="sm" variant="secondary" :aria-label="`Remove ${t.name}`" @click="remove(s, t.id)">×</BButton>
            <div v-if="open === `${s}:${t.id}`" class="figures">
              <label class="long">Name<TextField :value="t.name" :data-test="`name-${t.id}`" @change="put1(s, t.id, ['name'], $event)" /></label>
              <label v-for="f in FIELDS[s].filter((x) => x.path[0] !== 'output' || at(t, x.path) !== undefined)" :key="f.label">{{ f.label }}
                <select v-if="f.choices" class="form-select form-select-sm" :value="at(t, f.path)" @change="setField(s, t.id, f, text($event))"><option v-for="c in f.choices" :key="c">{{ c }}</option></select>
                <TextField v-else inputmode="decimal" :value="(at(t, f.path) as number | null) ?? ''" :data-test="`${f.path.join('-')}-${t.id}`" @change="setField(s, t.id, f, $event)" />
              </label>
            </div>
          </li>
        </ul>
        <select v-if="missing(s).length" class="form-select form-select-sm" :aria-label="`Add to ${title}`" :data-test="`add-${s}`" value="" @change="add(s, text($event))">
          <option value="">Add…</option>
          <option v-for="t in missing(s)" :key="t.id" :value="t.id">{{ t.name }}{{ t.household ? ' (household)' : '' }}</option>
        </select>
        <div class="owns">
          <template v-if="s === 'lamp'"><BButton v-for="[k, t] in KINDS" :key="k" size="sm" variant="secondary" :data-test="`own-${k}`" @click="own(s, k)">Own {{ t }}</BButton></template>
          <BButton v-else size="sm" variant="secondary" :data-test="`own-${s}`" @click="own(s, '')">One of my own</BButton>
        </div>
      </section>
      <section class="sheet" aria-label="Room">
        <h2>Room</h2>
        <label>Ceiling above the floor, m<TextField inputmode="decimal" :value="view.kit.ceiling_m ?? ''" data-test="ceiling" @change="edit((k) => (k.ceiling_m = read($event, 'm')))" /></label>
      </section>
      <section class="sheet" aria-label="What does instead">
        <h2>What does instead</h2>
        <div class="ask">
          <select v-model="wanted" class="form-select form-select-sm" aria-label="Modifier wanted">
            <option v-for="m in all" :key="m.id" :value="m.id">{{ m.name }}</option>
          </select>
          <span>at</span>
          <TextField class="out" :value="far" aria-label="Distance in metres" @change="setFar" /><span>m</span>
          <BButton size="sm" variant="primary" data-test="substitutes" @click="substitutes">Find</BButton>
        </div>
        <ol v-if="found" class="subs">
          <li v-for="f in found.filter((x) => x.usable)" :key="f.id" data-test="substitute">{{ f.says }}</li>
          <li v-if="!found.some((x) => x.usable)" class="quiet">Nothing in the kit fills that angle at a distance it is used at. Nearest: {{ found[0]?.says }}</li>
        </ol>
        <p class="quiet small m-0">By the angle it fills, the light it lets out of the same lamp (± 0.35 stops) and what it spills: not by name.</p>
      </section>
    </div>
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
  border-bottom: 1px solid #5c5c5c;
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
