<script setup lang="ts">
// The shape of a role: key a full disc, fill a ring, rim a crescent, background a bar, ambient dots.
defineProps<{ role: string; x?: number; y?: number; r?: number }>()
</script>

<template>
  <g :transform="`translate(${x ?? 0} ${y ?? 0}) scale(${(r ?? 6) / 6})`" :class="`mark role-${role}`" aria-hidden="true">
    <circle v-if="role === 'key'" r="5.4" fill="currentColor" />
    <circle v-else-if="role === 'fill'" r="4.4" fill="none" stroke="currentColor" stroke-width="2.4" />
    <path v-else-if="role === 'rim'" d="M-1.5 -5.6A5.8 5.8 0 1 1 -1.5 5.6A4.6 4.6 0 0 0 -1.5 -5.6Z" fill="currentColor" />
    <rect v-else-if="role === 'background'" x="-5.5" y="-2.2" width="11" height="4.4" fill="currentColor" />
    <circle v-else r="4.6" fill="none" stroke="currentColor" stroke-width="2.2" stroke-dasharray="2 2.8" />
  </g>
</template>
