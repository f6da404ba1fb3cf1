<script setup lang="ts">
// The wall: all pictures with their halos, ordered, chosen, and graded by keys.
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import { api, data, type AssignmentView, type WallPicture } from '../api/client'
import HaloRing from '../halo/HaloRing.vue'
import { isTyping, messageOf, withCommand } from '../shell/events'
import PickOne from '../shell/PickOne.vue'
import CloudLasso from './CloudLasso.vue'
import GradePanel from './GradePanel.vue'
import GradersTable from './GradersTable.vue'
import { bunched, figureOf, GROUPS, ordered, ORDERS, SHOWS, shown, STATE, type Group, type Order, type Show } from './wall'

const props = defineProps<{ of: AssignmentView }>()
const emit = defineEmits<{ changed: [] }>()
const all = shallowRef<WallPicture[] | null>(null)
const problem = ref('')
const by = ref<Order>('handed')
const what = ref<Show>('all')
const group = ref<Group>('none')
const words = ref('')
const chosen = ref<string | null>(null)
let timer: ReturnType<typeof setTimeout> | undefined

async function load() {
  clearTimeout(timer)
  try {
    all.value = await data(api.GET('/api/assignments/{id}/wall', { params: { path: { id: props.of.id } } }))
    if (all.value.some((p) => p.state === 'reading')) timer = setTimeout(() => void load(), 1500)
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(load)
onBeforeUnmount(() => clearTimeout(timer))
/** Those that were drawn round in the cloud. */
const round = ref<Set<string> | null>(null)
const kept = computed(() => shown(all.value ?? [], what.value, words.value))
const bunches = computed(() => bunched(ordered(kept.value.filter((p) => !round.value || round.value.has(p.id)), by.value), group.value))
/** As they stand on the wall, one after another. */
const list = computed(() => bunches.value.flatMap((b) => b.pictures))
const place = computed(() => list.value.findIndex((p) => p.id === chosen.value))
const next = computed(() => list.value[place.value + 1]?.id ?? null)
function step(n: number) {
  const i = Math.min(list.value.length - 1, Math.max(0, place.value + n))
  chosen.value = list.value[i]?.id ?? null
}
function key(e: KeyboardEvent) {
  if (isTyping(e) || withCommand(e) || document.querySelector('.modal.show')) return
  if (e.key === 'ArrowRight' || e.key === 'n') step(1)
  else if (e.key === 'ArrowLeft' || e.key === 'p') step(-1)
  else if (e.key === 'Escape') chosen.value = null
  else return
  e.preventDefault()
}
onMounted(() => window.addEventListener('keydown', key))
onBeforeUnmount(() => window.removeEventListener('keydown', key))
/** Keys of all pictures on one halo, with the reference's. */
const cloud = computed(() => kept.value.flatMap((p) => (p.lights[0] ? [{ id: p.id, azimuth_deg: p.lights[0].azimuth_deg, elevation_deg: p.lights[0].elevation_deg }] : [])))
const theirs = computed(() => props.of.reference?.lights[0] ?? null)
const dealt = ref('')
async function deal() {
  try {
    const d = await data(api.POST('/api/assignments/{id}/peers', { params: { path: { id: props.of.id } } }))
    dealt.value = `${d.take_part} students look at ${d.each} each${d.not_shown ? `; ${d.not_shown} did not agree to be shown and take no part` : ''}.`
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function graded() {
  await load()
  emit('changed')
}
</script>

<template>
  <section class="wall" aria-label="Wall">
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <div class="bar">
      <label>Order <PickOne class="d-inline-block w-auto" :value="by" :options="ORDERS" data-test="wall-order" @pick="(o) => (by = o)" /></label>
      <label>Groups <PickOne class="d-inline-block w-auto" :value="group" :options="GROUPS" data-test="wall-groups" @pick="(g) => (group = g)" /></label>
      <label>Show <PickOne class="d-inline-block w-auto" :value="what" :options="SHOWS" data-test="wall-show" @pick="(s) => (what = s)" /></label>
      <BFormInput v-model="words" size="sm" type="search" class="w-auto" placeholder="Name" aria-label="Name" data-test="wall-words" />
      <span class="quiet" data-test="wall-count">{{ list.length }} of {{ all?.length ?? 0 }}</span>
      <span class="quiet small">Keys: → ← the next, 0 to 9 and = points, Enter give back, Esc close</span>
    </div>
    <div class="body" :class="{ open: chosen }">
      <div class="side">
        <CloudLasso :keys="cloud" :reference="theirs" :size="190" :chosen="round" @choose="(ids) => (round = ids)" />
        <p class="quiet small m-0">Keys of all pictures{{ theirs ? '; the ring is the reference’s' : '' }}. Draw round some to see those alone.</p>
        <BButton v-if="round" size="sm" variant="secondary" data-test="all-again" @click="round = null">All again</BButton>
        <template v-if="of.assignment.peers">
          <BButton size="sm" variant="secondary" data-test="deal" @click="deal">Deal pictures to look at</BButton>
          <p class="quiet small m-0" role="status" data-test="dealt">{{ dealt || `${of.assignment.peers} of others for each student` }}</p>
        </template>
        <GradersTable :of="of.id" />
      </div>
      <p v-if="all && !all.length" class="quiet">Nothing has been handed in yet.</p>
      <div class="bunches" data-test="wall">
        <section v-for="b in bunches" :key="b.name" :aria-label="b.name || 'All pictures'">
          <h2 v-if="b.name" data-test="wall-group">{{ b.name }} <span class="quiet">{{ b.pictures.length }}</span></h2>
          <ul class="grid">
            <li v-for="p in b.pictures" :key="p.id">
              <BButton variant="secondary" class="tile" :class="{ here: p.id === chosen }" data-test="wall-picture" @click="chosen = p.id">
                <HaloRing :lights="p.lights" :size="136" :picture="`/api/submissions/${p.id}/picture?thumb=true`" :label="`Picture of ${p.name} in its halo`" />
                <span class="name"><bdi>{{ p.name }}</bdi></span>
                <span class="small"><span class="quiet">{{ STATE[p.state] }}</span><template v-if="p.late.late"> · <span class="flag">late</span></template><template v-if="p.copies.length"> · <span class="flag">copy?</span></template><template v-if="p.disputed"> · <span class="flag">graders differ</span></template><template v-if="p.appeal"> · <span class="flag">appeal</span></template><template v-if="p.sample"> · sample</template><template v-if="p.looked_at[1]"> · looked at {{ p.looked_at[0] }}/{{ p.looked_at[1] }}</template></span>
                <span v-if="figureOf(p, by)" class="figure">{{ figureOf(p, by) }}</span>
              </BButton>
            </li>
          </ul>
        </section>
      </div>
      <GradePanel v-if="chosen" :id="chosen" :of="of" :next="next" @changed="graded" @next="step(1)" @close="chosen = null" />
    </div>
  </section>
</template>

<style scoped>
.wall {
  display: grid;
  gap: 0.6rem;
}
.bar {
  display: flex;
  gap: 0.9rem;
  align-items: center;
  flex-wrap: wrap;
}
.body {
  display: grid;
  grid-template-columns: 200px minmax(0, 1fr);
  gap: 0.9rem;
  align-items: start;
}
.body.open {
  grid-template-columns: 200px minmax(0, 1fr) minmax(24rem, 34rem);
}
.grid {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 0.5rem;
}
.bunches {
  max-height: calc(100vh - 260px);
  overflow: auto;
  display: grid;
  gap: 0.7rem;
  align-content: start;
}
.bunches h2 {
  font-size: 1rem;
  margin: 0 0 0.3rem;
}
.tile {
  width: 100%;
  border-width: 2px;
  padding: 0.4rem;
  display: grid;
  justify-items: center;
  gap: 0.1rem;
}
.tile:hover,
.tile:active {
  background-color: var(--bs-btn-bg);
  border-color: var(--line);
}
.tile.here {
  border-color: var(--light);
}
.name {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.flag {
  color: var(--fault);
}
@media (max-width: 980px) {
  .body,
  .body.open {
    grid-template-columns: minmax(0, 1fr);
  }
  .bunches {
    max-height: none;
  }
}
</style>
