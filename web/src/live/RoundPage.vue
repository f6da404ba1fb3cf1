<script setup lang="ts">
// A live round as it is thrown on the wall, led by keys: the picture, the class's places as a cloud, then the light.
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type LiveRound } from '../api/client'
import { isTyping, messageOf, withCommand } from '../shell/events'
import { useEvents } from './events'
import HaloPlacer from './HaloPlacer.vue'
import SignSquare from './SignSquare.vue'
import { worded } from './words'

const props = defineProps<{ roundId: string }>()
const router = useRouter()
const view = ref<LiveRound | null>(null)
const problem = ref('')
const stream = useEvents<LiveRound>((v) => (view.value = v))
const path = () => ({ params: { path: { id: props.roundId } } })
onMounted(async () => {
  try {
    view.value = await data(api.GET('/api/rounds/{id}', path()))
    stream.open(`/api/rounds/${props.roundId}/events`)
  } catch (e) {
    problem.value = messageOf(e)
  }
})
type Edit = { stage?: LiveRound['stage']; at?: number; cloud?: boolean; names?: boolean }
async function lead(e: Edit) {
  if (!view.value) return
  try {
    view.value = await data(api.PATCH('/api/rounds/{id}', { ...path(), body: { version: view.value.version, ...e } }))
    problem.value = ''
  } catch (err) {
    problem.value = messageOf(err)
  }
}
/** What comes next, with its word. */
const next = computed<{ text: string; edit: Edit } | null>(() => {
  const v = view.value
  if (!v) return null
  if (v.stage === 'waiting') return { text: 'Show the picture', edit: { stage: 'placing' } }
  if (v.stage === 'placing') return { text: 'Tell where it was', edit: { stage: 'told' } }
  if (v.stage === 'told' && v.at + 1 < v.of) return { text: 'Next picture', edit: { stage: 'placing', at: v.at + 1 } }
  return v.stage === 'told' ? { text: 'End the round', edit: { stage: 'ended' } } : null
})
function key(e: KeyboardEvent) {
  if (isTyping(e) || withCommand(e) || !view.value || e.target instanceof HTMLButtonElement) return
  if ((e.key === ' ' || e.key === 'ArrowRight') && next.value) void lead(next.value.edit)
  else if (e.key === 'c') void lead({ cloud: !view.value.cloud })
  else if (e.key === 'b') void lead({ names: !view.value.names })
  else if (e.key === 'ArrowLeft' && view.value.stage === 'told') void lead({ stage: 'placing' })
  else return
  e.preventDefault()
}
onMounted(() => window.addEventListener('keydown', key))
onBeforeUnmount(() => window.removeEventListener('keydown', key))
const address = computed(() => `${location.origin}/live/${view.value?.code ?? ''}`)
const picture = computed(() => (view.value && view.value.stage !== 'waiting' ? `/api/rounds/${props.roundId}/picture?at=${view.value.at}` : undefined))
const light = computed(() => {
  const t = view.value?.told
  const l = t?.lights[0]
  return t && l ? { azimuth_deg: l.azimuth_deg, elevation_deg: l.elevation_deg, sd_deg: t.sd_deg } : null
})
</script>

<template>
  <main class="round">
    <p v-if="problem" role="alert" class="problem" data-test="round-problem">{{ problem }}</p>
    <template v-if="view">
      <header class="top">
        <h1><bdi>{{ view.title }}</bdi></h1>
        <span class="figure" data-test="round-count">{{ view.stage === 'waiting' ? `${view.players} in it` : `${view.placed} of ${view.players} have placed it` }}</span>
        <span class="code" data-test="round-code">{{ view.code }}</span>
      </header>
      <p v-if="stream.lost.value" role="status" class="caution">The connection is lost; it is tried again.</p>
      <section v-if="view.stage === 'waiting'" class="join">
        <SignSquare :text="address" class="sign" />
        <div>
          <p class="big m-0">Open <strong data-test="round-address">{{ address }}</strong></p>
          <p class="big m-0">or type the code <strong class="letters">{{ view.code }}</strong> at {{ address.replace(/\/[A-Z0-9]*$/, '') }}</p>
          <p class="quiet">No account is needed. How near each came is told to them alone.</p>
        </div>
      </section>
      <section v-else class="stage">
        <figure class="shot"><img :src="picture" :alt="view.told ? view.picture : 'The picture to place the light for'" data-test="round-picture" /></figure>
        <div class="side">
          <div class="halo"><HaloPlacer label="Where the class places the light" :picture="`${picture}&thumb=true`" :places="view.places" :mean="view.crowd?.mean" :truth="light" /></div>
          <div class="told" role="status">
            <template v-if="view.told && view.crowd">
              <p class="m-0" data-test="round-truth"><strong>It came from {{ light ? worded(light) : '' }}</strong> <span class="quiet">± {{ view.told.sd_deg.toFixed(0) }}°</span></p>
              <p v-if="view.crowd.many" class="m-0">Half of the class lies within {{ view.crowd.median_off_deg?.toFixed(0) }}° of it; {{ view.crowd.well }} of {{ view.crowd.many }} within 10°.</p>
              <p v-if="view.nearest.length" class="m-0" data-test="round-nearest">Nearest: <template v-for="(n, i) in view.nearest" :key="i"><template v-if="i">, </template><bdi>{{ n.name }}</bdi> {{ n.angle_deg.toFixed(0) }}°</template></p>
              <ul class="m-0"><li v-for="s in view.crowd.says" :key="s">{{ s }}</li><li v-for="s in view.told.summary.slice(0, 3)" :key="s" class="quiet">{{ s }}</li></ul>
            </template>
            <p v-else-if="view.crowd?.mean" class="m-0">In the mean {{ worded(view.crowd.mean) }}; half of the class lies within {{ view.crowd.scatter_deg?.toFixed(0) }}° of that.</p>
            <p v-else class="quiet m-0">{{ view.cloud ? 'Places appear as they come in.' : 'Places are hidden while they are placed.' }}</p>
          </div>
        </div>
      </section>
      <footer class="acts">
        <BButton v-if="next" variant="primary" data-test="round-next" @click="lead(next.edit)">{{ next.text }}</BButton>
        <span v-else class="quiet">The round is over.</span>
        <BButton variant="secondary" :pressed="view.cloud" data-test="round-cloud" @click="lead({ cloud: !view.cloud })">Cloud while they place</BButton>
        <BButton variant="secondary" :pressed="view.names" data-test="round-names" @click="lead({ names: !view.names })">Name the nearest</BButton>
        <span class="quiet small grow">Keys: space on, ← back, c cloud, b names · picture {{ view.at + 1 }} of {{ view.of }}</span>
        <BButton variant="secondary" @click="router.push({ name: 'class', params: { classId: view.class } })">Back to the class</BButton>
      </footer>
    </template>
  </main>
</template>

<style scoped>
.round {
  padding: 0.7rem 1rem;
  width: 100%;
  height: calc(100vh - 46px);
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  gap: 0.6rem;
  background: var(--deep);
}
.top,
.acts {
  display: flex;
  gap: 1.2rem;
  align-items: center;
  flex-wrap: wrap;
}
h1 {
  margin: 0;
  flex: 1;
}
.top .figure {
  font-size: 1.4rem;
}
.code,
.letters {
  letter-spacing: 0.18em;
  font-weight: 700;
}
.code {
  font-size: 1.4rem;
}
.join {
  display: flex;
  gap: 2rem;
  align-items: center;
  justify-content: center;
  flex-wrap: wrap;
}
.big {
  font-size: 1.6rem;
}
.sign {
  width: min(46vh, 90vw);
}
.stage {
  display: grid;
  grid-template-columns: minmax(0, 1.25fr) minmax(20rem, 1fr);
  gap: 1rem;
  min-height: 0;
}
.shot {
  margin: 0;
  min-height: 0;
  display: grid;
  place-items: center;
}
.shot img {
  max-width: 100%;
  max-height: calc(100vh - 190px);
  object-fit: contain;
}
.side {
  overflow: auto;
  display: grid;
  gap: 0.6rem;
  align-content: start;
}
.halo {
  width: min(100%, calc(100vh - 410px));
  min-width: 15rem;
  aspect-ratio: 1;
  margin: 0 auto;
}
.told {
  display: grid;
  gap: 0.35rem;
  font-size: 1.12rem;
}
.told ul {
  padding-left: 1.1rem;
}
.grow {
  flex: 1;
}
@media (max-width: 800px) {
  .round {
    height: auto;
  }
  .stage {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
