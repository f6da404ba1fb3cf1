<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { api, data, pictureUrl, type GreyTarget, type Mark, type Method } from '../api/client'
import { useCase } from '../cases/case'
import HaloPicture, { type HaloRay } from '../halo/HaloPicture.vue'
import RatioLines from '../shell/RatioLines.vue'
import SlantLine from '../halo/SlantLine.vue'
import { adds, centreOf, draws, grow, keyOf, kindOfTool, letterOf, make, move, pull, titleOf, toolNames } from './edit'
import { apart, type DrawingTool, type Point, type Tool } from './kind'
import LightCard from './LightCard.vue'
import MarkDetails from './MarkDetails.vue'
import MarkShape from './MarkShape.vue'
import { brought } from './brought'
import { propose } from './propose'
import QuestionList from './QuestionList.vue'
import PeopleCard from './PeopleCard.vue'
import RoomCard from './RoomCard.vue'
import { capital, tenths } from './where'
import TermHint from '../shell/TermHint.vue'
import ToolGroups from './ToolGroups.vue'
import { holdPointer, isTyping, messageOf, withCommand } from '../shell/events'
import { copy } from '../shell/copy'

const current = useCase()
const frame = computed(() => current.shown)
const src = computed(() => pictureUrl(frame.value.id, 'view'))
const chosenId = ref<string | null>(null)
const chosen = computed(() => current.list.find((m) => m.id === chosenId.value) ?? null)
const tool = shallowRef<Tool | null>(null)
const draft = ref<{ a: Point; b: Point; path: Point[] } | null>(null)
const loupe = ref<Point | null>(null)
let held: { id: string; handle: string; last: Point; moved: boolean } | null = null
let loupeTimer: ReturnType<typeof setTimeout> | undefined

const lights = computed(() => current.readings?.lights ?? [])
const rays = computed<HaloRay[]>(() =>
  lights.value.flatMap((l, light) =>
    l.evidence.flatMap((id) => {
      const m = current.list.find((k) => k.id === id)
      return m ? [{ from: centreOf(m), light }] : []
    }),
  ),
)
const shortSide = computed(() => Math.min(frame.value.facts.width, frame.value.facts.height))
const size = computed<Point>(() => [frame.value.facts.width, frame.value.facts.height])

function clamp(p: Point): Point {
  return [Math.max(0, Math.min(size.value[0], p[0])), Math.max(0, Math.min(size.value[1], p[1]))]
}

function arm(t: Tool) {
  if (!canUse(t)) return
  // what adds to a mark needs one: the chosen, else the first of its kind
  if (adds(t) && chosen.value?.kind !== kindOfTool(t)) chosenId.value = current.list.find((m) => m.kind === kindOfTool(t))?.id ?? null
  tool.value = tool.value === t ? null : t
}

const canUse = (t: Tool) => t.can?.({ list: current.list, targets: greyTargets.value }) ?? true
/** On a narrow screen the answer comes first and the tools lie in a sheet. */
const narrowScreen = window.matchMedia('(max-width: 900px)')
const narrow = ref(narrowScreen.matches)
const byHand = ref(false)
const turned = (e: MediaQueryListEvent) => (narrow.value = e.matches)
onMounted(() => narrowScreen.addEventListener('change', turned))
onBeforeUnmount(() => narrowScreen.removeEventListener('change', turned))
function armFromSheet(t: Tool) {
  byHand.value = false
  arm(t)
}

function finishDraft(a: Point, b: Point, path: Point[] = []) {
  const t = tool.value
  if (!t) return
  told.value = ''
  current.remember()
  const drawn = { a, b, path, picture: size.value, steps: greyTargets.value[0]?.reflectance ?? [] }
  if (draws(t)) {
    const m = make(t, current.list, drawn)
    current.marks.marks = [...current.list, m]
    chosenId.value = m.id
    void settle(t, m.id)
  } else if (chosen.value) t.add(chosen.value, drawn, current.readings?.by_mark?.[chosen.value.id])
  tool.value = null
  current.changed()
}

/** What was drawn is brought into place by the picture, unless it is gone or another picture is open by then. */
async function settle(t: DrawingTool<Mark>, id: string) {
  const frame = current.shown.id
  const drawn = current.list.find((m) => m.id === id)
  if (!t.settle || !drawn) return
  const settled = copy(drawn)
  try {
    await t.settle(settled, frame)
  } catch (e) {
    told.value = messageOf(e)
    return
  }
  const now = current.list.find((m) => m.id === id)
  if (!now || current.shown.id !== frame || JSON.stringify(now) !== JSON.stringify(drawn)) return
  Object.assign(now, settled)
  current.changed()
}

function press(e: PointerEvent, at: Point) {
  if (e.button !== 0) return
  const target = e.target instanceof Element ? e.target : null
  const inside = apart(at, clamp(at)) === 0
  if (tool.value && inside) {
    draft.value = { a: at, b: at, path: [at] }
    holdPointer(e)
    return
  }
  const handle = target?.getAttribute('data-handle')
  const id = target?.closest('[data-mark]')?.getAttribute('data-mark')
  if (!id) {
    chosenId.value = null
    return
  }
  chosenId.value = id
  held = { id, handle: handle ?? 'body', last: at, moved: false }
  holdPointer(e)
}
function drag(_: PointerEvent, at: Point) {
  if (draft.value) {
    draft.value.b = clamp(at)
    const last = draft.value.path.at(-1) ?? draft.value.a
    if (apart(at, last) > 0.004 * shortSide.value) draft.value.path.push(clamp(at))
    loupe.value = draft.value.b
    return
  }
  const m = held && current.list.find((k) => k.id === held?.id)
  if (!held || !m) return
  const [dx, dy] = [at[0] - held.last[0], at[1] - held.last[1]]
  if (!held.moved && Math.hypot(dx, dy) < 0.5) return
  if (!held.moved) current.remember()
  held.moved = true
  if (held.handle === 'body') {
    move(m, dx, dy)
    held.last = at
  } else pull(m, held.handle, clamp(at))
  loupe.value = held.handle === 'body' ? centreOf(m) : clamp(at)
  current.changed()
}
function release() {
  if (draft.value) {
    const { a, b, path } = draft.value
    draft.value = null
    finishDraft(a, b, path)
  }
  held = null
  loupe.value = null
}

function choose(step: number) {
  const n = current.list.length
  if (!n) return
  const i = current.list.findIndex((m) => m.id === chosenId.value)
  chosenId.value = current.list[(i + step + n) % n]?.id ?? null
}
function removeMark(id: string) {
  current.remember()
  current.marks.marks = current.list.filter((m) => m.id !== id)
  if (chosenId.value === id) chosenId.value = null
  current.changed()
}
function toggle(m: Mark) {
  current.remember()
  m.off = !m.off
  current.changed()
}
const greyTargets = ref<GreyTarget[]>([])
const methods = ref<Method[]>([])
onMounted(async () => {
  greyTargets.value = await data(api.GET('/api/grey-targets')).catch(() => [])
  methods.value = await data(api.GET('/api/methods')).catch(() => [])
})
const finding = ref(false)
const told = ref('')
/** Proposes marks for what is not marked yet; unasked, it gives way to whoever began to mark meanwhile. */
async function find(asked = true) {
  if (finding.value) return
  finding.value = true
  told.value = ''
  const id = frame.value.id
  try {
    const proposed = await propose(frame.value, src.value, current.list)
    // an answer for a picture that is no longer shown
    if (frame.value.id !== id) return
    if (!asked && (current.list.length || tool.value || draft.value)) return
    told.value = asked || !proposed.add.length ? proposed.told : `Found by itself, so check. ${proposed.told}`
    if (!proposed.add.length) return
    current.remember()
    current.marks.marks = [...current.list, ...proposed.add]
    chosenId.value = proposed.add[0]?.id ?? null
    current.changed()
  } catch (problem) {
    told.value = problem instanceof Error ? problem.message : String(problem)
  } finally {
    finding.value = false
  }
}

// a picture just brought in is looked at without being asked for
watch(
  () => frame.value.id,
  (id) => {
    if (brought.delete(id) && !current.list.length) void find(false)
  },
  { immediate: true },
)

let lastNudge = 0
function keys(e: KeyboardEvent) {
  if (isTyping(e) || withCommand(e)) return
  const target = e.target instanceof Element ? e.target : document.body
  const t = toolNames.find((k) => k.key === e.key.toUpperCase())
  const m = chosen.value
  const arrows: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
  const arrow = arrows[e.key]
  const own = m && keyOf(m, e.key)
  if (m && own) {
    current.remember()
    own(m)
    current.changed()
  } else if (t) arm(t)
  else if (e.key.toLowerCase() === 'n') void find()
  else if (e.key === 'Enter' && tool.value && target.tagName !== 'BUTTON') {
    const mid: Point = [size.value[0] / 2, size.value[1] / 2]
    finishDraft(mid, mid)
  } else if (e.key === 'Escape') {
    if (tool.value) tool.value = null
    else chosenId.value = null
  } else if (m && (arrow || '+=-'.includes(e.key))) {
    if (Date.now() - lastNudge > 900) current.remember()
    lastNudge = Date.now()
    const by = e.shiftKey && arrow ? 10 : 1
    if (arrow) move(m, arrow[0] * by, arrow[1] * by)
    else grow(m, e.key === '-' ? -1 : 1)
    loupe.value = centreOf(m)
    clearTimeout(loupeTimer)
    loupeTimer = setTimeout(() => (loupe.value = null), 900)
    current.changed()
  } else if (m && (e.key === 'Delete' || e.key === 'Backspace')) removeMark(m.id)
  else if (m && e.key.toLowerCase() === 'o') toggle(m)
  else if (e.key === 'Tab' && (target === document.body || target.closest('[data-test="halo"]')) && current.list.length && m) choose(e.shiftKey ? -1 : 1)
  else return
  e.preventDefault()
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))

const hint = computed(() => {
  if (finding.value) return 'Looking for faces, eyes, balls, bottles and shadows; the first time takes a few seconds.'
  if (told.value && !tool.value) return told.value
  const how = tool.value?.how
  if (how) return `${capital(how)}.`
  return current.list.length ? 'Drag marks to move them; press ? for all keys.' : 'Press N to have marks proposed, or F, E or B to mark a face, an eye or a ball by hand.'
})
/** Sides that standing cylinders are lit from. */
const arcs = computed(() => Object.values(current.readings?.by_mark ?? {}).flatMap((m) => m.arcs ?? []))
/** Where the sun stood, if it is known as the lens saw it. */
const sun = computed(() => {
  const { azimuth_deg, elevation_deg } = current.readings?.sun ?? {}
  return azimuth_deg != null && elevation_deg != null ? { azimuth_deg, elevation_deg } : null
})
</script>

<template>
  <div class="read">
    <section class="left" aria-label="Picture with marks">
      <div class="stage">
        <HaloPicture :src="src" :width="frame.facts.width" :height="frame.facts.height" :lights="lights" :rays="rays" :room="current.readings?.room" :sun="sun" :arcs="arcs" :armed="!!tool" :alt="`${current.view?.title}: picture in its halo`" @press="press" @drag="drag" @release="release">
          <template #default="{ scale, stage, origin, box }">
            <MarkShape v-for="m in current.list" :key="m.id" :mark="m" :reading="current.readings?.by_mark?.[m.id]" :scale="scale" :stage="stage" :chosen="m.id === chosenId" />
            <g v-if="draft" class="draft">
              <rect v-if="tool?.draft === 'box'" :x="Math.min(stage(draft.a).x, stage(draft.b).x)" :y="Math.min(stage(draft.a).y, stage(draft.b).y)" :width="Math.abs(draft.a[0] - draft.b[0]) * scale" :height="Math.abs(draft.a[1] - draft.b[1]) * scale" />
              <polyline v-else-if="tool?.draft === 'path'" :points="draft.path.map((p) => `${stage(p).x},${stage(p).y}`).join(' ')" />
              <line v-else-if="tool?.draft === 'line'" :x1="stage(draft.a).x" :y1="stage(draft.a).y" :x2="stage(draft.b).x" :y2="stage(draft.b).y" />
              <circle v-else :cx="stage(draft.a).x" :cy="stage(draft.a).y" :r="apart(draft.a, draft.b) * scale" />
            </g>
            <g v-if="loupe" class="loupe" pointer-events="none">
              <clipPath id="loupe"><circle :cx="origin.x + 62" :cy="origin.y + 62" r="54" /></clipPath>
              <circle :cx="origin.x + 62" :cy="origin.y + 62" r="56" class="glass" />
              <image :href="src" :x="origin.x + 62 - loupe[0] * scale * 5" :y="origin.y + 62 - loupe[1] * scale * 5" :width="2 * box.hw * 5" :height="2 * box.hh * 5" preserveAspectRatio="none" clip-path="url(#loupe)" />
              <path :d="`M${origin.x + 62 - 12} ${origin.y + 62}h8m8 0h8M${origin.x + 62} ${origin.y + 62 - 12}v8m0 8v8`" class="cross" />
            </g>
          </template>
        </HaloPicture>
      </div>
      <div class="tools" role="toolbar" aria-label="Marks">
        <BButton size="sm" variant="primary" :disabled="finding" data-test="find" @click="find()"><kbd>N</kbd> {{ finding ? 'finding…' : 'find marks' }}</BButton>
        <BButton v-if="narrow" size="sm" variant="secondary" data-test="by-hand" @click="byHand = true">Mark by hand…</BButton>
        <ToolGroups v-else :tool="tool" :can="canUse" @arm="arm" />
        <span class="gap" />
        <BButton size="sm" variant="secondary" class="small-act" :disabled="!current.past.length" data-test="undo" @click="current.undo()">Undo</BButton>
        <BButton size="sm" variant="secondary" class="small-act" :disabled="!current.future.length" data-test="redo" @click="current.redo()">Redo</BButton>
      </div>
      <BOffcanvas v-if="narrow" v-model="byHand" placement="bottom" title="What do you want to mark?" class="sheet-of-tools">
        <ToolGroups :tool="tool" :can="canUse" titled @arm="armFromSheet" />
      </BOffcanvas>
      <p class="hint quiet" aria-live="polite" data-test="hint">{{ hint }} <span class="legend">Band: inner edge is the lens, dashes the side, outer edge behind.</span></p>
    </section>

    <section class="right" aria-label="Reading">
      <p class="lead" data-test="summary">{{ current.readings?.summary?.[0] ?? 'Reading…' }}</p>
      <SlantLine v-if="current.readings?.slant" :line="current.readings.slant" />
      <LightCard v-for="(l, i) in lights" :key="i" :light="l" :first="i === 0" />
      <article v-if="current.readings?.ambient" class="ambient">
        From all around: <span class="figure">{{ (-current.readings.ambient.level_stops).toFixed(1) }} ± {{ Math.max(0.05, current.readings.ambient.level_sd_stops).toFixed(1) }} stops under the key</span>
      </article>
      <PeopleCard v-if="(current.readings?.people?.length ?? 0) > 1" :people="current.readings?.people ?? []" />
      <RoomCard v-if="current.readings?.room && frame" :room="current.readings.room" :frame="frame.id" />
      <article v-if="current.readings?.sun" class="sheet small" data-test="sun-check"><TermHint term="sun"><strong>Sun</strong></TermHint> {{ current.readings.sun.says }}</article>
      <article v-if="current.readings?.ratios" class="sheet" data-test="ratios">
        <div class="row2"><TermHint term="contrast"><strong>Contrast on the subject</strong></TermHint><span class="figure">{{ tenths(current.readings.ratios.lit_to_shadow_stops) }} stops <span class="quiet">({{ tenths(current.readings.ratios.range_stops[0]) }} to {{ tenths(current.readings.ratios.range_stops[1]) }})</span></span></div>
        <p class="quiet small mb-1">{{ current.readings.ratios.contrast_from === 'lights' ? 'As the lights give it between a side that faces the key and one it does not reach.' : 'Between the patches marked lit and shadow.' }}</p>
        <div class="row2"><strong>Lighting ratio</strong><span class="quiet small">what a meter at the subject would show</span></div>
        <RatioLines :ratio="current.readings.ratios" />
        <p class="quiet small mb-0" data-test="ratio-says">{{ current.readings.ratios.says }}</p>
      </article>
      <p v-for="(c, i) in current.readings?.colours ?? []" :key="c.of" class="mb-0" data-test="colour">{{ c.says }} <TermHint v-if="i === 0" term="mired"><span class="visually-hidden">mired</span></TermHint></p>
      <p v-if="current.readings?.look" class="look" data-test="look">
        Look: <strong>{{ current.readings.look.side ? `${current.readings.look.side} ` : '' }}{{ current.readings.look.name }}</strong> ({{ Math.round(100 * current.readings.look.probability) }} %)<template v-for="o in current.readings.look.others ?? []" :key="o.name">; {{ o.name }} {{ Math.round(100 * o.probability) }} %</template>
      </p>

      <h2 v-if="current.list.length" class="mt-1">What says so</h2>
      <ul v-if="current.list.length" class="evidence">
        <li v-for="m in current.list" :key="m.id" :class="{ here: m.id === chosenId, off: m.off }" data-test="evidence">
          <button class="pick" type="button" @click="chosenId = m.id">
            <span class="letter">{{ letterOf(m) }}</span>
            <span class="text"><strong>{{ titleOf(m) }}</strong> <span class="quiet">{{ m.off ? 'switched off' : (current.readings?.by_mark?.[m.id]?.says ?? '…') }}</span></span>
          </button>
          <BFormCheckbox switch :model-value="!m.off" :aria-label="`Use ${m.id}`" :data-test="`use-${m.id}`" @update:model-value="toggle(m)" />
          <MarkDetails v-if="m.id === chosenId" :mark="m" :reading="current.readings?.by_mark?.[m.id]" :grey-targets="greyTargets" :methods="methods" @remove="removeMark(m.id)" />
        </li>
      </ul>
      <QuestionList :questions="current.readings?.questions ?? []" />
      <ul v-if="current.readings?.warnings?.length" class="warnings" aria-label="Keep in mind">
        <li v-for="(w, i) in current.readings.warnings" :key="i"><template v-if="w.mark">{{ w.mark }}: </template>{{ w.text }}</li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.read {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 25.5rem;
  gap: 0.9rem;
  padding: 0.7rem 0.9rem;
  min-height: 0;
}
.left {
  display: flex;
  flex-direction: column;
  min-width: 0;
  height: calc(100vh - 62px);
  position: sticky;
  top: 0;
}
.stage {
  flex: 1;
  min-height: 0;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 0.5rem;
  padding-top: 0.5rem;
  align-items: center;
}
.small-act {
  padding: 0.1rem 0.3rem;
  font-size: 0.85rem;
}
.gap {
  flex: 1;
}
.hint {
  margin: 0.35rem 0 0;
  font-size: 0.92rem;
  min-height: 1.4em;
}
.legend {
  float: right;
  margin-left: 1rem;
}
.right {
  display: grid;
  gap: 0.55rem;
  align-content: start;
}
.lead {
  font-size: 1.32rem;
  font-weight: 400;
  line-height: 1.25;
  margin: 0.2rem 0;
}
.row2 {
  display: flex;
  justify-content: space-between;
  gap: 0.8rem;
}
.look,
.ambient {
  margin: 0;
}
.evidence {
  list-style: none;
  padding: 0;
  margin: 0;
}
.evidence li {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
  border-top: 1px solid var(--line);
}
.evidence li.here {
  background: var(--sheet);
}
.evidence li.off .text {
  opacity: 0.75;
}
.pick {
  background: none;
  border: 0;
  color: inherit;
  text-align: left;
  display: flex;
  gap: 0.55rem;
  padding: 0.42rem 0.2rem;
  align-items: baseline;
}
.letter {
  flex: none;
  width: 1.5rem;
  height: 1.5rem;
  line-height: 1.4rem;
  text-align: center;
  border: 1px solid var(--ink-3);
  border-radius: 50%;
  font-size: 0.84rem;
  font-weight: 600;
}
.text {
  font-size: 0.94rem;
}
.form-switch {
  margin: 0 0.2rem;
}
.warnings {
  margin: 0;
  padding: 0.5rem 0.7rem 0.5rem 1.6rem;
  background: var(--band-2);
  border-radius: 6px;
  font-size: 0.9rem;
  color: var(--ink-2);
}
.draft rect,
.draft line,
.draft polyline,
.draft circle {
  fill: none;
  stroke: var(--light);
  stroke-width: 1.6;
  stroke-dasharray: 5 3;
}
.glass {
  fill: var(--bar);
  stroke: var(--light);
  stroke-width: 2;
}
.cross {
  stroke: var(--light);
  stroke-width: 1.2;
  fill: none;
}
@media (max-width: 900px) {
  /* the answer, the picture, what says so */
  .read {
    display: flex;
    flex-direction: column;
    gap: 0.5rem;
    padding: 0.5rem;
  }
  .left,
  .right {
    display: contents;
  }
  .lead {
    order: -5;
    font-size: 1.15rem;
  }
  .stage {
    order: -4;
    height: 56vh;
    flex: none;
  }
  .tools {
    order: -3;
    padding-top: 0;
  }
  .hint {
    order: -2;
    margin: 0;
  }
  .legend {
    float: none;
    margin-left: 0;
    display: block;
  }
}
</style>
