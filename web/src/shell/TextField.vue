<script setup lang="ts">
// A field whose text stays as it is typed: what it shows follows its value only while nobody is in it. A plain bound value is put
// back at every drawing, and readings arrive while a person types. What `wrong` finds fault with is not handed over, but told.
import { ref, watch } from 'vue'

const props = defineProps<{ value: string | number; wrong?: (text: string) => string }>()
const emit = defineEmits<{ change: [text: string]; says: [problem: string] }>()
const text = ref(String(props.value))
const says = ref('')
const field = ref<HTMLInputElement>()
watch(
  () => props.value,
  (v) => {
    if (document.activeElement === field.value) return
    text.value = String(v)
    says.value = ''
  },
)
function take() {
  says.value = props.wrong?.(text.value) ?? ''
  emit('says', says.value)
  if (!says.value) emit('change', text.value)
}
</script>

<template>
  <input ref="field" v-model="text" class="form-control form-control-sm" :class="{ 'is-invalid': says }" :aria-invalid="says ? true : undefined" :title="says || undefined" @change="take" />
</template>
