<script setup lang="ts">
// Pictures of others that wait for me: looked at, said something about. Nobody's name is told.
import { computed, onMounted, reactive, ref } from 'vue'
import { api, data, type AssignmentView, type PeerTask } from '../api/client'
import HaloPicture from '../halo/HaloPicture.vue'
import { messageOf } from '../shell/events'
import NumberField from '../shell/NumberField.vue'

const props = defineProps<{ of: AssignmentView }>()
const all = ref<PeerTask[]>([])
const texts = reactive<Record<string, string>>({})
const points = reactive<Record<string, Record<string, number>>>({})
const problem = ref('')
const judged = computed(() => props.of.assignment.rubric.filter((c) => c.by === 'judged'))
async function load() {
  try {
    all.value = await data(api.GET('/api/assignments/{id}/peers', { params: { path: { id: props.of.id } } }))
    for (const t of all.value) {
      texts[t.id] ??= t.text
      points[t.id] ??= { ...t.points }
    }
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(load)
async function send(t: PeerTask) {
  try {
    await api.PUT('/api/submissions/{id}/review', { params: { path: { id: t.id } }, body: { text: texts[t.id] ?? '', points: points[t.id] ?? {} } })
    problem.value = ''
    await load()
  } catch (e) {
    problem.value = messageOf(e)
  }
}
function give(id: string, criterion: string, v: number | null) {
  const now = { ...(points[id] ?? {}) }
  if (v === null) delete now[criterion]
  else now[criterion] = v
  points[id] = now
}
</script>

<template>
  <section v-if="all.length" class="peers" aria-label="Pictures of others">
    <h2 class="m-0">Pictures of others wait for you</h2>
    <p class="quiet m-0">Say what holds, then the one thing you would change first, and why. Whose it is is not told, nor who you are.</p>
    <p v-if="problem" role="alert" class="problem" data-test="peer-problem">{{ problem }}</p>
    <BForm v-for="t in all" :key="t.id" class="sheet one" data-test="peer-task" @submit.prevent="send(t)">
      <div class="picture"><HaloPicture :src="`/api/submissions/${t.id}/picture`" :width="t.size[0] ?? 1" :height="t.size[1] ?? 1" :lights="t.lights" :alt="t.sign" /></div>
      <div class="say">
        <strong>{{ t.sign }}</strong>
        <p v-if="t.paragraph" class="m-0" dir="auto">“{{ t.paragraph }}”</p>
        <NumberField v-for="c in judged" :key="c.id" :label="`${c.name} (of ${c.points})`" :value="points[t.id]?.[c.id]" :least="0" :most="c.points" @change="(v) => give(t.id, c.id, v)" />
        <label class="w-100">What you say<BFormTextarea v-model="texts[t.id]" rows="4" maxlength="6000" dir="auto" data-test="peer-text" /></label>
        <div class="acts"><BButton type="submit" size="sm" variant="primary" :disabled="!texts[t.id]?.trim()" data-test="peer-send">{{ t.done ? 'Change it' : 'Send it' }}</BButton> <span v-if="t.done" class="quiet" role="status">sent</span></div>
      </div>
    </BForm>
  </section>
</template>

<style scoped>
.peers {
  display: grid;
  gap: 0.6rem;
}
.one {
  display: grid;
  grid-template-columns: minmax(14rem, 1fr) minmax(14rem, 1.2fr);
  gap: 0.9rem;
}
.picture {
  height: 19rem;
}
.say {
  display: grid;
  gap: 0.5rem;
  align-content: start;
}
@media (max-width: 620px) {
  .one {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
