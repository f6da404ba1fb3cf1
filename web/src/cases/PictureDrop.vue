<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { upload, type FrameView } from '../api/client'
import { PICTURES } from '../shell/pictures'
import { messageOf } from '../shell/events'
import PickFiles from '../shell/PickFiles.vue'
import { warmUp } from '../read/finder'
import { brought } from '../read/brought'

const props = defineProps<{ caseId?: string; prepare?: () => Promise<string> }>()
const emit = defineEmits<{ taken: [frame: FrameView, caseId: string] }>()
const over = ref(false)
const share = ref<number | null>(null)
const problem = ref('')
// while a picture is looked for
onMounted(warmUp)

async function take(file: File | undefined | null) {
  if (!file || share.value !== null) return
  problem.value = ''
  share.value = 0
  try {
    if (file.size === 0) throw new Error('The file is empty (zero bytes): choose it again, or export it again from where it came.')
    const id = props.caseId ?? (await props.prepare?.())
    if (!id) return
    const frame = await upload(id, file, (s) => (share.value = s))
    brought.add(frame.id)
    emit('taken', frame, id)
  } catch (e) {
    problem.value = messageOf(e)
  } finally {
    share.value = null
  }
}
function dropped(e: DragEvent) {
  over.value = false
  void take(e.dataTransfer?.files[0])
}
</script>

<template>
  <div class="drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="dropped">
    <p class="mb-2">Drop a picture here, or</p>
    <PickFiles label="Choose a picture" variant="primary" :accept="PICTURES" data-test="file" :disabled="share !== null" @files="([f]) => take(f)" />
    <p class="quiet small mt-2 mb-0">JPEG, PNG, WebP, TIFF, BMP, OpenEXR, HDR or camera raw up to 80 MB. Where it was taken is removed on the way in.</p>
    <div v-if="share !== null" class="mt-3" role="status">
      <BProgress :value="share" :max="1" aria-label="Sending the picture" />
      <span class="ms-2">{{ share < 1 ? `Sending, ${Math.round(share * 100)} %` : 'Looking at it…' }}</span>
    </div>
    <p v-if="problem" class="problem mt-3 mb-0" role="alert" data-test="upload-problem">{{ problem }}</p>
  </div>
</template>

<style scoped>
.drop {
  border: 2px dashed var(--tick);
  border-radius: 8px;
  padding: 1.4rem;
  text-align: center;
}
.drop.over {
  border-color: var(--light);
  background: var(--raised);
}
.drop:focus-within {
  border-color: var(--light);
}
.progress {
  width: 100%;
}
</style>
