<script setup lang="ts">
// What stands before the lens: which stand-in, who, and how the head is turned.
import { computed } from 'vue'
import type { LightSet } from '../api/client'
import NumberField from '../shell/NumberField.vue'

type Subject = LightSet['subjects'][number]
type Kind = Subject['kind']
const { subject } = defineProps<{ subject: Subject }>()
const emit = defineEmits<{ edit: [change: Partial<Subject>] }>()

const KINDS: { value: Kind; text: string }[] = [
  { value: 'person', text: 'person' },
  { value: 'head_long', text: 'long carved head' },
  { value: 'head_round', text: 'round carved head' },
  { value: 'bottle', text: 'bottle' },
  { value: 'can', text: 'can' },
  { value: 'tin', text: 'tin box' },
  { value: 'carton', text: 'box of any size' },
  { value: 'shoe', text: 'shoe' },
  { value: 'fork', text: 'fork' },
  { value: 'ball_matte', text: 'matte ball' },
  { value: 'ball_mirror', text: 'mirror ball' },
  { value: 'wedge', text: 'step wedge' },
]
const HAIR = [
  { value: null, text: 'as they are' },
  { value: 'bald', text: 'bald' },
  { value: 'cropped', text: 'cropped' },
  { value: 'short', text: 'short' },
  { value: 'long', text: 'long' },
] as const
type Hair = (typeof HAIR)[number]['value']

const kind = computed({
  get: () => subject.kind,
  set: (kind: Kind) => emit('edit', { kind, colour: null, size_m: null, position_m: [0, 0, 0] }),
})
const hair = computed({
  get: () => subject.person?.hair ?? null,
  set: (hair: Hair) => emit('edit', { person: { ...subject.person, hair } }),
})
/** Somebody else: another number, with a head, skin and hair of their own. */
function another() {
  const number = ((subject.person?.number ?? 0) + 1) % 1000
  emit('edit', { colour: null, person: { number, shape: [], hair: null } })
}
/** A box's sides in centimetres, as it is without a size of its own; and how they are called. */
const BOX: [number, number, number] = [0.16, 0.1, 0.06]
const SIDES = ['Wide', 'High', 'Deep'] as const
const size = computed(() => (subject.size_m ?? BOX).map((v) => 100 * v * (subject.scale ?? 1)))
function sized(k: number, cm: number | null) {
  if (cm === null) return
  const size_m = [...(subject.size_m ?? BOX)] as [number, number, number]
  size_m[k] = cm / 100 / (subject.scale ?? 1)
  emit('edit', { size_m })
}
function turned(part: 'yaw_deg' | 'pitch_deg' | 'roll_deg', v: number | null, sign = 1) {
  if (v !== null) emit('edit', { [part]: sign * v })
}
</script>

<template>
  <div class="sheet fields">
    <label class="two">Subject
      <BFormSelect v-model="kind" size="sm" :options="KINDS" data-test="subject" />
    </label>
    <NumberField label="Turned right, °" :value="subject.yaw_deg ?? 0" :least="-90" :most="90" :digits="1" data-test="turn" @change="turned('yaw_deg', $event)" />
    <NumberField label="Tipped up, °" :value="-(subject.pitch_deg ?? 0)" :least="-90" :most="90" :digits="1" data-test="nod" @change="turned('pitch_deg', $event, -1)" />
    <NumberField label="Tilted, °" :value="subject.roll_deg ?? 0" :least="-90" :most="90" :digits="1" data-test="tilt" @change="turned('roll_deg', $event)" />
    <template v-if="subject.kind === 'carton'">
      <NumberField v-for="(word, k) in SIDES" :key="word" :label="`${word}, cm`" :value="size[k] ?? 0" :least="0.5" :most="300" :digits="1" :data-test="`box-${word.toLowerCase()}`" @change="sized(k, $event)" />
    </template>
    <template v-if="subject.kind === 'person'">
      <label>Hair
        <BFormSelect v-model="hair" size="sm" :options="[...HAIR]" data-test="hair" />
      </label>
      <BButton size="sm" variant="secondary" class="align-self-end" data-test="another" @click="another">Somebody else</BButton>
    </template>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 0.35rem 0.6rem;
  font-size: 0.86rem;
}
.two {
  grid-column: 1 / -1;
}
</style>
