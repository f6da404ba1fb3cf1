<script setup lang="ts">
// A set without a picture: a look, a ratio, a mood, a room and a subject, and two or three sets that give it.
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type Proposed, type Wish, type WishLook } from '../api/client'
import { messageOf } from '../shell/events'
import NumberField from '../shell/NumberField.vue'
import PickOne from '../shell/PickOne.vue'
import type { Units } from '../rebuild/drawing'
import { FIRST, FIRST_ROOM, GROUPS, keepWish, lastWish, rgbOf, shadeOf, SHADES, SUBJECTS, type Shade } from './choices'
import ProposalCard from './ProposalCard.vue'

const router = useRouter()
const looks = ref<WishLook[]>([])
const moods = ref<{ id: string; name: string }[]>([])
const wish = ref<Wish>(lastWish())
const of = ref<'mine' | 'household' | 'all'>('mine')
const found = ref<Proposed[] | null>(null)
const problem = ref('')
const busy = ref(false)
const units: Units = localStorage.getItem('units') === 'ft' ? 'ft' : 'm'

const look = computed(() => looks.value.find((l) => l.id === wish.value.look))
const lookOptions = computed(() =>
  Object.entries(GROUPS).map(([group, label]) => ({ label, options: looks.value.filter((l) => l.group === group).map((l) => ({ value: l.id, text: l.name })) })),
)
const living = computed(() => ['person', 'head_long', 'head_round'].includes(wish.value.subject ?? look.value?.subject ?? 'person'))
const room = computed(() => wish.value.room ?? FIRST_ROOM)
function change(part: Partial<Wish>) {
  wish.value = { ...wish.value, ...part }
}
function changeRoom(part: Partial<NonNullable<Wish['room']>>) {
  change({ room: { ...room.value, ...part } })
}
/** Another look brings its own ratio, subject and paper. */
function pickLook(id: unknown) {
  if (typeof id === 'string') change({ look: id, key_to_fill: null, subject: null, background: null, turn_deg: 0 })
}
function pickWindow(wall: 'left' | 'right' | 'back' | 'front') {
  changeRoom({ window: { width_m: 1.2, height_m: 1.4, ...room.value.window, wall } })
}

async function plan() {
  if (busy.value) return
  busy.value = true
  problem.value = ''
  keepWish(wish.value)
  try {
    found.value = await data(api.POST('/api/wishes', { body: { wish: wish.value, of: of.value } }))
  } catch (e) {
    found.value = null
    problem.value = messageOf(e)
  }
  busy.value = false
}
onMounted(async () => {
  try {
    const all = await data(api.GET('/api/wishes'))
    looks.value = all.looks
    moods.value = all.moods
    if (!look.value) change({ look: FIRST.look })
    await plan()
  } catch (e) {
    problem.value = messageOf(e)
  }
})
async function take(p: Proposed) {
  busy.value = true
  try {
    const brief = look.value?.group === 'portrait' || look.value?.group === 'talking' ? 'everyday' : 'prop'
    const made = await data(api.POST('/api/cases', { body: { title: `${look.value?.name ?? 'Set'}, planned`, brief, set: p.proposal.set } }))
    await router.push({ name: 'rebuild', params: { caseId: made.id } })
  } catch (e) {
    problem.value = messageOf(e)
  }
  busy.value = false
}
</script>

<template>
  <main class="plan">
    <form class="sheet wish" aria-label="What is wished" @submit.prevent="plan">
      <h1>Plan without a picture</h1>
      <label>Look<BFormSelect size="sm" :model-value="wish.look" :options="lookOptions" data-test="wish-look" @update:model-value="pickLook" /></label>
      <p class="quiet small">{{ look?.says }}</p>
      <fieldset>
        <legend>Mood</legend>
        <BButtonGroup size="sm">
          <BButton v-for="m in moods" :key="m.id" variant="secondary" :class="{ active: (wish.mood ?? 'as_it_is') === m.id }" :aria-pressed="(wish.mood ?? 'as_it_is') === m.id" @click="change({ mood: m.id })">{{ m.name }}</BButton>
        </BButtonGroup>
      </fieldset>
      <div class="row2">
        <NumberField label="Key to fill, : 1" :value="wish.key_to_fill" :placeholder="look ? `${look.key_to_fill}` : ''" :least="1" :most="64" data-test="wish-ratio" @change="change({ key_to_fill: $event })" />
        <label>Key from<PickOne :value="wish.from_right ? 'right' : 'left'" :options="[{ value: 'left', text: 'image left' }, { value: 'right', text: 'image right' }]" data-test="wish-side" @pick="change({ from_right: $event === 'right' })" /></label>
        <label>Subject<PickOne :value="wish.subject ?? look?.subject" :options="SUBJECTS" data-test="wish-subject" @pick="change({ subject: $event })" /></label>
        <NumberField label="Turned, °" :value="wish.turn_deg" :least="-180" :most="180" @change="change({ turn_deg: $event ?? 0 })" />
        <label>Background<PickOne :value="shadeOf(wish.background)" :options="SHADES" none="as the look has it" @pick="change({ background: rgbOf($event as Shade) })" @clear="change({ background: null })" /></label>
        <label>Made of<PickOne :value="of" :options="[{ value: 'mine', text: 'what I own' }, { value: 'household', text: 'things at home' }, { value: 'all', text: 'all there is' }]" data-test="wish-of" @pick="of = $event" /></label>
      </div>
      <BFormCheckbox v-if="living" :model-value="wish.standing ?? false" @update:model-value="change({ standing: $event === true })">The sitter stands</BFormCheckbox>
      <fieldset>
        <legend>Room</legend>
        <div class="row3">
          <NumberField label="Wide, m" :value="room.width_m" :least="0.5" :most="60" data-test="room-width" @change="changeRoom({ width_m: $event ?? 5 })" />
          <NumberField label="Deep, m" :value="room.depth_m" :least="0.5" :most="60" data-test="room-depth" @change="changeRoom({ depth_m: $event ?? 6 })" />
          <NumberField label="High, m" :value="room.height_m" :least="1.5" :most="20" data-test="room-height" @change="changeRoom({ height_m: $event ?? 2.6 })" />
        </div>
        <div class="row2">
          <label>Walls<PickOne :value="shadeOf(room.walls)" :options="SHADES" @pick="changeRoom({ walls: rgbOf($event as Shade) })" /></label>
          <label>Window<PickOne :value="room.window?.wall" none="none" :options="[{ value: 'left', text: 'image left' }, { value: 'right', text: 'image right' }, { value: 'back', text: 'behind the subject' }, { value: 'front', text: 'behind the lens' }]" data-test="room-window" @pick="pickWindow" @clear="changeRoom({ window: null })" /></label>
          <template v-if="room.window">
            <NumberField label="Its width, m" :value="room.window.width_m" :least="0.1" :most="20" @change="changeRoom({ window: { ...room.window, width_m: $event ?? 1.2 } })" />
            <NumberField label="Its height, m" :value="room.window.height_m" :least="0.1" :most="10" @change="changeRoom({ window: { ...room.window, height_m: $event ?? 1.4 } })" />
          </template>
        </div>
      </fieldset>
      <BButton type="submit" variant="primary" :disabled="busy" data-test="plan-it">{{ busy ? 'Working it out…' : 'Plan it' }}</BButton>
      <p class="quiet small">Lens and background stand in the middle of the room's width. Set heights, powers and positions are metered by the stand-in studio, walls counted; set up with a tape and a meter.</p>
    </form>
    <section class="found" aria-label="Sets that give it" aria-live="polite">
      <p v-if="problem" role="alert" class="problem" data-test="wish-problem">{{ problem }}</p>
      <p v-if="busy" role="status" class="quiet"><BSpinner small /> Trying sets, metering each…</p>
      <ProposalCard v-for="(p, i) in found ?? []" :key="i" :made="p" :best="i === 0" :units="units" :busy="busy" @take="take(p)" />
    </section>
  </main>
</template>

<style scoped>
.plan {
  display: grid;
  grid-template-columns: 21rem minmax(0, 1fr);
  gap: 0.9rem;
  padding: 0.8rem 0.9rem;
  align-items: start;
}
.wish {
  display: grid;
  gap: 0.55rem;
}
.wish h1 {
  font-size: 1.2rem;
  margin: 0;
}
.wish label,
legend {
  font-size: 0.88rem;
  display: block;
  margin: 0;
}
.wish p {
  margin: 0;
}
.row2,
.row3 {
  display: grid;
  gap: 0.4rem 0.6rem;
  grid-template-columns: 1fr 1fr;
}
.row3 {
  grid-template-columns: 1fr 1fr 1fr;
}
.found {
  display: grid;
  gap: 0.8rem;
  grid-template-columns: repeat(auto-fit, minmax(24rem, 1fr));
}
.found > p {
  grid-column: 1 / -1;
  margin: 0;
}
@media (max-width: 900px) {
  .plan {
    grid-template-columns: minmax(0, 1fr);
  }
  .found {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
