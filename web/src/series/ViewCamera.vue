<script setup lang="ts">
// The camera of the device with the guide of a view over it. Where none may be used, a file is taken instead.
import { onBeforeUnmount, onMounted, ref } from 'vue'
import type { ShotList, WantedView } from '../api/client'
import ViewGuide from './ViewGuide.vue'

const props = defineProps<{ list: ShotList; view: WantedView }>()
const emit = defineEmits<{ taken: [file: File]; close: [] }>()
const video = ref<HTMLVideoElement>()
const size = ref<[number, number]>([0, 0])
const problem = ref('')
const busy = ref(false)
let stream: MediaStream | null = null

onMounted(async () => {
  // left out by browsers where the page does not come over a safe connection
  const devices = (navigator as { mediaDevices?: MediaDevices }).mediaDevices
  if (!devices) {
    problem.value = 'This browser gives no camera to a page that does not come over a safe connection. Take the picture with the camera of the device, and choose it.'
    return
  }
  try {
    stream = await devices.getUserMedia({ video: { facingMode: 'environment', width: { ideal: 4096 }, height: { ideal: 3072 } }, audio: false })
    if (video.value) {
      video.value.srcObject = stream
      await video.value.play()
    }
  } catch (e) {
    problem.value = e instanceof DOMException && e.name === 'NotAllowedError' ? 'The camera was not allowed. Choose a picture instead.' : 'No camera answers. Choose a picture instead.'
  }
})
onBeforeUnmount(() => stream?.getTracks().forEach((t) => t.stop()))
function ready() {
  if (video.value) size.value = [video.value.videoWidth, video.value.videoHeight]
}
async function take() {
  const v = video.value
  if (!v || !v.videoWidth || busy.value) return
  busy.value = true
  const canvas = new OffscreenCanvas(v.videoWidth, v.videoHeight)
  canvas.getContext('2d')?.drawImage(v, 0, 0)
  const blob = await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.94 })
  emit('taken', new File([blob], `${props.view.id}.jpg`, { type: 'image/jpeg' }))
  busy.value = false
}
</script>

<template>
  <BModal :model-value="true" :title="`${view.name}: ${view.says}`" size="xl" fullscreen="md" hide-footer @update:model-value="(open) => !open && emit('close')">
    <p v-if="problem" role="alert" class="problem" data-test="camera-problem">{{ problem }}</p>
    <div v-else class="stage">
      <video ref="video" muted playsinline aria-label="What the camera sees" data-test="camera" @loadedmetadata="ready" />
      <ViewGuide v-if="size[0]" :list="list" :view="view" :width="size[0]" :height="size[1]" />
    </div>
    <div class="below">
      <BButton v-if="!problem" variant="primary" :disabled="!size[0] || busy" data-test="camera-take" @click="take">Take</BButton>
      <BButton variant="secondary" data-test="camera-close" @click="emit('close')">Close</BButton>
    </div>
  </BModal>
</template>

<style scoped>
.stage {
  position: relative;
  width: fit-content;
  max-width: 100%;
  margin: 0 auto;
}
video {
  display: block;
  max-width: 100%;
  max-height: 66vh;
}
.below {
  display: flex;
  gap: 0.6rem;
  justify-content: center;
  margin-top: 0.8rem;
}
</style>
