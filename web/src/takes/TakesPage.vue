<script setup lang="ts">
// A take against the reference: both pictures, what surely differs, the one change to make next, and the chain of
// takes it led to.
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { api, data, pictureUrl, upload, type AlignmentView, type ChainView, type ComparisonView, type FrameView, type LedgerLine, type LinkEdit, type NextView, type TakeView } from '../api/client'
import { useCase } from '../cases/case'
import { PICTURES } from '../shell/pictures'
import { difference, inFeet } from '../shell/units'
import HaloPicture from '../halo/HaloPicture.vue'
import AcceptTake from './AcceptTake.vue'
import DifferenceMap from './DifferenceMap.vue'
import PicturePair from './PicturePair.vue'
import TakeChain from './TakeChain.vue'
import { isTyping, messageOf } from '../shell/events'
import TermHint from '../shell/TermHint.vue'
import PickFiles from '../shell/PickFiles.vue'

const current = useCase()
const caseId = computed(() => current.id)
const path = computed(() => ({ params: { path: { id: caseId.value } } }))
const chain = ref<ChainView | null>(null)
const chosen = ref<string | null>(null)
const view = ref<ComparisonView | null>(null)
const next = ref<NextView | null>(null)
const lies = ref<AlignmentView | null>(null)
const problem = ref('')
const busy = ref('')
const said = ref('')
const slant = ref('')
const folder = ref<string | null>(null)
const refused = ref<string[]>([])
type Mode = 'beside' | 'wipe' | 'map' | 'halo'
const MODES: [Mode, string][] = [['beside', 'side by side'], ['wipe', 'wipe'], ['map', 'difference'], ['halo', 'both halos']]
const mode = ref<Mode>('beside')
const swapped = ref(false)
const accepting = ref(false)

const here = computed(() => (chosen.value ? { params: { path: { id: chosen.value } } } : null))
const take = computed<TakeView | null>(() => chain.value?.takes.find((t) => t.frame === chosen.value) ?? null)
const frame = computed<FrameView | null>(() => current.view?.frames.find((f) => f.id === chosen.value) ?? null)

async function loadChain() {
  chain.value = await data(api.GET('/api/cases/{id}/takes', { params: { path: { id: caseId.value }, query: { slant: slant.value || undefined, feet: inFeet() } } }))
  if (!chain.value.takes.some((t) => t.frame === chosen.value)) chosen.value = chain.value.tip ?? ready().at(-1)?.frame ?? chain.value.takes.at(-1)?.frame ?? null
}
/** Takes that are in the chain: one that is just coming in is not read yet. */
const ready = () => (chain.value?.takes ?? []).filter((t) => t.version > 0)
/** Tries something; what goes wrong is told. */
async function attempt(word: string, what: () => Promise<void>) {
  busy.value = word
  try {
    await what()
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  } finally {
    busy.value = ''
  }
}
let latest = 0
/** Compares the chosen take; an answer that comes after another was asked for is dropped. */
async function compare() {
  const mine = ++latest
  view.value = null
  next.value = null
  lies.value = null
  accepting.value = false
  const id = chosen.value
  if (!id) return
  const at = { params: { path: { id } } }
  try {
    await current.flush()
    const seen = await data(api.GET('/api/frames/{id}/compare', at))
    const moves = await data(api.GET('/api/frames/{id}/next', { params: { path: { id }, query: { feet: inFeet() } } }))
    if (mine !== latest) return
    view.value = seen
    next.value = moves
    problem.value = ''
    const where = await data(api.GET('/api/frames/{id}/alignment', at))
    if (mine === latest) lies.value = where
  } catch (e) {
    if (mine === latest) problem.value = messageOf(e)
  }
}
watch([chosen, () => (take.value?.version ?? 0) > 0], compare)

function add(files: File[]) {
  return attempt('Sending…', async () => {
    let last = ''
    for (const [i, file] of files.entries()) {
      busy.value = `Sending ${i + 1} of ${files.length}…`
      const f = await upload(caseId.value, file, () => {}, { role: 'take' })
      said.value = (await data(api.POST('/api/frames/{id}/take-up', { params: { path: { id: f.id } } }))).says
      last = f.id
    }
    await current.show()
    await loadChain()
    if (last) chosen.value = last
  })
}
/** A picture that is in the case but not in the chain yet. */
const takeUp = () =>
  attempt('Taking it up…', async () => {
    if (!here.value) return
    said.value = (await data(api.POST('/api/frames/{id}/take-up', here.value))).says
    await loadChain()
    await compare()
  })
const recarry = () =>
  attempt('Laying the marks over…', async () => {
    if (!here.value) return
    said.value = (await data(api.POST('/api/frames/{id}/carry-over', here.value))).says
    await compare()
    await loadChain()
  })
const make = (id: string) =>
  attempt('Changing the set…', async () => {
    if (!here.value) return
    await data(api.POST('/api/frames/{id}/make', { ...here.value, body: { id } }))
    said.value = 'The set has it. Change the real one, then take the next picture.'
    await loadChain()
  })
const goOn = (t: TakeView) =>
  attempt('Going back…', async () => {
    await data(api.POST('/api/frames/{id}/go-on', { params: { path: { id: t.frame } } }))
    said.value = `The set is as it was for take ${t.number}; the next take follows it.`
    await loadChain()
  })
/** Edits follow one another, each on the version the one before made. */
let edits: Promise<void> = Promise.resolve()
function edit(t: TakeView, e: Omit<LinkEdit, 'version'>) {
  edits = edits.then(() =>
    attempt('Saving…', async () => {
      const now = chain.value?.takes.find((x) => x.frame === t.frame) ?? t
      try {
        await data(api.PUT('/api/frames/{id}/link', { params: { path: { id: t.frame } }, body: { version: now.version, ...e } }))
        if (e.kept === 'undone') said.value = `Taken back: the set is as it was for take ${t.follows}.`
      } finally {
        await loadChain()
      }
    }),
  )
}
const shoot = () =>
  attempt('Taking a picture…', async () => {
    const before = ready().length
    const shot = await data(api.POST('/api/cases/{id}/shoot', path.value))
    said.value = shot.dropped ? `${shot.file_name} was put into the watched folder.` : `${shot.file_name} was taken.`
    for (let i = 0; i < 60 && ready().length <= before; i++) {
      await new Promise((done) => setTimeout(done, 500))
      await loadChain()
    }
    await current.show()
    if (ready().length > before) chosen.value = ready().at(-1)?.frame ?? chosen.value
  })
const find = () => attempt('Looking…', loadChain)

/** Pictures that come into the watched folder appear by themselves. */
let timer: ReturnType<typeof setInterval> | undefined
async function look() {
  if (busy.value || document.hidden || !folder.value) return
  try {
    await lookInFolder()
  } catch {
    // the next look tells
  }
}
/** Asks how many takes there are; the chain is loaded only if some came in. */
async function lookInFolder() {
  const w = await data(api.GET('/api/cases/{id}/folder', path.value))
  folder.value = w.folder ?? null
  refused.value = w.refused
  if (w.takes > ready().length) {
    const first = !chain.value
    await loadChain()
    await current.show()
    if (!first) said.value = 'A picture came into the watched folder.'
  }
}
function keyDown(e: KeyboardEvent) {
  if (!isTyping(e) && e.key.toLowerCase() === 'x') swapped.value = true
}
function keyUp(e: KeyboardEvent) {
  if (e.key.toLowerCase() === 'x') swapped.value = false
}
onMounted(async () => {
  window.addEventListener('keydown', keyDown)
  window.addEventListener('keyup', keyUp)
  await attempt('', async () => {
    await loadChain()
    await lookInFolder()
  })
  timer = setInterval(() => void look(), 4000)
})
onBeforeUnmount(() => {
  clearInterval(timer)
  window.removeEventListener('keydown', keyDown)
  window.removeEventListener('keyup', keyUp)
})

const c = computed(() => view.value?.comparison ?? null)
/** Exposure and white balance are what all lights have in common: named first and apart. */
const common = computed(() => {
  // the set's own first move says it in the camera's settings
  const said = next.value?.believed && next.value.moves[0]?.changes.some((x) => x.kind === 'exposure')
  return (c.value?.next_moves ?? []).filter((m) => (m.kind === 'exposure' && !said) || m.kind === 'white_balance')
})
const own = computed(() => (c.value?.next_moves ?? []).filter((m) => m.kind !== 'exposure' && m.kind !== 'white_balance'))
/** With a set: what to do to it; without: what the readings alone say. */
const moves = computed(() => (next.value?.believed ? next.value.moves : own.value))
const first = computed(() => moves.value[0])
const firstId = computed(() => (next.value?.believed ? next.value.moves[0]?.id : undefined))
/** A spread, by its unit. */
const spread = (l: LedgerLine) => `± ${l.sd.toFixed(l.unit === '°' || l.unit === 'mired' ? 0 : 2)}`
const halo = computed(() => {
  const ours: { role: string; azimuth_deg: number; elevation_deg: number; angular_size_deg: number | null; direction_sd_deg: number }[] = []
  const theirs: typeof ours = []
  const joins: { ours: number; theirs: number }[] = []
  for (const l of c.value?.lights ?? []) {
    const spot = (p: [number, number], size: number | null | undefined) => ({ role: l.role, azimuth_deg: p[0], elevation_deg: p[1], angular_size_deg: size ?? null, direction_sd_deg: l.direction_sd_deg })
    if (l.take_deg) ours.push(spot(l.take_deg, l.take_size_deg))
    if (l.reference_deg) theirs.push(spot(l.reference_deg, l.take_size_deg && l.d_angular_size_ratio ? l.take_size_deg / l.d_angular_size_ratio : null))
    if (l.take_deg && l.reference_deg) joins.push({ ours: ours.length - 1, theirs: theirs.length - 1 })
  }
  return { ours, theirs, joins }
})
const plain = (v: number, unit: string) => v.toFixed(unit === '°' || unit === '×' || unit === 'mired' ? 0 : 1).replace('-', '−')
</script>

<template>
  <div class="takes">
    <section class="left" aria-label="Reference and take">
      <div class="top">
        <h1 class="m-0">Takes</h1>
        <PickFiles label="Add takes" variant="primary" multiple :accept="PICTURES" data-test="add-takes" @files="add" />
        <BButton size="sm" variant="secondary" :disabled="!!busy" data-test="shoot" @click="shoot">Simulated camera</BButton>
        <BButtonGroup size="sm" aria-label="View">
          <BButton v-for="[m, t] in MODES" :key="m" variant="secondary" :class="{ active: mode === m }" :aria-pressed="mode === m" :data-test="`mode-${m}`" @click="mode = m">{{ t }}</BButton>
        </BButtonGroup>
      </div>
      <p class="m-0 state" role="status" data-test="takes-state"><span v-if="busy" class="quiet">{{ busy }}</span><span v-else-if="said" class="quiet">{{ said }}</span></p>
      <p v-if="problem" role="alert" class="problem m-0">{{ problem }}</p>
      <p v-for="r in refused" :key="r" class="problem m-0">{{ r }}</p>
      <div v-if="chain && !chain.takes.length" class="sheet empty">
        <p>No take yet. Add a test picture of your set: the reference's marks are laid over it by what both show, and what differs is told in stops and degrees.</p>
        <p v-if="folder" class="m-0">Pictures put into the folder <strong class="figure folder">{{ folder }}</strong> on the server come in by themselves; the simulated camera puts one there.</p>
      </div>
      <template v-else-if="frame && current.reference">
        <PicturePair v-if="mode === 'beside' || mode === 'wipe'" :reference="current.reference" :take="frame" :mode="mode" :swapped="swapped" :back="lies?.back ?? null" />
        <DifferenceMap v-else-if="mode === 'map'" :take="frame" :view="lies" />
        <div v-else class="halos">
          <HaloPicture :src="pictureUrl(frame.id, 'view')" :width="frame.facts.width" :height="frame.facts.height" :lights="halo.ours" :against="halo.theirs" :joins="halo.joins" alt="The take's lights, the reference's as dashed outlines, arrows from one to the other" />
        </div>
        <p v-if="mode === 'halo'" class="small quiet m-0">Solid: the take. Dashed: the reference. Arrows point where each light should go.</p>
        <p v-if="take && take.version === 0" class="sheet empty m-0">This picture is not in the chain yet. <BButton size="sm" variant="primary" data-test="take-up" @click="takeUp">Take it up</BButton></p>
        <TakeChain v-if="chain" :chain="chain" :chosen="chosen" @choose="chosen = $event" @edit="edit" @go-on="goOn" />
        <form class="finds" @submit.prevent="find">
          <BFormInput v-model="slant" size="sm" class="figure" placeholder="key L45/30 o20" aria-label="Find takes by a slant line" data-test="find-slant" />
          <BButton size="sm" variant="secondary" type="submit">Find by light</BButton>
          <BButton size="sm" variant="secondary" :to="{ name: 'contact-sheet', params: { caseId } }">Contact sheet</BButton>
          <BButton size="sm" variant="secondary" :href="`/api/cases/${caseId}/takes/table`" download="takes.csv" data-test="takes-csv">Table (CSV)</BButton>
          <BButton size="sm" variant="secondary" :to="{ name: 'read', params: { caseId } }" @click="current.frameId = frame.id">Correct its marks</BButton>
          <BButton size="sm" variant="secondary" @click="recarry">Lay the marks over again</BButton>
        </form>
      </template>
    </section>
    <section v-if="frame" class="right" aria-label="What differs" aria-live="polite">
      <h2>Next move</h2>
      <p v-if="!c && !problem" class="quiet" role="status">Comparing…</p>
      <template v-if="c">
        <p v-for="w in c.warnings" :key="w" class="problem">{{ w }}</p>
        <p v-for="m in common" :key="m.says" class="common m-0" data-test="common-move">{{ m.says }}</p>
        <p v-if="!first" class="next" data-test="next-move">{{ next?.if_none }}</p>
        <template v-else>
          <p class="next" data-test="next-move">{{ first.says }}</p>
          <p class="quiet small m-0">Takes away {{ Math.round(100 * first.gain) }} % of what surely differs and would be seen. <template v-if="next && !next.believed">No set is known for this take: the moves are told from the readings alone.</template></p>
          <BButton v-if="firstId" variant="primary" class="make" :disabled="!!busy" data-test="make-move" @click="make(firstId)">I make this change</BButton>
        </template>
        <ol v-if="moves.length > 1" class="then" start="2"><li v-for="m in moves.slice(1, 3)" :key="m.says">{{ m.says }} <span class="quiet small">{{ Math.round(100 * m.gain) }} %</span></li></ol>
        <details v-if="chain?.learnt.length" class="small">
          <summary>What the takes tell of the lamps</summary>
          <ul class="m-0"><li v-for="l in chain.learnt" :key="l.name" data-test="learnt">{{ l.says }}</li></ul>
        </details>
        <h2>Ledger</h2>
        <div class="scroll">
          <BTableSimple class="figure ledger" small>
            <thead><tr><th scope="col">Reading</th><th scope="col">Ref.</th><th scope="col">Take</th><th scope="col">Difference</th></tr></thead>
            <tbody>
              <tr v-for="l in c.ledger" :key="l.what" :class="{ sure: l.sure }">
                <th scope="row">{{ l.what }}</th>
                <td>{{ l.what.includes('whole picture') ? '' : plain(l.reference, l.unit) }}</td>
                <td>{{ l.what.includes('whole picture') ? '' : plain(l.take, l.unit) }}</td>
                <td v-if="l.told">{{ difference(l.difference, l.unit) }} {{ l.unit }} <span class="quiet">{{ spread(l) }}</span></td>
                <td v-else class="quiet">cannot be told</td>
              </tr>
            </tbody>
          </BTableSimple>
        </div>
        <p class="small quiet m-0">Bold: surely different, over twice what can be told. Take minus reference; exposure is taken out of the levels. Colours are told in <TermHint term="mired" />.</p>
        <BButton v-if="!accepting" size="sm" variant="secondary" data-test="accept-open" @click="accepting = true">Accept this take…</BButton>
        <AcceptTake v-else-if="take" :key="take.frame" :take="take" :ledger="c.ledger" :title="current.view?.title ?? ''" @done="loadChain" />
      </template>
    </section>
  </div>
</template>

<style scoped>
.takes {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 27rem;
  gap: 1rem;
  padding: 0.8rem 1rem;
}
.left,
.right {
  display: grid;
  gap: 0.5rem;
  align-content: start;
  min-width: 0;
}
.top,
.finds {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: center;
}
.top {
  gap: 0.8rem;
}
.finds input {
  width: 14rem;
}
.folder {
  overflow-wrap: anywhere;
}
.state {
  min-height: 1.4rem;
}
.halos {
  height: min(58vh, 32rem);
  display: grid;
}
.empty {
  padding: 1rem;
}
.common {
  border-left: 4px solid var(--light);
  padding-left: 0.6rem;
}
.next {
  font-size: 1.25rem;
  font-weight: 600;
  margin: 0;
}
.make {
  justify-self: start;
}
.then {
  margin: 0;
  padding-left: 1.4rem;
}
.scroll {
  overflow-x: auto;
}
.ledger {
  width: 100%;
}
.ledger th {
  font-weight: 400;
  padding-right: 0.5rem;
}
.ledger td {
  text-align: right;
  padding-left: 0.5rem;
  white-space: nowrap;
}
.sure th,
.sure td {
  font-weight: 700;
}
@media (max-width: 1000px) {
  .takes {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
