<script setup lang="ts">
// Verdict: the picture with pins, what holds, what to change first, remarks, the paragraph and the report.
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, data, pictureUrl, type BriefView } from '../api/client'
import { useCase } from '../cases/case'
import HaloPicture from '../halo/HaloPicture.vue'
import { messageOf } from '../shell/events'
import PickOne from '../shell/PickOne.vue'
import BeliefsPanel from './BeliefsPanel.vue'
import BriefEditor from './BriefEditor.vue'
import FindingsPanel from './FindingsPanel.vue'
import { letter } from './order'
import ParagraphPanel from './ParagraphPanel.vue'
import RemarksPanel from './RemarksPanel.vue'
import { useVerdict } from './verdict'

const current = useCase()
const v = useVerdict()
const frame = computed(() => current.shown)
const tab = ref('findings')
const pin = ref<[number, number] | null>(null)
const placing = ref(false)
const edited = ref<BriefView | null>(null)

async function load() {
  await current.flush()
  await v.load(frame.value.id)
}
onMounted(load)
onBeforeUnmount(v.leave)
async function judgeAs(brief: string) {
  await current.edit({ brief })
  await load()
}
async function changeBrief() {
  const b = v.chosen
  if (!b) return
  try {
    if (b.version != null) {
      edited.value = b
      return
    }
    const copied = await data(api.POST('/api/briefs', { body: { from: b.id, name: `${b.name}, mine` } }))
    await judgeAs(copied.id)
    edited.value = copied
  } catch (e) {
    v.problem = messageOf(e)
  }
}
async function briefSaved() {
  // it may be gone, and the case back with the one it was copied from
  await current.show()
  await load()
}
/** Pins of what is to change or open, of what one points at, and of remarks. */
const found = computed(() => v.findings.flatMap((f) => (f.pin && (f.outcome === 'fault' || f.outcome === 'unsure' || v.here === f.rule) ? [{ id: f.rule, sign: String(f.n), kind: f.outcome as string, at: f.pin }] : [])))
const said = computed(() => v.remarks.flatMap((r, i) => (r.pin ? [{ id: r.id, sign: letter(i), kind: 'said', at: r.pin }] : [])))
const fresh = computed(() => (pin.value ? [{ id: 'new', sign: '+', kind: 'said here', at: pin.value }] : []))
const pins = computed(() => [...found.value, ...said.value, ...fresh.value])
/** Pins on the same mark stand side by side. */
const beside = (k: number) => pins.value.slice(0, k).filter((p) => p.at[0] === pins.value[k]?.at[0] && p.at[1] === pins.value[k]?.at[1]).length
function press(_e: PointerEvent, at: [number, number]) {
  if (!placing.value) return
  const { width, height } = frame.value.facts
  pin.value = [Math.min(width, Math.max(0, at[0])), Math.min(height, Math.max(0, at[1]))]
  placing.value = false
}
function open(id: string) {
  v.here = id
  tab.value = v.remarks.some((r) => r.id === id) ? 'remarks' : 'findings'
}
</script>

<template>
  <div class="verdict">
    <section class="left" aria-label="Picture with pins">
      <HaloPicture :src="pictureUrl(frame.id, 'view')" :width="frame.facts.width" :height="frame.facts.height" :lights="current.readings?.lights ?? []" :armed="placing" :alt="`${current.view?.title}: picture with pins`" @press="press">
        <template #default="{ stage }">
          <g v-for="(p, k) in pins" :key="p.id" :transform="`translate(${stage(p.at).x + 27 * beside(k)} ${stage(p.at).y})`" class="pin" :class="[p.kind, { here: v.here === p.id }]" data-test="pin" @pointerenter="v.here = p.id" @pointerleave="v.here = null" @click="open(p.id)">
            <rect v-if="p.kind.startsWith('said')" x="-11" y="-11" width="22" height="22" rx="4" /><circle v-else r="12" /><text>{{ p.sign }}</text>
          </g>
        </template>
      </HaloPicture>
    </section>
    <section class="right" aria-label="Verdict">
      <div class="top">
        <h1 class="m-0">Verdict</h1>
        <label>as <PickOne class="d-inline-block w-auto" :value="current.view?.brief" :options="v.briefs.map((b) => ({ value: b.id, text: b.name }))" data-test="verdict-brief" @pick="judgeAs" /></label>
        <BButton v-if="v.chosen" size="sm" variant="secondary" data-test="change-brief" @click="changeBrief">{{ v.chosen.version == null ? 'Copy and change' : 'Change' }}</BButton>
      </div>
      <p v-if="v.problem" role="alert" class="problem">{{ v.problem }}</p>
      <p v-if="!v.verdict && !v.problem" class="quiet" role="status">Judging…</p>
      <template v-if="v.verdict">
        <p v-if="v.verdict.unsuited" class="problem" role="alert" data-test="unsuited">{{ v.verdict.unsuited }}</p>
        <p v-for="c in v.chosen?.contradictions ?? []" :key="c" class="problem" role="alert">{{ c }}</p>
        <p v-if="v.chosen" class="quiet small">{{ v.chosen.says }} {{ v.chosen.school }}</p>
        <BTabs v-model="tab" nav-class="tabs" no-fade>
          <BTab id="findings" title="Findings"><FindingsPanel /></BTab>
          <BTab id="remarks" :title="v.remarks.length ? `Remarks (${v.remarks.length})` : 'Remarks'" lazy><RemarksPanel v-model:pin="pin" v-model:placing="placing" /></BTab>
          <BTab id="report" title="In short, report" lazy><ParagraphPanel :key="frame.id" /></BTab>
          <BTab id="beliefs" title="Beliefs" lazy><BeliefsPanel :key="frame.id" /></BTab>
        </BTabs>
      </template>
    </section>
    <BriefEditor v-if="edited" :brief="edited" @close="edited = null" @saved="briefSaved" />
  </div>
</template>

<style scoped>
.verdict {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 31rem;
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
  min-width: 0;
}
.top {
  display: flex;
  align-items: center;
  gap: 0.8rem;
  flex-wrap: wrap;
}
p {
  margin: 0;
}
.right :deep(.tab-content) {
  padding-top: 0.6rem;
}
.pin {
  cursor: pointer;
}
.pin circle,
.pin rect {
  fill: var(--deep);
  stroke: var(--light);
  stroke-width: 1.6;
}
.pin.fault circle {
  stroke: var(--fault);
  stroke-width: 2.4;
}
.pin.unsure circle {
  stroke-dasharray: 4 3;
}
.pin.here circle,
.pin.here rect {
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
@media (max-width: 980px) {
  .verdict {
    grid-template-columns: minmax(0, 1fr);
  }
  .left {
    position: static;
    height: 62vh;
  }
}
</style>
