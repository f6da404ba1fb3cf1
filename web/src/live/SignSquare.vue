<script setup lang="ts">
// An address as a square that phones read (QR code, ISO/IEC 18004).
import { computed } from 'vue'
import { create } from 'qrcode'

const props = defineProps<{ text: string }>()
const square = computed(() => {
  const { modules } = create(props.text, { errorCorrectionLevel: 'M' })
  const n = modules.size
  let d = ''
  for (let y = 0; y < n; y++) for (let x = 0; x < n; x++) if (modules.get(y, x)) d += `M${x} ${y}h1v1h-1z`
  return { n, d }
})
</script>

<template>
  <svg :viewBox="`-4 -4 ${square.n + 8} ${square.n + 8}`" role="img" :aria-label="`Square to scan: ${text}`" shape-rendering="crispEdges">
    <rect x="-4" y="-4" :width="square.n + 8" :height="square.n + 8" fill="#fff" />
    <path :d="square.d" fill="#000" />
  </svg>
</template>
