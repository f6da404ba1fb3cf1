<script setup lang="ts">
import { ref } from 'vue'

const props = defineProps<{ line: string }>()
const copied = ref(false)

async function copy() {
  try {
    await navigator.clipboard.writeText(props.line)
    copied.value = true
    setTimeout(() => (copied.value = false), 1500)
  } catch {
    copied.value = false
  }
}
</script>

<template>
  <div class="slant wrap">
    <code data-test="slant">{{ line }}</code>
    <BButton size="sm" variant="secondary" aria-label="Copy the slant line" @click="copy">{{ copied ? 'Copied' : 'Copy' }}</BButton>
  </div>
</template>

<style scoped>
.wrap {
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
code {
  color: inherit;
  flex: 1;
  font-size: inherit;
}
</style>
