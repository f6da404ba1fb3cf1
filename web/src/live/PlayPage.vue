<script setup lang="ts">
// A live round on a phone: join by a code, place the light, see how near it was.
import { computed, onMounted, ref, watch } from 'vue'
import { api, data, type PlayerView } from '../api/client'
import { useSession } from '../entry/session'
import type { Direction } from '../halo/band'
import { messageOf } from '../shell/events'
import BallLit from './BallLit.vue'
import { useEvents } from './events'
import HaloPlacer from './HaloPlacer.vue'
import { worded } from './words'

const props = defineProps<{ code?: string }>()
const session = useSession()
const code = ref(props.code ?? '')
const name = ref('')
const player = ref('')
const view = ref<PlayerView | null>(null)
const mine = ref<Direction | null>(null)
const sent = ref<'no' | 'sending' | 'yes'>('no')
const problem = ref('')
const plain = computed(() => code.value.toUpperCase().replace(/[^A-Z0-9]/g, ''))
const kept = () => `slantcast-round-${plain.value}`
const stream = useEvents<PlayerView>(take)
const armed = computed(() => view.value?.stage === 'placing')
const picture = computed(() => (view.value && view.value.stage !== 'waiting' ? `/api/live/${plain.value}/picture?at=${view.value.at}` : undefined))

function take(v: PlayerView) {
  const other = view.value?.at !== v.at
  view.value = v
  if (other || !mine.value) {
    mine.value = v.mine ?? null
    sent.value = v.mine ? 'yes' : 'no'
  }
}
function play(id: string) {
  player.value = id
  stream.open(`/api/live/${plain.value}/events?player=${id}`)
}
async function join() {
  try {
    const p = await data(api.POST('/api/live/{code}/players', { params: { path: { code: plain.value } }, body: { name: name.value } }))
    sessionStorage.setItem(kept(), p.player)
    problem.value = ''
    play(p.player)
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(async () => {
  name.value = session.person?.name ?? ''
  const before = plain.value ? sessionStorage.getItem(kept()) : null
  if (!before) return
  try {
    // a page that was loaded again plays on; a round that is gone is joined anew
    take(await data(api.GET('/api/live/{code}', { params: { path: { code: plain.value }, query: { player: before } } })))
    play(before)
  } catch {
    sessionStorage.removeItem(kept())
  }
})
let newest: Direction | null = null
async function send(d: Direction) {
  const v = view.value
  if (!v) return
  newest = d
  if (sent.value === 'sending') return
  sent.value = 'sending'
  try {
    // where it was moved while it was sent is sent too
    while (newest) {
      const place: Direction = newest
      newest = null
      await api.PUT('/api/live/{code}', { params: { path: { code: plain.value } }, body: { player: player.value, at: v.at, place } })
    }
    sent.value = 'yes'
    problem.value = ''
  } catch (e) {
    sent.value = 'no'
    problem.value = messageOf(e)
  }
}
const light = computed(() => {
  const t = view.value?.told
  const l = t?.lights[0]
  return t && l ? { azimuth_deg: l.azimuth_deg, elevation_deg: l.elevation_deg, sd_deg: t.sd_deg } : null
})
watch(armed, (on) => {
  if (on) problem.value = ''
})
</script>

<template>
  <main class="play">
    <p v-if="problem" role="alert" class="problem" data-test="play-problem">{{ problem }}</p>
    <BForm v-if="!player" class="sheet" @submit.prevent="join">
      <h1>Place the light with your class</h1>
      <label>Code on the wall<BFormInput v-model="code" maxlength="20" autocomplete="off" autocapitalize="characters" data-test="play-code" /></label>
      <label>Your name<BFormInput v-model="name" maxlength="40" dir="auto" data-test="play-name" /></label>
      <p class="quiet small m-0">You need no account. Your name is shown only if your instructor has those who came nearest named; how near you came is told to you alone.</p>
      <BButton type="submit" variant="primary" :disabled="!plain || !name.trim()" data-test="play-join">Take part</BButton>
    </BForm>
    <template v-else-if="view">
      <header class="top">
        <h1><bdi>{{ view.title }}</bdi></h1>
        <span class="quiet" data-test="play-stage">{{ view.stage === 'ended' ? 'over' : `picture ${view.at + 1} of ${view.of}` }}</span>
      </header>
      <p v-if="stream.lost.value" role="status" class="caution">The connection is lost; it is tried again.</p>
      <p v-if="view.stage === 'waiting'" class="sheet wait" data-test="play-wait">You are in. Look at the wall: the picture comes in a moment.</p>
      <template v-else>
        <img :src="picture" alt="The picture to place the light for" class="picture" data-test="play-picture" />
        <p class="m-0 say" role="status" data-test="play-say">
          <template v-if="view.off"><strong>{{ view.off.says }}</strong></template>
          <template v-else-if="view.told">You placed nothing in this picture.</template>
          <template v-else-if="mine"><strong>{{ worded(mine) }}</strong> <span class="quiet">{{ sent === 'yes' ? 'sent' : 'sending…' }}</span></template>
          <template v-else>Where does the light come from? Tap the halo: up is above the lens, right is camera right, the outer rim is behind.</template>
        </p>
        <div class="pair">
          <div class="halo"><HaloPlacer label="Halo of the picture" :picture="`${picture}&thumb=true`" :mine="mine" :truth="light" :armed="armed" @place="(d) => (mine = d)" @done="(d) => ((mine = d), send(d))" /></div>
          <BallLit v-if="mine && armed" :at="mine" class="ball" />
        </div>
        <template v-if="view.told">
          <ul class="evidence"><li v-for="s in view.told.summary.slice(0, 3)" :key="s">{{ s }}</li></ul>
          <p v-if="view.median_off_deg != null" class="quiet m-0">Half of your places so far lie within {{ view.median_off_deg.toFixed(0) }}°.</p>
        </template>
      </template>
    </template>
  </main>
</template>

<style scoped>
.play {
  padding: 0.6rem 0.8rem;
  width: 100%;
  max-width: 32rem;
  margin: 0 auto;
  display: grid;
  gap: 0.5rem;
  align-content: start;
}
form {
  display: grid;
  gap: 0.7rem;
}
.top .quiet {
  white-space: nowrap;
}
.top {
  display: flex;
  gap: 0.8rem;
  align-items: baseline;
  justify-content: space-between;
}
h1 {
  margin: 0;
  font-size: 1.15rem;
}
.picture {
  width: 100%;
  max-height: 34vh;
  object-fit: contain;
  border-radius: 4px;
}
.say {
  min-height: 2.7em;
}
.wait {
  font-size: 1.2rem;
}
.pair {
  position: relative;
}
.halo {
  width: min(100%, 25rem);
  aspect-ratio: 1;
  margin: 0 auto;
}
.ball {
  position: absolute;
  right: 0;
  top: 0;
  width: 64px;
  height: 64px;
}
.evidence {
  margin: 0;
  padding-left: 1.1rem;
}
</style>
