<script setup lang="ts">
// The gradebook as a table: out, and back in after a look at what it would change.
import { ref } from 'vue'
import { api, data, type TableIn } from '../api/client'
import { messageOf } from '../shell/events'
import PickFiles from '../shell/PickFiles.vue'
import { percent } from './wall'

const props = defineProps<{ classId: string; titles: string[] }>()
const emit = defineEmits<{ changed: [] }>()
const text = ref('')
const found = ref<TableIn | null>(null)
const problem = ref('')
async function send(apply: boolean) {
  try {
    found.value = await data(api.POST('/api/classes/{id}/gradebook', { params: { path: { id: props.classId } }, body: { text: text.value, apply } }))
    problem.value = ''
    if (apply) {
      found.value = null
      emit('changed')
    }
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function read(files: File[]) {
  const file = files[0]
  if (!file) return
  text.value = await file.text()
  await send(false)
}
</script>

<template>
  <div class="table-in">
    <p class="acts"><a :href="`/api/classes/${classId}/gradebook.csv`" data-test="book-csv">As a table (CSV)</a> <PickFiles accept=".csv,.tsv,.txt,text/csv" label="Take a table in" data-test="book-file" @files="read" /> <span class="quiet small">In the form of the one it gives out; what is entered so counts before what was graded here.</span></p>
    <p v-if="problem" role="alert" class="problem" data-test="table-problem">{{ problem }}</p>
    <template v-if="found">
      <ul v-if="found.problems.length" class="problem small" data-test="table-problems"><li v-for="p in found.problems" :key="p">{{ p }}</li></ul>
      <p v-if="!found.changes.length" class="quiet m-0">The table changes nothing.</p>
      <template v-else>
        <ul class="small" data-test="table-changes"><li v-for="(c, i) in found.changes" :key="i"><bdi>{{ c.name }}</bdi>, {{ titles[c.assignment] }}: {{ percent(c.was, 1) || 'nothing' }} → {{ c.share == null ? 'as graded here' : percent(c.share, 1) }}</li></ul>
        <p class="acts"><BButton size="sm" variant="primary" data-test="table-apply" @click="send(true)">Take {{ found.changes.length }} {{ found.changes.length === 1 ? 'change' : 'changes' }} into the book</BButton> <BButton size="sm" variant="secondary" @click="found = null">Leave it</BButton></p>
      </template>
    </template>
  </div>
</template>

<style scoped>
.acts {
  display: flex;
  gap: 0.8rem;
  align-items: center;
  flex-wrap: wrap;
  margin: 0.4rem 0;
}
ul {
  margin: 0;
  padding-left: 1.1rem;
}
</style>
