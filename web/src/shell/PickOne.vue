<script setup lang="ts" generic="T extends string">
// One of several: a select that knows its values' type. `none` is offered first and stands for nothing chosen.
const props = defineProps<{ value: T | '' | null | undefined; options: readonly (T | { value: T; text: string })[]; none?: string }>()
const emit = defineEmits<{ pick: [value: T]; clear: [] }>()

const list = () => [
  ...(props.none === undefined ? [] : [{ value: '', text: props.none }]),
  ...props.options.map((o) => (typeof o === 'string' ? { value: o as string, text: o as string } : { value: o.value as string, text: o.text })),
]
function pick(chosen: unknown) {
  const found = props.options.map((o) => (typeof o === 'string' ? o : o.value)).find((v) => v === chosen)
  if (found !== undefined) emit('pick', found)
  else emit('clear')
}
</script>

<template>
  <BFormSelect size="sm" :model-value="value ?? ''" :options="list()" @update:model-value="pick" />
</template>
