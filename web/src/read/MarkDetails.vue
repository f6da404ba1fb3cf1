<script setup lang="ts">
// What can be said beside a chosen mark, and how it was read.
import type { GreyTarget, Mark, MarkReading, Method } from '../api/client'
import { useCase } from '../cases/case'
import { detailsOf } from './edit'
import MarkWorkings from './MarkWorkings.vue'

const props = defineProps<{ mark: Mark; reading?: MarkReading; greyTargets: GreyTarget[]; methods: Method[] }>()
const emit = defineEmits<{ remove: [] }>()
const current = useCase()

function edit(change: (m: Mark) => void) {
  current.remember()
  change(props.mark)
  current.changed()
}
</script>

<template>
  <div class="more">
    <component :is="detailsOf(mark)" v-if="detailsOf(mark)" :mark="mark" :reading="reading" :targets="greyTargets" @edit="edit" />
    <MarkWorkings :mark="mark" :reading="reading" :methods="methods" />
    <BButton size="sm" variant="secondary" data-test="remove" @click="emit('remove')">Remove</BButton>
  </div>
</template>

<style scoped>
.more {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.5rem;
  padding: 0 0.3rem 0.6rem 2.3rem;
}
.more :deep(label) {
  font-size: 0.88rem;
}
</style>
