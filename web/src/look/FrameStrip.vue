<script setup lang="ts">
// The pictures of a case: choose one, say what it is for, add more, grab frames from a film.
import { computed, ref } from 'vue'
import { api, data, pictureUrl, upload, type FrameView } from '../api/client'
import { useCase } from '../cases/case'
import { timeCode } from './film'
import { PICTURES } from '../shell/pictures'
import { messageOf } from '../shell/events'
import PickFiles from '../shell/PickFiles.vue'
import PickOne from '../shell/PickOne.vue'

const current = useCase()
const frames = computed(() => current.view?.frames ?? [])
const problem = ref('')
const busy = ref('')
const emit = defineEmits<{ film: [film: File | null] }>()
const roles = ['reference', 'take', 'plate', 'probe', 'calibration']
const nameOf = (f: FrameView) => (f.time_s != null ? timeCode(f.time_s) : f.file_name)

async function guard(work: () => Promise<void>) {
  problem.value = ''
  try {
    await work()
  } catch (e) {
    problem.value = messageOf(e)
  } finally {
    busy.value = ''
  }
}
const add = (files: File[]) =>
  guard(async () => {
    let last = ''
    for (const [i, file] of files.entries()) {
      busy.value = `Sending ${i + 1} of ${files.length}…`
      last = (await upload(current.id, file, () => {})).id
    }
    if (last) await current.show(last)
  })
const setRole = (role: string) =>
  guard(async () => {
    const f = current.frame
    if (!f) return
    await api.PATCH('/api/frames/{id}', { params: { path: { id: f.id } }, body: { role } })
    await current.show()
  })
const remove = () =>
  guard(async () => {
    const f = current.frame
    if (!f) return
    await api.DELETE('/api/frames/{id}', { params: { path: { id: f.id } } })
    current.frameId = null
    await current.show()
  })
/** Marks of the picture before: a shot's frames differ by little. */
const before = computed(() => {
  const i = frames.value.findIndex((f) => f.id === current.frame?.id)
  return current.list.length || i < 1 ? null : (frames.value[i - 1] ?? null)
})
const copyMarks = (from: FrameView) =>
  guard(async () => {
    const m = await data(api.GET('/api/frames/{id}/marks', { params: { path: { id: from.id } } }))
    current.remember()
    current.marks.marks = m.marks.marks ?? []
    current.marks.camera ??= m.marks.camera
    current.changed()
  })
function step(by: number) {
  const i = frames.value.findIndex((f) => f.id === current.frame?.id)
  const next = frames.value[i + by]
  if (next) void guard(() => current.show(next.id))
}
defineExpose({ step })
</script>

<template>
  <section class="strip" aria-label="Pictures of this case">
    <ul>
      <li v-for="f in frames" :key="f.id" :class="{ here: f.id === current.frame?.id }">
        <BButton variant="secondary" :aria-pressed="f.id === current.frame?.id" data-test="frame" @click="guard(() => current.show(f.id))">
          <img :src="pictureUrl(f.id, 'thumb')" alt="" loading="lazy" />
          <span>{{ nameOf(f) }}</span><span class="quiet">{{ f.role }}</span>
        </BButton>
      </li>
    </ul>
    <div class="acts">
      <PickFiles label="Add pictures" multiple :accept="PICTURES" data-test="add-pictures" @files="add" />
      <PickFiles label="Open a film" accept="video/*" data-test="open-film" @files="([f]) => emit('film', f ?? null)" />
      <label v-if="current.frame" class="role">This picture is a
        <PickOne :value="current.frame.role" :options="roles" data-test="frame-role" @pick="setRole" />
      </label>
      <BButton v-if="before" size="sm" variant="secondary" data-test="copy-marks" @click="copyMarks(before)">Take the marks of {{ nameOf(before) }}</BButton>
      <BButton v-if="frames.length > 1 && current.frame" size="sm" variant="secondary" @click="remove">Remove it</BButton>
      <span v-if="busy" role="status">{{ busy }}</span>
      <span v-if="problem" role="alert" class="problem">{{ problem }}</span>
    </div>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  display: flex;
  gap: 0.4rem;
  padding: 0;
  margin: 0;
  overflow-x: auto;
}
li button {
  background: none;
  border: 2px solid transparent;
  border-radius: 5px;
  color: inherit;
  padding: 0.15rem;
  display: grid;
  width: 6.6rem;
  font-size: 0.8rem;
  text-align: left;
}
li.here button {
  border-color: var(--light);
}
li span {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
img {
  width: 100%;
  height: 3.9rem;
  object-fit: cover;
  border-radius: 3px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.5rem;
  margin-top: 0.4rem;
}
.acts label.btn:focus-within {
  outline: 2px solid var(--light);
  outline-offset: 2px;
}
.role {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  font-size: 0.9rem;
  white-space: nowrap;
}
</style>
