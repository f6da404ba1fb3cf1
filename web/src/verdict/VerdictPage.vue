<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, data, pictureUrl, type Brief, type Finding, type Verdict } from '../api/client'
import { useCase } from '../cases/case'
import HaloPicture from '../halo/HaloPicture.vue'
import { messageOf } from '../shell/events'
import PickOne from '../shell/PickOne.vue'

const current = useCase()
const frame = computed(() => current.shown)
const verdict = ref<Verdict | null>(null)
const briefs = ref<Brief[]>([])
const problem = ref('')
const here = ref<string | null>(null)

async function load() {
  try {
    await current.flush()
    const [v, b] = await Promise.all([data(api.GET('/api/frames/{id}/verdict', { params: { path: { id: frame.value.id } } })), data(api.GET('/api/briefs'))])
    verdict.value = v
    briefs.value = b
    problem.value = ''
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(load)
async function judgeAs(brief: string) {
  await current.edit({ brief })
  await load()
}
const numbered = computed(() => (verdict.value?.findings ?? []).map((f, i) => ({ ...f, n: i + 1 })))
const pins = computed(() => numbered.value.flatMap((f) => (f.pin ? [{ ...f, pin: f.pin }] : [])))
const heads: Record<Finding['outcome'], string> = { fault: 'To change', unsure: 'Cannot be decided', holds: 'What holds', cannot_tell: 'Cannot be told yet' }
const order: Finding['outcome'][] = ['fault', 'unsure', 'holds', 'cannot_tell']
const groups = computed(() => order.map((o) => ({ o, list: numbered.value.filter((f) => f.outcome === o) })).filter((g) => g.list.length))
/** Pins of findings on the same mark stand side by side. */
const beside = (f: (typeof pins.value)[number]) => pins.value.filter((p) => p.n < f.n && p.pin[0] === f.pin[0] && p.pin[1] === f.pin[1]).length
</script>

<template>
  <div class="verdict">
    <section class="left" aria-label="Picture with pins">
      <HaloPicture :src="pictureUrl(frame.id, 'view')" :width="frame.facts.width" :height="frame.facts.height" :lights="current.readings?.lights ?? []" :alt="`${current.view?.title}: picture with pins`">
        <template #default="{ stage }">
          <g v-for="f in pins" :key="f.n" :transform="`translate(${stage(f.pin).x + 27 * beside(f)} ${stage(f.pin).y})`" class="pin" :class="[f.outcome, { here: here === f.rule }]" data-test="pin" @pointerenter="here = f.rule" @pointerleave="here = null">
            <circle r="12" /><text>{{ f.n }}</text>
          </g>
        </template>
      </HaloPicture>
    </section>
    <section class="right" aria-label="Verdict">
      <div class="top">
        <h1 class="m-0">Verdict</h1>
        <label>as <PickOne class="d-inline-block w-auto" :value="current.view?.brief" :options="briefs.map((b) => ({ value: b.id, text: b.name }))" data-test="verdict-brief" @pick="judgeAs" /></label>
      </div>
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
      <p v-else-if="!verdict" class="quiet" role="status">Judging…</p>
      <template v-for="g in groups" :key="g.o">
        <h2>{{ heads[g.o] }}</h2>
        <article v-for="f in g.list" :key="f.rule" class="sheet finding" :class="[g.o, { here: here === f.rule }]" data-test="finding" :data-outcome="f.outcome" @pointerenter="here = f.rule" @pointerleave="here = null">
          <h3><span class="n">{{ f.n }}</span>{{ g.o === 'holds' ? f.says : f.title }}</h3>
          <p v-if="g.o !== 'holds'">{{ f.says }}</p>
          <p v-if="f.change" class="change"><strong>One change:</strong> {{ f.change }}</p>
          <p v-if="g.o === 'fault' || g.o === 'unsure'" class="quiet small">{{ f.school }} Rule: {{ f.source }}. Says so: {{ f.evidence.join(', ') }}.</p>
        </article>
      </template>
    </section>
  </div>
</template>

<style scoped>
.verdict {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 27rem;
  gap: 0.9rem;
  padding: 0.8rem 0.9rem;
}
.left {
  height: calc(100vh - 74px);
  position: sticky;
  top: 0.6rem;
}
.right {
  display: grid;
  gap: 0.55rem;
  align-content: start;
}
.top {
  display: flex;
  align-items: center;
  gap: 1rem;
}
.pin circle {
  fill: var(--deep);
  stroke: var(--light);
  stroke-width: 1.6;
}
.pin.fault circle {
  stroke: var(--fault);
  stroke-width: 2.4;
}
.pin.here circle {
  fill: var(--light);
}
.pin.here text {
  fill: var(--dark);
}
.pin text {
  fill: var(--light);
  font-size: 12px;
  font-weight: 700;
  text-anchor: middle;
  dominant-baseline: central;
}
.finding {
  border-left: 4px solid var(--tick);
}
.finding.fault {
  border-color: var(--fault);
}
.finding.unsure {
  border-style: dashed;
  border-width: 0 0 0 4px;
}
.finding.here {
  background: var(--raised);
}
h3 {
  font-size: 1.02rem;
  font-weight: 600;
  margin: 0;
  display: flex;
  gap: 0.5rem;
}
.n {
  flex: none;
  width: 1.4rem;
  height: 1.4rem;
  line-height: 1.4rem;
  text-align: center;
  border-radius: 50%;
  background: var(--bar);
  font-size: 0.85rem;
}
p {
  margin: 0.25rem 0 0;
}
.change {
  color: var(--light);
}
@media (max-width: 900px) {
  .verdict {
    grid-template-columns: minmax(0, 1fr);
  }
  .left {
    position: static;
    height: 62vh;
  }
}
</style>
