<script setup lang="ts">
// The tools for marking by hand, in groups: beside the picture, or in a sheet on a narrow screen.
import { toolGroups } from './edit'
import type { Tool } from './kind'

defineProps<{ tool: Tool | null; can: (t: Tool) => boolean; titled?: boolean }>()
const emit = defineEmits<{ arm: [tool: Tool] }>()
</script>

<template>
  <div v-for="g in toolGroups" :key="g.title" class="group" :class="{ titled }" role="group" :aria-label="g.title">
    <span v-if="titled" class="quiet title">{{ g.title }}</span>
    <BButton v-for="t in g.tools" :key="t.tool" size="sm" variant="secondary" :class="{ active: tool === t }" :aria-pressed="tool === t" :disabled="!can(t)" :data-test="`tool-${t.tool}`" @click="emit('arm', t)"><kbd v-if="!titled">{{ t.key }}</kbd> {{ t.text }}</BButton>
  </div>
</template>

<style scoped>
.group {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem;
  align-items: center;
}
.group + .group {
  border-left: 1px solid var(--line);
  padding-left: 0.5rem;
}
.group .btn {
  padding: 0.1rem 0.3rem;
  font-size: 0.85rem;
}
.titled {
  margin-bottom: 0.6rem;
  gap: 0.4rem;
}
.titled + .titled {
  border-left: 0;
  padding-left: 0;
}
.titled .btn {
  padding: 0.5rem 0.8rem;
  font-size: 1rem;
}
.title {
  width: 100%;
  font-size: 0.9rem;
}
</style>
