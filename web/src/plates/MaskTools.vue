<script setup lang="ts">
// What is painted with: the ground of a plate's mask, the brush, and whether it adds or takes away.
import { computed } from 'vue'
import type { MaskGround, PlateMask } from '../api/client'

const { mask, name } = defineProps<{ mask: PlateMask; name: string }>()
const emit = defineEmits<{ ground: [ground: MaskGround]; without: []; done: [] }>()
const radius = defineModel<number>('radius', { required: true })
const soft = defineModel<number>('soft', { required: true })
const adds = defineModel<boolean>('adds', { required: true })
const count = computed(() => mask.strokes?.length ?? 0)
const GROUNDS = [
  { value: 'all', text: 'everywhere' },
  { value: 'none', text: 'nowhere' },
  { value: 'lightest', text: 'where it is the lightest' },
] as const
</script>

<template>
  <div class="sheet brush" :aria-label="`Mask of ${name}`" role="group" data-test="mask-tools">
    <h2 class="m-0">Mask of {{ name }}</h2>
    <label>Before painting it counts
      <BFormSelect size="sm" :model-value="mask.ground ?? 'all'" :options="[...GROUNDS]" data-test="mask-ground" @update:model-value="(v) => emit('ground', v as MaskGround)" />
    </label>
    <BButtonGroup size="sm" class="does" aria-label="What the brush does">
      <BButton variant="secondary" :class="{ active: !adds }" :aria-pressed="!adds" data-test="mask-takes" @click="adds = false">takes away</BButton>
      <BButton variant="secondary" :class="{ active: adds }" :aria-pressed="adds" data-test="mask-adds" @click="adds = true">brings back</BButton>
    </BButtonGroup>
    <label>Brush, % of the longer side
      <BFormInput type="range" min="0.5" max="25" step="0.5" :model-value="100 * radius" data-test="mask-radius" @update:model-value="(v) => (radius = Number(v) / 100)" />
      <output class="figure">{{ (100 * radius).toFixed(1) }}</output>
    </label>
    <label>Soft edge, % of the brush
      <BFormInput type="range" min="0" max="100" step="5" :model-value="100 * soft" data-test="mask-soft" @update:model-value="(v) => (soft = Number(v) / 100)" />
      <output class="figure">{{ (100 * soft).toFixed(0) }}</output>
    </label>
    <span class="quiet small">{{ count }} {{ count === 1 ? 'stroke' : 'strokes' }}</span>
    <BButton size="sm" variant="secondary" data-test="mask-without" @click="emit('without')">Without a mask</BButton>
    <BButton size="sm" variant="primary" data-test="mask-done" @click="emit('done')">Done</BButton>
  </div>
</template>

<style scoped>
.brush {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 0.9rem;
  align-items: center;
  font-size: 0.88rem;
}
h2 {
  font-size: 1rem;
}
.does {
  width: auto;
}
label {
  display: flex;
  gap: 0.4rem;
  align-items: center;
}
label select {
  width: auto;
}
input[type='range'] {
  width: 8rem;
}
output {
  min-width: 2.4rem;
}
</style>
