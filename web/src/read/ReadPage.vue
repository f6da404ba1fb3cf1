<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, data, pictureUrl, type GreyTarget, type Mark } from '../api/client'
import { useCase } from '../cases/case'
import HaloPicture, { type HaloRay } from '../halo/HaloPicture.vue'
import SlantLine from '../halo/SlantLine.vue'
import { centreOf, endsOf, freeId, grow, letterOf, make, move, outlineOf, patchRoles, pull, stepsBetween, titleOf, toolNames, type Handle, type Tool } from './edit'
import { findFaces, marksOf } from './finder'
import LightCard from './LightCard.vue'
import MarkShape from './MarkShape.vue'

const current = useCase()
const frame = computed(() => current.frame!)
const src = computed(() => pictureUrl(frame.value.id, 'view'))
const chosenId = ref<string | null>(null)
const chosen = computed(() => current.list.find((m) => m.id === chosenId.value) ?? null)
const tool = ref<Tool | null>(null)
const patchRole = ref<(typeof patchRoles)[number]>('lit')
const draft = ref<{ a: number[]; b: number[] } | null>(null)
const loupe = ref<number[] | null>(null)
let held: { id: string; handle: Handle; last: number[]; moved: boolean } | null = null
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
const isPatch = (m: Mark | null): m is Extract<Mark, { kind: 'patch' }> => m?.kind === 'patch'
const isCast = (m: Mark | null): m is Extract<Mark, { kind: 'cast' }> => m?.kind === 'cast'
const isEdge = (m: Mark | null): m is Extract<Mark, { kind: 'penumbra' }> => m?.kind === 'penumbra'
const isWedge = (m: Mark | null): m is Extract<Mark, { kind: 'wedge' }> => m?.kind === 'wedge'
const isEye = (m: Mark | null): m is Extract<Mark, { kind: 'eye' }> => m?.kind === 'eye'

function clamp(p: number[]): number[] {
  return [Math.max(0, Math.min(frame.value.facts.width, p[0]!)), Math.max(0, Math.min(frame.value.facts.height, p[1]!))]
}

function arm(t: Tool) {
  if (t === 'wedge' && !greyTargets.value.length) return
  if (t === 'catchlight' && !isEye(chosen.value)) {
    chosenId.value = current.list.find((m) => m.kind === 'eye')?.id ?? null
    if (!chosenId.value) return
  }
  tool.value = tool.value === t ? null : t
}

function finishDraft(a: number[], b: number[]) {
  const t = tool.value
  if (!t) return
  current.remember()
  if (t === 'catchlight') {
    const eye = chosen.value
    if (isEye(eye)) eye.catchlights = [...(eye.catchlights ?? found(eye.id)), outlineOf(a, b)]
  } else {
    const m = make(t, freeId(t, current.list), a, b, shortSide.value, patchRole.value, greyTargets.value[0]?.reflectance ?? [])
    current.marks.marks = [...current.list, m]
    chosenId.value = m.id
    if (t === 'patch') patchRole.value = patchRole.value === 'lit' ? 'shadow' : 'lit'
  }
  tool.value = null
  current.changed()
}

/** What the program found, as outlines a person can keep or drop. */
const found = (id: string) => (current.readings?.by_mark?.[id]?.catchlights ?? []).map((s) => ({ outline: s.outline ?? [] })).filter((o) => o.outline.length > 2)

function dropCatchlight(eye: Extract<Mark, { kind: 'eye' }>, i: number) {
  current.remember()
  eye.catchlights = found(eye.id).filter((_, k) => k !== i)
  current.changed()
}
function findAgain(eye: Extract<Mark, { kind: 'eye' }>) {
  current.remember()
  delete eye.catchlights
  current.changed()
}

function press(e: PointerEvent, at: number[]) {
  if (e.button !== 0) return
  const target = e.target as Element
  const inside = at[0]! >= 0 && at[1]! >= 0 && at[0]! <= frame.value.facts.width && at[1]! <= frame.value.facts.height
  if (tool.value && inside) {
    draft.value = { a: at, b: at }
    ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
    return
  }
  const handle = target.getAttribute('data-handle') as Handle | null
  const id = target.closest('[data-mark]')?.getAttribute('data-mark')
  if (!id) {
    chosenId.value = null
    return
  }
  chosenId.value = id
  held = { id, handle: handle ?? 'body', last: at, moved: false }
  ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
}
function drag(_: PointerEvent, at: number[]) {
  if (draft.value) {
    draft.value.b = clamp(at)
    loupe.value = draft.value.b
    return
  }
  const m = held && current.list.find((k) => k.id === held?.id)
  if (!held || !m) return
  const [dx, dy] = [at[0]! - held.last[0]!, at[1]! - held.last[1]!]
  if (!held.moved && Math.hypot(dx, dy) * 1 < 0.5) return
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
    const { a, b } = draft.value
    draft.value = null
    finishDraft(a, b)
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
function setRole(role: (typeof patchRoles)[number]) {
  if (!isPatch(chosen.value)) return
  current.remember()
  chosen.value.role = role
  current.changed()
}
const greyTargets = ref<GreyTarget[]>([])
onMounted(async () => (greyTargets.value = await data(api.GET('/api/grey-targets')).catch(() => [])))
function setSteps(m: Extract<Mark, { kind: 'wedge' }>, i: number) {
  current.remember()
  m.patches = stepsBetween(...endsOf(m), greyTargets.value[i]!.reflectance)
  current.changed()
}
/** A number typed beside a mark; empty takes it away. */
function setNumber(text: string, put: (v: number | null) => void) {
  const v = text.trim() === '' ? null : Number(text.replace(',', '.'))
  if (v !== null && !Number.isFinite(v)) return
  current.remember()
  put(v)
  current.changed()
}
const setCamera = (part: 'vfov_deg' | 'pitch_deg', text: string) => setNumber(text, (v) => (current.marks.camera = { ...(current.marks.camera ?? {}), [part]: v }))
function setLooks(eye: Extract<Mark, { kind: 'eye' }>, value: string) {
  current.remember()
  if (value === '') delete eye.looks_to_clock
  else eye.looks_to_clock = Number(value)
  current.changed()
}

const finding = ref(false)
const told = ref('')
/** Proposes marks for the largest face that has none yet. */
async function find() {
  if (finding.value) return
  finding.value = true
  told.value = ''
  try {
    const { width, height } = frame.value.facts
    const faces = await findFaces(src.value)
    const near = (m: Mark, p: number[]) => Math.hypot(centreOf(m)[0]! - p[0]!, centreOf(m)[1]! - p[1]!)
    const proposed = faces.map((f) => marksOf(f, width, height, (kind, taken) => freeId(kind, [...current.list, ...taken.map((id) => ({ id }) as Mark)])))
    const fresh = proposed.filter((marks) => !current.list.some((m) => m.kind === 'face' && near(m, centreOf(marks[0]!)) < 0.05 * height))
    const marks = fresh[0]
    if (!marks) {
      told.value = faces.length ? 'Every face found is marked already.' : 'No face found. Mark one by hand with F, or an eye with E: they count as much.'
      return
    }
    // an eye that is marked by hand stays as it is
    const add = marks.filter((m) => m.kind !== 'eye' || !current.list.some((k) => k.kind === 'eye' && near(k, m.limbus.centre) < 2 * m.limbus.rx))
    current.remember()
    current.marks.marks = [...current.list, ...add]
    chosenId.value = add[0]!.id
    current.changed()
    const left = fresh.length - 1
    told.value = `Marked a face${add.length > 1 ? ` and ${add.length === 2 ? 'an eye' : 'both eyes'}` : ''}: check the points and pull them into place.${add.length === 1 ? ' Turned or closed eyes are not marked: mark one with E where its catchlight can be seen.' : ''}${left ? ` ${left} more ${left > 1 ? 'faces' : 'face'} in the picture: press N again.` : ''}`
  } catch (problem) {
    told.value = `The face finder does not run in this browser (${problem instanceof Error ? problem.message : problem}). Mark the face by hand with F.`
  } finally {
    finding.value = false
  }
}

let lastNudge = 0
function keys(e: KeyboardEvent) {
  const target = e.target as HTMLElement
  if (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || e.ctrlKey || e.metaKey || e.altKey) return
  const t = toolNames.find((k) => k.key === e.key.toUpperCase())
  const m = chosen.value
  const arrows: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
  const arrow = arrows[e.key]
  if (t) arm(t.tool)
  else if (e.key.toLowerCase() === 'n') void find()
  else if (e.key === 'Enter' && tool.value && target.tagName !== 'BUTTON') {
    const mid = [frame.value.facts.width / 2, frame.value.facts.height / 2]
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
  else if (isPatch(m) && 'lsg'.includes(e.key.toLowerCase())) setRole(({ l: 'lit', s: 'shadow', g: 'background' } as const)[e.key.toLowerCase() as 'l' | 's' | 'g'])
  else if (e.key === 'Tab' && (target === document.body || target.closest('[data-test="halo"]')) && current.list.length && m) choose(e.shiftKey ? -1 : 1)
  else return
  e.preventDefault()
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))

const hint = computed(() => {
  if (finding.value) return 'Looking for faces; the first time takes a few seconds.'
  if (told.value && !tool.value) return told.value
  if (tool.value === 'eye') return 'Press on the pupil and drag to the edge of the iris.'
  if (tool.value === 'wedge') return 'Drag from the middle of the brightest grey step to the middle of the darkest.'
  if (tool.value === 'face') return 'Press between the eyes and drag to the chin; then pull each point into place.'
  if (tool.value === 'patch') return `Drag a rectangle on the ${patchRole.value} side, all one material.`
  if (tool.value === 'catchlight') return 'Drag a rectangle round the catchlight.'
  if (tool.value === 'cast') return 'Press on the foot of what casts the shadow and drag to the tip of the shadow; then pull the top into place.'
  if (tool.value === 'penumbra') return 'Drag across the edge of a shadow, from full light to full dark.'
  if (tool.value === 'cylinder') return 'Drag along the axis of the bottle or can, then pull its side to the outline.'
  if (tool.value) return 'Press on the centre of the ball and drag to its edge.'
  return current.list.length ? 'Drag marks to move them; press ? for all keys.' : 'Press N to find faces, or F, E or B to mark a face, an eye or a ball by hand.'
})
</script>

<template>
  <div class="read">
    <section class="left" aria-label="Picture with marks">
      <div class="stage">
        <HaloPicture :src="src" :width="frame.facts.width" :height="frame.facts.height" :lights="lights" :rays="rays" :armed="!!tool" :alt="`${current.view?.title}: picture in its halo`" @press="press" @drag="drag" @release="release">
          <template #default="{ scale, stage, origin, box }">
            <MarkShape v-for="m in current.list" :key="m.id" :mark="m" :reading="current.readings?.by_mark?.[m.id]" :scale="scale" :stage="stage" :chosen="m.id === chosenId" />
            <g v-if="draft" class="draft">
              <rect v-if="tool === 'patch' || tool === 'catchlight'" :x="Math.min(stage(draft.a).x, stage(draft.b).x)" :y="Math.min(stage(draft.a).y, stage(draft.b).y)" :width="Math.abs(draft.a[0]! - draft.b[0]!) * scale" :height="Math.abs(draft.a[1]! - draft.b[1]!) * scale" />
              <line v-else-if="tool === 'cast' || tool === 'penumbra' || tool === 'cylinder' || tool === 'face' || tool === 'wedge'" :x1="stage(draft.a).x" :y1="stage(draft.a).y" :x2="stage(draft.b).x" :y2="stage(draft.b).y" />
              <circle v-else :cx="stage(draft.a).x" :cy="stage(draft.a).y" :r="Math.hypot(draft.a[0]! - draft.b[0]!, draft.a[1]! - draft.b[1]!) * scale" />
            </g>
            <g v-if="loupe" class="loupe" pointer-events="none">
              <clipPath id="loupe"><circle :cx="origin.x + 62" :cy="origin.y + 62" r="54" /></clipPath>
              <circle :cx="origin.x + 62" :cy="origin.y + 62" r="56" class="glass" />
              <image :href="src" :x="origin.x + 62 - loupe[0]! * scale * 5" :y="origin.y + 62 - loupe[1]! * scale * 5" :width="2 * box.hw * 5" :height="2 * box.hh * 5" preserveAspectRatio="none" clip-path="url(#loupe)" />
              <path :d="`M${origin.x + 62 - 12} ${origin.y + 62}h8m8 0h8M${origin.x + 62} ${origin.y + 62 - 12}v8m0 8v8`" class="cross" />
            </g>
          </template>
        </HaloPicture>
      </div>
      <div class="tools" role="toolbar" aria-label="Marks">
        <button v-for="t in toolNames" :key="t.tool" class="btn btn-sm btn-plain" :class="{ active: tool === t.tool }" :aria-pressed="tool === t.tool" type="button" :disabled="(t.tool === 'catchlight' && !current.list.some((m) => m.kind === 'eye')) || (t.tool === 'wedge' && !greyTargets.length)" :data-test="`tool-${t.tool}`" @click="arm(t.tool)">
          <kbd>{{ t.key }}</kbd> {{ t.text }}
        </button>
        <button class="btn btn-sm btn-plain" type="button" :disabled="finding" data-test="find" @click="find"><kbd>N</kbd> {{ finding ? 'finding…' : 'find faces' }}</button>
        <span class="gap" />
        <button class="btn btn-sm btn-plain" type="button" :disabled="!current.past.length" data-test="undo" @click="current.undo()">Undo</button>
        <button class="btn btn-sm btn-plain" type="button" :disabled="!current.future.length" data-test="redo" @click="current.redo()">Redo</button>
      </div>
      <p class="hint quiet" aria-live="polite" data-test="hint">{{ hint }} <span class="legend">Band: inner edge is the lens, dashes the side, outer edge behind.</span></p>
    </section>

    <section class="right" aria-label="Reading">
      <p class="lead" data-test="summary">{{ current.readings?.summary?.[0] ?? 'Reading…' }}</p>
      <SlantLine v-if="current.readings?.slant" :line="current.readings.slant" />
      <LightCard v-for="(l, i) in lights" :key="i" :light="l" :first="i === 0" />
      <article v-if="current.readings?.ambient" class="ambient">
        From all around: <span class="figure">{{ (-current.readings.ambient.level_stops).toFixed(1) }} ± {{ Math.max(0.05, current.readings.ambient.level_sd_stops).toFixed(1) }} stops under the key</span>
      </article>
      <article v-if="current.readings?.ratios" class="sheet" data-test="ratios">
        <div class="row2"><strong>Lit to shadow side</strong><span class="figure">{{ current.readings.ratios.lit_to_shadow_stops.toFixed(1) }} stops <span class="quiet">({{ current.readings.ratios.range_stops[0]!.toFixed(1) }} to {{ current.readings.ratios.range_stops[1]!.toFixed(1) }})</span></span></div>
        <div class="row2 quiet"><span>key : fill, each alone</span><span class="figure">{{ current.readings.ratios.key_to_fill.toFixed(1) }} : 1</span></div>
        <div class="row2 quiet"><span>(key + fill) : fill</span><span class="figure">{{ current.readings.ratios.key_plus_fill_to_fill.toFixed(1) }} : 1</span></div>
      </article>
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
          <div class="form-check form-switch"><input class="form-check-input" type="checkbox" role="switch" :checked="!m.off" :aria-label="`Use ${m.id}`" :data-test="`use-${m.id}`" @change="toggle(m)" /></div>
          <div v-if="m.id === chosenId" class="more">
            <label v-if="isPatch(m)">This patch is
              <select class="form-select form-select-sm" :value="m.role" data-test="patch-role" @change="setRole(($event.target as HTMLSelectElement).value as typeof patchRole)">
                <option v-for="r in patchRoles" :key="r" :value="r">{{ r.replace('_', ' ') }}</option>
              </select>
            </label>
            <template v-if="isCast(m)">
              <label>Field of view, upright, °<input class="form-control form-control-sm" inputmode="decimal" :value="current.marks.camera?.vfov_deg ?? ''" data-test="vfov" @change="setCamera('vfov_deg', ($event.target as HTMLInputElement).value)" /></label>
              <label>Camera tilted down, °<input class="form-control form-control-sm" inputmode="decimal" :value="current.marks.camera?.pitch_deg ?? ''" data-test="pitch" @change="setCamera('pitch_deg', ($event.target as HTMLInputElement).value)" /></label>
            </template>
            <template v-if="isEdge(m)">
              <label>From casting edge to shadow, m<input class="form-control form-control-sm" inputmode="decimal" :value="m.gap_m ?? ''" data-test="gap" @change="setNumber(($event.target as HTMLInputElement).value, (v) => (m.gap_m = v))" /></label>
              <label>Pixels a metre there<input class="form-control form-control-sm" inputmode="decimal" :value="m.px_per_m ?? ''" data-test="scale" @change="setNumber(($event.target as HTMLInputElement).value, (v) => (m.px_per_m = v))" /></label>
            </template>
            <label v-if="isWedge(m)">These are
              <select class="form-select form-select-sm" data-test="steps" @change="setSteps(m, Number(($event.target as HTMLSelectElement).value))">
                <option v-for="(g, i) in greyTargets" :key="g.name" :value="i" :selected="g.reflectance.length === m.patches.length">{{ g.name }}</option>
              </select>
            </label>
            <template v-if="isEye(m)">
              <label>A turned eye looks towards
                <select class="form-select form-select-sm" :value="m.looks_to_clock ?? ''" @change="setLooks(m, ($event.target as HTMLSelectElement).value)">
                  <option value="">not said</option>
                  <option v-for="k in 12" :key="k" :value="k">{{ k }} o'clock</option>
                </select>
              </label>
              <span v-for="(_, i) in found(m.id)" :key="i" class="chip">catchlight {{ i + 1 }} <button type="button" class="btn btn-sm btn-plain" :aria-label="`Not a catchlight: ${i + 1}`" @click="dropCatchlight(m, i)">not one</button></span>
              <button v-if="m.catchlights" type="button" class="btn btn-sm btn-plain" @click="findAgain(m)">Find them again</button>
            </template>
            <p v-if="current.readings?.by_mark?.[m.id]?.face" class="face" data-test="face">
              Head turned {{ Math.abs(current.readings!.by_mark![m.id]!.face!.turned_deg).toFixed(0) }} ± {{ (current.readings!.by_mark![m.id]!.face!.turned_sd_deg ?? 4).toFixed(0) }}° to image {{ current.readings!.by_mark![m.id]!.face!.turned_deg >= 0 ? 'right' : 'left' }},
              nodded {{ Math.abs(current.readings!.by_mark![m.id]!.face!.nodded_deg).toFixed(0) }}° {{ current.readings!.by_mark![m.id]!.face!.nodded_deg >= 0 ? 'up' : 'down' }}.
              Read as a blend of stand-in heads: {{ current.readings!.by_mark![m.id]!.face!.heads.filter((h) => h.share >= 0.1).map((h) => `${h.name} ${Math.round(100 * h.share)} %`).join(', ') }};
              typical misfit {{ current.readings!.by_mark![m.id]!.fit?.residual_percent.toFixed(0) }} % over {{ current.readings!.by_mark![m.id]!.fit?.samples }} samples of skin. White dots: lighter than the lights found explain; black: darker.
            </p>
            <button type="button" class="btn btn-sm btn-plain" data-test="remove" @click="removeMark(m.id)">Remove</button>
          </div>
        </li>
      </ul>
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
  gap: 0.35rem;
  padding-top: 0.5rem;
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
  border: 1px solid #d0d0d0;
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
.more {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.5rem;
  padding: 0 0.3rem 0.6rem 2.3rem;
}
.more label {
  font-size: 0.88rem;
}
.face {
  font-size: 0.9rem;
  margin: 0;
  flex-basis: 100%;
}
.chip {
  font-size: 0.9rem;
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
.draft circle {
  fill: none;
  stroke: #fff;
  stroke-width: 1.6;
  stroke-dasharray: 5 3;
}
.glass {
  fill: #222;
  stroke: #fff;
  stroke-width: 2;
}
.cross {
  stroke: #fff;
  stroke-width: 1.2;
  fill: none;
}
@media (max-width: 900px) {
  .read {
    grid-template-columns: minmax(0, 1fr);
    padding: 0.5rem;
  }
  .left {
    position: static;
    height: auto;
  }
  .stage {
    height: 62vh;
    flex: none;
  }
  .legend {
    float: none;
    margin-left: 0;
    display: block;
  }
}
</style>
