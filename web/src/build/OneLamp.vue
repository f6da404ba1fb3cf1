<script setup lang="ts">
// The set with one lamp that is carried about: a plate at each place, or one long exposure with a clock to follow on the phone.
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, data, type OneLampPlan } from '../api/client'
import PickOne from '../shell/PickOne.vue'
import { messageOf } from '../shell/events'

const props = defineProps<{ caseId: string }>()
const plan = ref<OneLampPlan | null>(null)
const problem = ref('')
async function load(lamp?: string) {
  try {
    plan.value = await data(api.GET('/api/cases/{id}/build/one-lamp', { params: { path: { id: props.caseId }, query: { lamp } } }))
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(() => load())
// the clock: seconds since the shutter was opened
const seconds = ref(-1)
let began = 0
let timer: ReturnType<typeof setInterval> | undefined
const running = computed(() => seconds.value >= 0)
function stop() {
  clearInterval(timer)
  seconds.value = -1
}
function start() {
  began = performance.now()
  seconds.value = 0
  timer = setInterval(() => {
    seconds.value = (performance.now() - began) / 1000
    if (plan.value && seconds.value > plan.value.total_s + 1) stop()
  }, 100)
}
onBeforeUnmount(stop)
/** What to do now, and for how long still. */
const now = computed(() => {
  const t = seconds.value
  for (const s of plan.value?.steps ?? []) {
    const [from, to] = s.burns_s ?? [0, 0]
    if (t < from) return { does: `Covered. Carry it to: ${s.light}, ${s.place}`, left: from - t, burns: false }
    if (t < to) return { does: `Burn: ${s.light}`, left: to - t, burns: true }
  }
  return { does: 'Close the shutter.', left: 0, burns: false }
})
const time = (s: number) => (s < 60 ? `${s.toFixed(1)} s` : `${Math.floor(s / 60)} min ${(s % 60).toFixed(0)} s`)
</script>

<template>
  <section aria-label="With one lamp" data-test="one-lamp">
    <p v-if="problem" role="alert" class="problem m-0">{{ problem }}</p>
    <template v-if="plan">
      <label class="pick">Lamp<PickOne :value="plan.lamp" :options="plan.others.map(([value = '', text = '']) => ({ value, text }))" aria-label="Lamp that is carried about" data-test="one-lamp-pick" @pick="load" /></label>
      <ol>
        <li v-for="s in plan.steps" :key="s.light" data-test="one-lamp-step"><strong>{{ s.light }}</strong>: {{ s.place }}. As a plate: {{ s.plate }}<template v-if="s.burns_s"> In one exposure: {{ time(s.burns_s[1] - s.burns_s[0]) }}.</template></li>
      </ol>
      <p v-if="plan.total_s > 0" class="m-0">One exposure of {{ time(plan.total_s) }} with the lamp at {{ plan.setting }}, covered while it is carried; each level ± {{ plan.sd_stops.toFixed(1) }} stops.</p>
      <p v-for="s in plan.says" :key="s" class="quiet m-0">{{ s }}</p>
      <div v-if="plan.total_s > 0" class="clock" :class="{ burns: running && now.burns }">
        <template v-if="running">
          <p class="does m-0" aria-live="assertive" data-test="clock-does">{{ now.does }}</p>
          <p class="left figure m-0">{{ now.left.toFixed(1) }}</p>
          <BButton variant="secondary" data-test="clock-stop" @click="stop">Stop</BButton>
        </template>
        <BButton v-else variant="primary" data-test="clock-start" @click="start">Open the shutter: start the clock</BButton>
      </div>
    </template>
  </section>
</template>

<style scoped>
ol {
  padding-left: 1.3rem;
  margin: 0.4rem 0;
}
.pick {
  max-width: 24rem;
}
.clock {
  margin-top: 0.6rem;
  padding: 0.8rem;
  border-radius: 6px;
  background: var(--band-2);
  display: grid;
  gap: 0.4rem;
  justify-items: start;
}
.burns {
  background: var(--light);
  color: var(--dark);
}
.does {
  font-size: 1.5rem;
  font-weight: 700;
}
.left {
  font-size: 4rem;
  line-height: 1;
  font-weight: 700;
}
</style>
