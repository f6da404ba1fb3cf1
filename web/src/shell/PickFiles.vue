<script setup lang="ts">
// A button that opens files.
import { ref } from 'vue'
import { filesOf } from './events'

defineOptions({ inheritAttrs: false })
defineProps<{ label: string; accept: string; multiple?: boolean; variant?: 'primary' | 'secondary'; disabled?: boolean }>()
const emit = defineEmits<{ files: [files: File[]] }>()
const field = ref<HTMLInputElement>()
function take(e: Event) {
  const files = filesOf(e)
  if (files.length) emit('files', files)
}
defineExpose({ open: () => field.value?.click() })
</script>

<template>
  <BButton size="sm" :variant="variant ?? 'secondary'" :disabled="disabled" @click="field?.click()">{{ label }}</BButton>
  <input ref="field" v-bind="$attrs" class="visually-hidden" type="file" tabindex="-1" aria-hidden="true" :accept="accept" :multiple="multiple" :disabled="disabled" @change="take" />
</template>
