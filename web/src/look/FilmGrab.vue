<script setup lang="ts">
// A film in the browser: scrub, step by frames, grab one at full size into the case with its time. The film itself stays here.
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { upload, type FrameView } from '../api/client'
import { rateOf, timeCode } from './film'
import { isTyping, messageOf, withCommand } from '../shell/events'

const props = defineProps<{ film: File; caseId: string }>()
const emit = defineEmits<{ grabbed: [frame: FrameView]; close: [] }>()
const src = URL.createObjectURL(props.film)
const video = ref<HTMLVideoElement>()
const at = ref(0)
const length = ref(0)
const size = ref('')
const problem = ref('')
const busy = ref(false)
const rate = ref(24)
const seen: number[] = []
const playing = ref(false)

function watchFrames(_: number, meta: VideoFrameCallbackMetadata) {
  at.value = meta.mediaTime
  if (playing.value) {
    seen.push(meta.mediaTime)
    if (seen.length > 40) seen.shift()
    rate.value = rateOf(seen) ?? rate.value
  }
  video.value?.requestVideoFrameCallback(watchFrames)
}
function ready() {
  const v = video.value
  if (!v) return
  // recorded by a browser, a film may not say how long it is: its end does
  if (Number.isFinite(v.duration)) length.value = v.duration
  else {
    v.addEventListener('durationchange', () => {
      if (!Number.isFinite(v.duration)) return
      length.value = v.duration
      v.currentTime = 0
    })
    v.currentTime = 1e7
  }
  size.value = `${v.videoWidth} × ${v.videoHeight}`
  v.requestVideoFrameCallback(watchFrames)
}
function step(frames: number) {
  const v = video.value
  if (!v) return
  v.pause()
  // to the middle of a frame: its edges belong to two
  v.currentTime = Math.max(0, (Math.floor(at.value * rate.value + 0.01) + frames + 0.5) / rate.value)
}
function seek(t: number) {
  if (video.value) video.value.currentTime = t
}
const toggle = () => void (video.value?.paused ? video.value.play() : video.value?.pause())

async function grab() {
  const v = video.value
  if (!v || busy.value || !v.videoWidth) return
  v.pause()
  busy.value = true
  problem.value = ''
  try {
    const canvas = document.createElement('canvas')
    canvas.width = v.videoWidth
    canvas.height = v.videoHeight
    canvas.getContext('2d')?.drawImage(v, 0, 0)
    const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'))
    if (!blob) throw new Error('This browser cannot hand over the frame.')
    const time_s = Math.round(at.value * 1000) / 1000
    const file = new File([blob], `${props.film.name.replace(/\.[^.]+$/, '')} ${timeCode(time_s).replaceAll(':', '.')}.png`, { type: 'image/png' })
    emit('grabbed', await upload(props.caseId, file, () => {}, { role: 'reference', film: props.film.name, time_s }))
  } catch (e) {
    problem.value = messageOf(e)
  } finally {
    busy.value = false
  }
}
function keys(e: KeyboardEvent) {
  if (isTyping(e) || withCommand(e)) return
  if (e.key === ',' || e.key === '<') step(e.key === ',' ? -1 : -Math.round(rate.value))
  else if (e.key === '.' || e.key === '>') step(e.key === '.' ? 1 : Math.round(rate.value))
  else if (e.key.toLowerCase() === 'g') void grab()
  else return
  e.preventDefault()
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => {
  window.removeEventListener('keydown', keys)
  URL.revokeObjectURL(src)
})
const clock = computed(() => timeCode(at.value))
</script>

<template>
  <div class="film sheet" role="group" aria-label="Film">
    <video ref="video" :src="src" muted playsinline preload="auto" data-test="film" @loadedmetadata="ready" @play="playing = true" @pause="playing = false" @error="problem = 'This browser cannot play the film: export it as WebM (VP9) or MP4 (H.264), or send single frames.'" />
    <BFormInput type="range" min="0" :max="length" step="0.001" :model-value="at" aria-label="Place in the film" @update:model-value="(v) => seek(Number(v))" />
    <div class="bar">
      <BButton size="sm" variant="secondary" @click="toggle">{{ playing ? 'Pause' : 'Play' }}</BButton>
      <BButton size="sm" variant="secondary" data-test="film-back" @click="step(-1)"><kbd>,</kbd> frame back</BButton>
      <BButton size="sm" variant="secondary" data-test="film-on" @click="step(1)"><kbd>.</kbd> frame on</BButton>
      <BButton size="sm" variant="primary" :disabled="busy" data-test="grab" @click="grab"><kbd>G</kbd> {{ busy ? 'grabbing…' : 'Grab this frame' }}</BButton>
      <label>frames a second<BFormInput v-model.number="rate" size="sm" inputmode="decimal" /></label>
      <span class="figure" data-test="film-time">{{ clock }}</span><span class="quiet">{{ size }}</span>
      <BButton size="sm" variant="secondary" data-test="film-close" @click="emit('close')">Close</BButton>
    </div>
    <p class="quiet small mb-0">The film stays on this machine; only grabbed frames are sent. Set “Encoded” to what the camera wrote (video, hybrid log-gamma, logarithmic).</p>
    <p v-if="problem" role="alert" class="problem mb-0">{{ problem }}</p>
  </div>
</template>

<style scoped>
video {
  width: 100%;
  max-height: 56vh;
  background: var(--bar);
}
input[type='range'] {
  width: 100%;
  accent-color: var(--ink-2);
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: center;
}
.bar label {
  display: flex;
  gap: 0.4rem;
  align-items: center;
  font-size: 0.88rem;
  white-space: nowrap;
}
.bar input {
  width: 4.6rem;
}
</style>
