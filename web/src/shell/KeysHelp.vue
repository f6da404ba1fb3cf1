<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'

const open = ref(false)
const groups = [
  {
    title: 'Marks (in Read)',
    keys: [
      ['B', 'matte ball: press on its centre, drag to its edge'],
      ['M', 'mirror ball'],
      ['N', 'propose marks: faces, eyes, balls, bottles, shadows'],
      ['F', 'face: press between the eyes, drag to the chin, pull the points into place'],
      ['E', 'eye: press on the pupil, drag to the edge of the iris'],
      ['P', 'patch: drag a rectangle; L, S or G after it for lit, shadow, background'],
      ['C', 'catchlight of the chosen eye: drag a rectangle'],
      ['H', 'cast shadow: press on the foot, drag to the tip of the shadow, pull the top into place'],
      ['W', 'width of a shadow’s edge: drag across it'],
      ['Y', 'cylinder: drag along its axis, pull its side to the outline'],
      ['T', 'grey steps: drag from the brightest to the darkest; the picture is read through the curve they tell'],
      ['V', 'shadow on a face or a wall: press on the tip of the nose, drag to the tip of its shadow'],
      ['K', 'outline: draw along it, round a bend'],
      ['R', 'rim: from inside the form across the bright edge'],
      ['D', 'background: drag a rectangle'],
      ['X', 'bands of light and shade: drag across them'],
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
      ['[ and ]', 'previous and next picture of the case'],
      [', and .', 'one frame back or on in an open film, with Shift one second'],
      ['G', 'grab the frame that is shown'],
    ],
  },
  {
    title: 'Everywhere',
    keys: [
      ['1 to 4', 'Look, Read, Rebuild, Verdict'],
      ['Ctrl Z', 'undo; with Shift, redo'],
      ['?', 'this list'],
    ],
  },
]
function key(e: KeyboardEvent) {
  if (/^(INPUT|TEXTAREA|SELECT)$/.test((e.target as HTMLElement).tagName)) return
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
