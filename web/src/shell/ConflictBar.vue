<script setup lang="ts">
// Someone saved before: the person chooses, and nothing is lost either way.
defineProps<{ document: { theirs: unknown; problem: string; keepMine: () => Promise<void>; takeTheirs: () => void } }>()
</script>

<template>
  <BAlert v-if="document.theirs" :model-value="true" variant="warning" class="conflict" data-test="stale">
    <span>{{ document.problem }}</span>
    <BButton size="sm" variant="primary" data-test="keep-mine" @click="document.keepMine()">Keep mine</BButton>
    <BButton size="sm" variant="secondary" data-test="take-theirs" @click="document.takeTheirs()">Take the other</BButton>
  </BAlert>
  <BAlert v-else-if="document.problem" :model-value="true" variant="warning" class="conflict" data-test="case-problem">{{ document.problem }}</BAlert>
</template>

<style scoped>
.conflict {
  display: flex;
  gap: 0.7rem;
  align-items: center;
  flex-wrap: wrap;
  margin: 0;
  border-radius: 0;
}
</style>
