<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { RouterLink, RouterView, useRoute, useRouter } from 'vue-router'
import ConflictBar from '../shell/ConflictBar.vue'
import KeysHelp from '../shell/KeysHelp.vue'
import { useCase } from './case'
import PictureDrop from './PictureDrop.vue'
import { isTyping, messageOf } from '../shell/events'

const props = defineProps<{ caseId: string }>()
const current = useCase()
const router = useRouter()
const route = useRoute()
/** A set that was planned without a picture needs none to be changed and built; a series begins with its list. */
const planned = computed(() => route.name === 'series' || (current.view?.has_set === true && (route.name === 'rebuild' || route.name === 'build')))
const loading = ref(true)
const failed = ref('')

async function load() {
  loading.value = true
  failed.value = ''
  try {
    await current.open(props.caseId)
  } catch (e) {
    failed.value = messageOf(e)
  } finally {
    loading.value = false
  }
}
watch(() => props.caseId, load, { immediate: true })

function keys(e: KeyboardEvent) {
  if (isTyping(e)) return
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z') {
    e.preventDefault()
    if (e.shiftKey) current.redo()
    else current.undo()
  } else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'y') {
    e.preventDefault()
    current.redo()
  } else if (!e.ctrlKey && !e.metaKey && !e.altKey && /^[1-8]$/.test(e.key)) {
    const name = ['look', 'read', 'rebuild', 'build', 'takes', 'verdict', 'plates', 'series'][Number(e.key) - 1]
    if (name && (current.frame || current.view?.has_set)) void router.push({ name, params: { caseId: props.caseId } })
  }
}
const leaving = (e: BeforeUnloadEvent) => {
  if (current.saving !== 'saved') {
    void current.flush()
    e.preventDefault()
  }
}
onMounted(() => {
  window.addEventListener('keydown', keys)
  window.addEventListener('beforeunload', leaving)
})
onBeforeUnmount(() => {
  window.removeEventListener('keydown', keys)
  window.removeEventListener('beforeunload', leaving)
  void current.flush()
})
</script>

<template>
  <main class="case">
    <p v-if="loading" class="p-4 quiet" role="status">Opening the case…</p>
    <div v-else-if="failed" class="p-4">
      <h1>The case cannot be opened</h1>
      <p role="alert">{{ failed }}</p>
      <RouterLink to="/cases">Your cases</RouterLink>
    </div>
    <div v-else-if="!current.frame && current.view && !planned" class="p-4 narrow">
      <h1>{{ current.view.title }}</h1>
      <p class="quiet">This case has no picture yet.<template v-if="current.view.has_set"> Its set was planned without one: <RouterLink :to="{ name: 'rebuild', params: { caseId } }">Rebuild</RouterLink> and <RouterLink :to="{ name: 'build', params: { caseId } }">Build</RouterLink> work as they are; a test picture goes here.</template></p>
      <PictureDrop :case-id="caseId" @taken="load" />
      <p class="mt-3 mb-0">Several views of one thing, or of several people? <RouterLink :to="{ name: 'series', params: { caseId } }" data-test="begin-series">Begin with a shot list</RouterLink>.</p>
    </div>
    <template v-else>
      <ConflictBar :document="current" />
      <RouterView />
      <KeysHelp />
    </template>
  </main>
</template>

<style scoped>
.case {
  flex: 1;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.narrow {
  max-width: 46rem;
}
</style>
