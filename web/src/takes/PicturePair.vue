<script setup lang="ts">
// Reference and take: beside each other with one zoom for both, or the take laid over the reference where the
// alignment says, behind a line that can be moved.
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { pictureUrl, type FrameView } from '../api/client'
import { holdPointer } from '../shell/events'

const props = defineProps<{ reference: FrameView; take: FrameView; mode: 'beside' | 'wipe'; swapped: boolean; back: number[] | null }>()
const zoom = ref({ k: 1, x: 0, y: 0 })
const wipe = ref(50)
const laid = ref(true)
const box = ref<HTMLElement>()
const width = ref(500)
const watcher = new ResizeObserver(([e]) => (width.value = e?.contentRect.width ?? 500))
onMounted(() => box.value && watcher.observe(box.value))
onBeforeUnmount(() => watcher.disconnect())

const shift = computed(() => ({ transform: `translate(${zoom.value.x}px, ${zoom.value.y}px) scale(${zoom.value.k})` }))
/** Zooms about a place in the picture's own box. */
function by(factor: number, at?: { x: number; y: number }) {
  const z = zoom.value
  const k = Math.max(1, Math.min(12, z.k * factor))
  const c = at ?? { x: 0, y: 0 }
  const f = k / z.k
  zoom.value = k === 1 ? { k: 1, x: 0, y: 0 } : { k, x: c.x - f * (c.x - z.x), y: c.y - f * (c.y - z.y) }
}
function wheel(e: WheelEvent) {
  const r = e.currentTarget instanceof Element ? e.currentTarget.getBoundingClientRect() : new DOMRect(0, 0, 1, 1)
  by(Math.exp(-e.deltaY / 400), { x: e.clientX - r.left - r.width / 2, y: e.clientY - r.top - r.height / 2 })
}
let grip: { x: number; y: number } | null = null
function down(e: PointerEvent) {
  if (zoom.value.k === 1) return
  grip = { x: e.clientX - zoom.value.x, y: e.clientY - zoom.value.y }
  holdPointer(e)
}
function drag(e: PointerEvent) {
  if (grip) zoom.value = { ...zoom.value, x: e.clientX - grip.x, y: e.clientY - grip.y }
}
function key(e: KeyboardEvent) {
  const step = 40
  const pans: Record<string, [number, number]> = { ArrowLeft: [step, 0], ArrowRight: [-step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }
  const pan = pans[e.key]
  if (e.key === '+' || e.key === '=') by(1.3)
  else if (e.key === '-') by(1 / 1.3)
  else if (e.key === '0') zoom.value = { k: 1, x: 0, y: 0 }
  else if (pan && zoom.value.k > 1) zoom.value = { ...zoom.value, x: zoom.value.x + pan[0], y: zoom.value.y + pan[1] }
  else return
  e.preventDefault()
}
const facts = (f: FrameView) => f.facts
/** The take's picture in the reference's place: take pixels to reference pixels, then to the screen. */
const overlay = computed(() => {
  const [r, t] = [facts(props.reference), facts(props.take)]
  const s = width.value / r.width
  if (!props.back || !laid.value) return { width: `${width.value}px`, transform: 'none' }
  const [a11 = 1, a12 = 0, a13 = 0, a21 = 0, a22 = 1, a23 = 0, a31 = 0, a32 = 0, a33 = 1] = props.back
  // the image is laid out at its own pixels; css goes column by column
  const n = [s * a11, s * a21, 0, a31, s * a12, s * a22, 0, a32, 0, 0, 1, 0, s * a13, s * a23, 0, a33].map((v) => v / a33)
  return { width: `${t.width}px`, height: `${t.height}px`, transform: `matrix3d(${n.join(',')})` }
})
const [first, second] = [computed(() => (props.swapped ? props.take : props.reference)), computed(() => (props.swapped ? props.reference : props.take))]
</script>

<template>
  <div>
    <div v-if="mode === 'beside'" class="pair" role="group" aria-label="Reference and take, one zoom for both: wheel or + and −, drag or arrow keys, 0 for the whole picture" tabindex="0" @keydown="key">
      <figure v-for="[f, word] in [[first, swapped ? 'Take' : 'Reference'], [second, swapped ? 'Reference' : 'Take']] as const" :key="word">
        <div class="frame" :class="{ near: zoom.k > 1 }" :style="{ aspectRatio: `${facts(reference).width} / ${facts(reference).height}` }" @wheel.prevent="wheel" @pointerdown="down" @pointermove="drag" @pointerup="grip = null" @pointercancel="grip = null">
          <img :src="pictureUrl(f.id, 'view')" :alt="`The ${word.toLowerCase()}`" :style="shift" draggable="false" />
        </div>
        <figcaption>{{ word }}<span class="quiet">{{ word === 'Take' ? `${take.file_name} · hold X to swap` : zoom.k > 1 ? `${zoom.k.toFixed(1)} times` : '' }}</span></figcaption>
      </figure>
    </div>
    <div v-else>
      <div ref="box" class="over" :style="{ aspectRatio: `${facts(reference).width} / ${facts(reference).height}` }">
        <img class="under" :src="pictureUrl(reference.id, 'view')" alt="The reference" />
        <div class="cover" :style="{ clipPath: `inset(0 0 0 ${swapped ? 0 : wipe}%)` }">
          <img :src="pictureUrl(take.id, 'view')" alt="The take, right of the line" :style="overlay" />
        </div>
        <div v-if="!swapped" class="edge" :style="{ left: `${wipe}%` }" />
      </div>
      <BFormInput v-model.number="wipe" type="range" min="0" max="100" aria-label="Where the take begins" data-test="wipe" />
      <BFormCheckbox v-if="back" v-model="laid" class="small">lay the take over the reference by what both show</BFormCheckbox>
    </div>
  </div>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.6rem;
}
figure {
  margin: 0;
  min-width: 0;
}
.frame {
  overflow: hidden;
  background: var(--band-2);
  border-radius: 4px;
  max-height: min(58vh, 32rem);
  width: 100%;
}
.frame.near {
  cursor: grab;
  touch-action: none;
}
.frame img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
figcaption {
  display: flex;
  gap: 0.6rem;
  justify-content: space-between;
  font-size: 0.9rem;
  padding-top: 0.2rem;
}
figcaption .quiet {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.over {
  position: relative;
  overflow: hidden;
  background: var(--band-2);
  border-radius: 4px;
  max-height: 62vh;
  margin: 0 auto;
}
.under {
  width: 100%;
  height: 100%;
  display: block;
}
.cover {
  position: absolute;
  inset: 0;
  overflow: hidden;
}
.cover img {
  position: absolute;
  left: 0;
  top: 0;
  transform-origin: 0 0;
  max-width: none;
}
.edge {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1px;
  background: var(--light);
}
</style>
