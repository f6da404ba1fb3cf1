<script setup lang="ts">
// A field whose text stays as it is typed: what it shows follows its value only while nobody is in it. A plain bound value is put
// back at every drawing, and readings arrive while a person types.
import { ref, watch } from 'vue'

const props = defineProps<{ value: string | number }>()
const emit = defineEmits<{ change: [text: string] }>()
const text = ref(String(props.value))
const field = ref<HTMLInputElement>()
watch(
  () => props.value,
  (v) => {
    if (document.activeElement !== field.value) text.value = String(v)
  },
)
</script>

<template>
  <input ref="field" v-model="text" class="form-control form-control-sm" @change="emit('change', text)" />
</template>
