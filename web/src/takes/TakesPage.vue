<script setup lang="ts">
// A take against the reference: both pictures, what surely differs, and the one change to make next.
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, data, pictureUrl, upload, type ComparisonView, type FrameView } from '../api/client'
import { useCase } from '../cases/case'

const current = useCase()
const takes = computed(() => (current.view?.frames ?? []).filter((f) => f.role === 'take'))
const chosen = ref<string | null>(null)
const take = computed<FrameView | null>(() => takes.value.find((f) => f.id === chosen.value) ?? takes.value.at(-1) ?? null)
const view = ref<ComparisonView | null>(null)
const problem = ref('')
const busy = ref('')
const mode = ref<'beside' | 'wipe'>('beside')
const wipe = ref(50)
const swapped = ref(false)

async function compare() {
  view.value = null
  const t = take.value
  if (!t) return
  try {
    await current.flush()
    view.value = await data(api.GET('/api/frames/{id}/compare', { params: { path: { id: t.id } } }))
    problem.value = ''
  } catch (e) {
    problem.value = (e as Error).message
  }
}
watch(() => take.value?.id, compare, { immediate: true })
async function add(files: FileList | null) {
  problem.value = ''
  try {
    let last = ''
    for (const [i, file] of [...(files ?? [])].entries()) {
      busy.value = `Sending ${i + 1} of ${files!.length}…`
      const f = await upload(current.view!.id, file, () => {}, { role: 'take' })
      await carryOver(f.id)
      last = f.id
    }
    await current.show()
    if (last) chosen.value = last
    await compare()
  } catch (e) {
    problem.value = (e as Error).message
  } finally {
    busy.value = ''
  }
}
/** The reference's marks are laid over the take; they can be corrected in Read. */
const carryOver = (id: string) => data(api.POST('/api/frames/{id}/carry-over', { params: { path: { id } } }))
async function recarry() {
  if (!take.value) return
  busy.value = 'Carrying the marks over…'
  try {
    await carryOver(take.value.id)
    await compare()
  } catch (e) {
    problem.value = (e as Error).message
  } finally {
    busy.value = ''
  }
}
function down(e: KeyboardEvent) {
  if (!/^(INPUT|TEXTAREA|SELECT)$/.test((e.target as HTMLElement).tagName) && e.key.toLowerCase() === 'x') swapped.value = true
}
function up(e: KeyboardEvent) {
  if (e.key.toLowerCase() === 'x') swapped.value = false
}
onMounted(() => {
  window.addEventListener('keydown', down)
  window.addEventListener('keyup', up)
})
onBeforeUnmount(() => {
  window.removeEventListener('keydown', down)
  window.removeEventListener('keyup', up)
})
const c = computed(() => view.value?.comparison ?? null)
const moves = computed(() => c.value?.next_moves ?? [])
const text = (v: number, unit: string) => `${v > 0 && unit !== '×' ? '+' : ''}${v.toFixed(unit === '°' || unit === 'mired' ? 0 : 2)}`.replace('-', '−')
const plain = (v: number, unit: string) => v.toFixed(unit === '°' || unit === '×' || unit === 'mired' ? 0 : 1).replace('-', '−')
</script>

<template>
  <div class="takes">
    <section class="left" aria-label="Reference and take">
      <div class="top">
        <h1 class="m-0">Takes</h1>
        <label class="btn btn-sm btn-go m-0">Add takes<input class="visually-hidden" type="file" multiple accept="image/*,.tif,.tiff,.exr,.hdr" data-test="add-takes" @change="add(($event.target as HTMLInputElement).files)" /></label>
        <div class="btn-group btn-group-sm" role="group" aria-label="View">
          <button v-for="[m, t] in [['beside', 'side by side'], ['wipe', 'wipe']] as const" :key="m" type="button" class="btn btn-plain" :class="{ active: mode === m }" :aria-pressed="mode === m" :data-test="`mode-${m}`" @click="mode = m">{{ t }}</button>
        </div>
        <span v-if="busy" role="status" class="quiet">{{ busy }}</span>
      </div>
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
      <div v-if="!takes.length" class="sheet empty">
        <p class="m-0">No take yet. Add a test picture of your set: the reference's marks are laid over it, and what differs is told in stops and degrees.</p>
      </div>
      <template v-else-if="take && current.reference">
        <div v-if="mode === 'beside'" class="pair">
          <figure><img :src="pictureUrl(swapped ? take.id : current.reference.id, 'view')" alt="The reference" /><figcaption>{{ swapped ? 'Take' : 'Reference' }}</figcaption></figure>
          <figure><img :src="pictureUrl(swapped ? current.reference.id : take.id, 'view')" alt="The take" /><figcaption>{{ swapped ? 'Reference' : `Take: ${take.file_name}` }} <span class="quiet">hold X to swap in place</span></figcaption></figure>
        </div>
        <div v-else class="over">
          <img :src="pictureUrl(current.reference.id, 'view')" alt="The reference" />
          <img :src="pictureUrl(take.id, 'view')" alt="The take, right of the line" :style="{ clipPath: `inset(0 0 0 ${swapped ? 0 : wipe}%)` }" />
          <input v-model.number="wipe" type="range" class="form-range" min="0" max="100" aria-label="Where the take begins" />
        </div>
        <ul class="strip" aria-label="Takes">
          <li v-for="(f, i) in takes" :key="f.id"><button type="button" class="btn btn-plain" :class="{ active: f.id === take.id }" :aria-pressed="f.id === take.id" @click="chosen = f.id"><img :src="pictureUrl(f.id, 'thumb')" alt="" loading="lazy" />{{ i + 1 }}</button></li>
        </ul>
        <p class="small quiet m-0">The take carries the reference's marks. If it was framed otherwise, <RouterLink :to="{ name: 'read', params: { caseId: current.view!.id } }" @click="current.frameId = take.id">correct them in Read</RouterLink> or <button type="button" class="btn btn-sm btn-plain" @click="recarry">lay them over again</button>.</p>
      </template>
    </section>
    <section v-if="take" class="right" aria-label="What differs" aria-live="polite">
      <h2>Next move</h2>
      <p v-if="!c && !problem" class="quiet" role="status">Comparing…</p>
      <template v-if="c">
        <p v-for="w in c.warnings" :key="w" class="problem">{{ w }}</p>
        <p v-if="!moves.length" class="next" data-test="next-move">Nothing: what remains is smaller than what can be measured.</p>
        <p v-else class="next" data-test="next-move">{{ moves[0]!.says }}</p>
        <p v-if="moves.length" class="quiet small m-0">Takes away {{ Math.round(100 * moves[0]!.gain) }} % of what surely differs.</p>
        <ol v-if="moves.length > 1" class="then" start="2"><li v-for="m in moves.slice(1, 3)" :key="m.says">{{ m.says }} <span class="quiet small">{{ Math.round(100 * m.gain) }} %</span></li></ol>
        <h2>Ledger</h2>
        <div class="scroll">
          <table class="figure ledger">
            <thead><tr><th scope="col">Reading</th><th scope="col">Ref.</th><th scope="col">Take</th><th scope="col">Difference</th></tr></thead>
            <tbody>
              <tr v-for="l in c.ledger" :key="l.what" :class="{ sure: l.sure }">
                <th scope="row">{{ l.what }}</th>
                <td>{{ l.what.includes('whole picture') ? '' : plain(l.reference, l.unit) }}</td>
                <td>{{ l.what.includes('whole picture') ? '' : plain(l.take, l.unit) }}</td>
                <td>{{ text(l.difference, l.unit) }} {{ l.unit }} <span class="quiet">± {{ l.sd.toFixed(l.unit === '°' || l.unit === 'mired' ? 0 : 2) }}</span></td>
              </tr>
            </tbody>
          </table>
        </div>
        <p class="small quiet m-0">Bold: surely different, over twice what can be told. Take minus reference; exposure is taken out of the levels.</p>
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
  gap: 0.6rem;
  align-content: start;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 0.8rem;
  align-items: center;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.6rem;
}
figure {
  margin: 0;
}
.pair img,
.over img {
  width: 100%;
  height: min(62vh, 34rem);
  object-fit: contain;
  background: var(--band-2);
  border-radius: 4px;
}
.over {
  position: relative;
}
.over img + img {
  position: absolute;
  inset: 0 0 auto 0;
  background: none;
}
.strip {
  list-style: none;
  display: flex;
  gap: 0.4rem;
  padding: 0;
  margin: 0;
  overflow-x: auto;
}
.strip img {
  height: 3rem;
  margin-right: 0.4rem;
}
.empty {
  padding: 1rem;
}
.next {
  font-size: 1.3rem;
  font-weight: 600;
  margin: 0;
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
.ledger tr {
  border-bottom: 1px solid #565656;
}
.sure th,
.sure td {
  font-weight: 700;
}
@media (max-width: 1000px) {
  .takes {
    grid-template-columns: minmax(0, 1fr);
  }
  .pair img,
  .over img {
    height: auto;
  }
}
</style>
