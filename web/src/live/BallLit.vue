<script setup lang="ts">
// A matte ball as the placed light would shade it.
import { onMounted, ref, watch } from 'vue'
import type { Direction } from '../halo/band'
import { ball } from './words'

const props = defineProps<{ at: Direction }>()
const SIDE = 96
const canvas = ref<HTMLCanvasElement>()
function draw() {
  const pen = canvas.value?.getContext('2d')
  if (!pen) return
  const image = pen.createImageData(SIDE, SIDE)
  ball(SIDE, props.at).forEach((v, i) => image.data.set(v < 0 ? [0, 0, 0, 0] : [v, v, v, 255], 4 * i))
  pen.putImageData(image, 0, 0)
}
onMounted(draw)
watch(() => props.at, draw)
</script>

<template>
  <canvas ref="canvas" :width="SIDE" :height="SIDE" role="img" aria-label="A matte ball lit from where you placed the light" />
</template>
