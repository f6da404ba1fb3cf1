<script setup lang="ts">
// Remarks of people: words with a pin, a phrase book with figures of the picture.
import { nextTick, onMounted, ref } from 'vue'
import { api, data, type RemarkView } from '../api/client'
import { useCase } from '../cases/case'
import { messageOf } from '../shell/events'
import { letter } from './order'
import PhrasesEditor from './PhrasesEditor.vue'
import { useVerdict } from './verdict'

const pin = defineModel<[number, number] | null>('pin', { required: true })
const placing = defineModel<boolean>('placing', { required: true })
const v = useVerdict()
const current = useCase()
const text = ref('')
const editing = ref<RemarkView | null>(null)
const problem = ref('')
const phrases = ref<string[]>([])
const book = ref(false)
const field = ref<{ focus: () => void }>()

async function loadPhrases() {
  try {
    phrases.value = await data(api.GET('/api/frames/{id}/phrases', { params: { path: { id: current.shown.id } } }))
  } catch (e) {
    problem.value = messageOf(e)
  }
}
onMounted(loadPhrases)
async function say() {
  const body = { stance: editing.value?.stance ?? ('note' as const), rule: editing.value?.rule ?? null, text: text.value, pin: pin.value }
  try {
    if (editing.value) await v.resay(editing.value.id, body)
    else await v.say(body)
    stop()
  } catch (e) {
    problem.value = messageOf(e)
  }
}
function stop() {
  text.value = ''
  pin.value = null
  placing.value = false
  editing.value = null
  problem.value = ''
}
function change(r: RemarkView) {
  editing.value = r
  text.value = r.text
  pin.value = r.pin ? [r.pin[0] ?? 0, r.pin[1] ?? 0] : null
}
async function remove(r: RemarkView) {
  try {
    await v.unsay(r.id)
  } catch (e) {
    problem.value = messageOf(e)
  }
}
async function take(p: string) {
  text.value = text.value ? `${text.value.trimEnd()} ${p}` : p
  await nextTick()
  field.value?.focus()
}
const titleOf = (rule: string) => v.findings.find((f) => f.rule === rule)?.title ?? rule
const WORDS = { note: '', agrees: 'agrees', disagrees: 'disagrees' } as const
</script>

<template>
  <div class="panel">
    <BForm class="sheet" @submit.prevent="say">
      <label class="w-100">{{ editing ? 'Change the remark' : 'A remark of yours' }}<BFormTextarea ref="field" v-model="text" rows="3" maxlength="2000" dir="auto" data-test="remark-text" /></label>
      <div class="row-of">
        <BButton size="sm" variant="secondary" :pressed="placing" data-test="remark-pin" @click="placing = !placing">{{ pin ? 'Move the pin' : 'Pin it to the picture' }}</BButton>
        <BButton v-if="pin" size="sm" variant="secondary" @click="pin = null">Without a pin</BButton>
        <BDropdown v-if="phrases.length" size="sm" variant="secondary" text="Phrase book" data-test="phrases">
          <BDropdownItemButton v-for="p in phrases" :key="p" class="phrase" @click="take(p)">{{ p }}</BDropdownItemButton>
          <BDropdownDivider />
          <BDropdownItemButton @click="book = true">Change the phrase book…</BDropdownItemButton>
        </BDropdown>
        <span class="grow" />
        <BButton v-if="editing" size="sm" variant="secondary" @click="stop">Leave it</BButton>
        <BButton size="sm" type="submit" variant="primary" :disabled="!text.trim()" data-test="remark-say">{{ editing ? 'Change' : 'Add' }}</BButton>
      </div>
      <p v-if="placing" class="quiet small m-0" role="status">Press where it belongs in the picture.</p>
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    </BForm>
    <p v-if="!v.remarks.length" class="quiet">Nobody has said anything yet.</p>
    <ol v-else class="list">
      <li v-for="(r, i) in v.remarks" :key="r.id" class="sheet" :class="{ here: v.here === r.id }" dir="auto" data-test="remark" @pointerenter="v.here = r.id" @pointerleave="v.here = null">
        <span class="sign">{{ letter(i) }}</span>
        <div class="said">
          <strong><bdi>{{ r.author }}</bdi></strong> {{ WORDS[r.stance] }} <em v-if="r.rule">{{ titleOf(r.rule) }}</em>
          <p class="m-0 words"><bdi>{{ r.text }}</bdi></p>
        </div>
        <span v-if="r.mine" class="acts">
          <BButton size="sm" variant="secondary" @click="change(r)">Change</BButton>
          <BButton size="sm" variant="secondary" :aria-label="`Remove remark ${letter(i)}`" @click="remove(r)">✕</BButton>
        </span>
      </li>
    </ol>
    <PhrasesEditor v-if="book" @close="book = false" @saved="loadPhrases" />
  </div>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 0.55rem;
  align-content: start;
}
.row-of {
  display: flex;
  gap: 0.4rem;
  margin-top: 0.4rem;
  flex-wrap: wrap;
}
.grow {
  flex: 1;
}
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.4rem;
}
.list li {
  display: flex;
  gap: 0.6rem;
  align-items: start;
}
.list .here {
  background: var(--raised);
}
.sign {
  flex: none;
  min-width: 1.5rem;
  text-align: center;
  border: 1px solid var(--light);
  border-radius: 4px;
  font-size: 0.85rem;
}
.said {
  flex: 1;
  min-width: 0;
}
.words {
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  gap: 0.3rem;
}
.panel :deep(.dropdown-menu) {
  max-width: 26rem;
  max-height: 20rem;
  overflow: auto;
}
.panel :deep(.dropdown-item) {
  white-space: normal;
}
</style>
