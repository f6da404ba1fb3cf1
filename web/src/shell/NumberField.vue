<script setup lang="ts">
// A number with its label and range. What is typed stays as it is typed until it is left; a word that is no number, or one out of
// range, is kept in the field, said, and not taken. Empty takes the value away.
import { computed, ref, useId, watch } from 'vue'

defineOptions({ inheritAttrs: false })
const props = defineProps<{ label: string; value?: number | null; least?: number; most?: number; placeholder?: string; digits?: number; hiddenLabel?: boolean }>()
const emit = defineEmits<{ change: [value: number | null] }>()
const id = useId()
const shown = () => (props.value == null ? '' : String(props.digits == null ? props.value : Number(props.value.toFixed(props.digits))))
const text = ref(shown())
const inside = ref(false)
watch(
  () => props.value,
  () => {
    if (!inside.value) text.value = shown()
  },
)
const typed = computed(() => (text.value.trim() === '' ? null : Number(text.value.replace(',', '.'))))
const wrong = computed(() => {
  const v = typed.value
  if (v === null) return ''
  if (!Number.isFinite(v)) return 'A number is wanted.'
  if (props.least !== undefined && v < props.least) return `At least ${props.least}.`
  if (props.most !== undefined && v > props.most) return `At most ${props.most}.`
  return ''
})
function take() {
  inside.value = false
  if (!wrong.value && typed.value !== (props.value ?? null)) emit('change', typed.value)
}
</script>

<template>
  <div class="number" :class="$attrs.class">
    <label :for="id" :class="{ 'visually-hidden': hiddenLabel }">{{ label }}</label>
    <BFormInput :id="id" v-model="text" v-bind="{ ...$attrs, class: undefined }" size="sm" inputmode="decimal" :aria-label="hiddenLabel ? label : undefined" :placeholder="placeholder" :state="wrong ? false : null" @focus="inside = true" @change="take" @blur="inside = false" />
    <BFormInvalidFeedback v-if="wrong" :state="false" role="alert">{{ wrong }}</BFormInvalidFeedback>
  </div>
</template>

<style scoped>
.number label {
  font-size: 0.88rem;
}
</style>
