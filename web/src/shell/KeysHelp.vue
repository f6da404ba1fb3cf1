<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { toolNames } from '../read/edit'
import { isTyping } from './events'

const open = ref(false)
const groups = [
  {
    title: 'Marks (in Read)',
    keys: [
      ['N', 'propose marks: faces, eyes, balls, bottles, shadows'],
      ...toolNames.map((t) => [t.key, `${t.text}: ${t.how}`]),
      ['Enter', 'place the chosen kind in the middle of the picture'],
      ['Tab', 'next mark'],
      ['Arrows', 'move the chosen mark by a pixel, with Shift by ten'],
      ['+ and −', 'grow or shrink it by a pixel'],
      ['Del', 'remove it'],
      ['O', 'switch it off or on'],
      ['Esc', 'let go'],
    ],
  },
  {
    title: 'Frames and film (in Look)',
    keys: [
      ['[ and ]', 'previous and next picture of the case; in Series the view before and the next'],
      [', and .', 'one frame back or on in an open film, with Shift one second'],
      ['G', 'grab the frame that is shown'],
    ],
  },
  {
    title: 'Everywhere',
    keys: [
      ['1 to 8', 'Look, Read, Rebuild, Build, Takes, Verdict, Plates, Series'],
      ['X', 'held in Takes: swap reference and take in place'],
      ['Ctrl Z', 'undo; with Shift, redo'],
      ['?', 'this list'],
    ],
  },
]
function key(e: KeyboardEvent) {
  if (isTyping(e)) return
  if (e.key === '?') open.value = true
}
onMounted(() => window.addEventListener('keydown', key))
onBeforeUnmount(() => window.removeEventListener('keydown', key))
</script>

<template>
  <BModal v-model="open" title="Keys" ok-only ok-title="Close" ok-variant="secondary" size="lg" scrollable>
    <section v-for="g in groups" :key="g.title" class="mb-3">
      <h2 class="mb-2">{{ g.title }}</h2>
      <dl>
        <template v-for="[k, text] in g.keys" :key="k">
          <dt><kbd>{{ k }}</kbd></dt>
          <dd>{{ text }}</dd>
        </template>
      </dl>
    </section>
  </BModal>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 6rem 1fr;
  gap: 0.3rem 0.8rem;
  margin: 0;
}
dd {
  margin: 0;
}
</style>
