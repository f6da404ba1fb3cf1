<script setup lang="ts">
// One plate of the desk: its picture, name and lamp, level and colour, alone or left out, its place among the layers.
import { pictureUrl, type DeskPlate } from '../api/client'
import TextField from '../shell/TextField.vue'

const { plate, index, last, here, over = 0, undone = true } = defineProps<{ plate: DeskPlate; index: number; last: boolean; here: boolean; over?: number; undone?: boolean }>()
const emit = defineEmits<{ choose: []; put: [change: Partial<DeskPlate>]; order: [by: -1 | 1]; mask: [] }>()
const stops = (v: number) => `${v >= 0 ? '+' : '−'}${Math.abs(v).toFixed(1)}`
</script>

<template>
  <article class="sheet plate" :class="{ here, out: plate.mute }" :data-test="`plate-${index}`" @focusin="emit('choose')" @pointerdown="emit('choose')">
    <img :src="pictureUrl(plate.frame, 'thumb')" alt="" />
    <div class="names">
      <TextField :value="plate.name" :aria-label="`Name of plate ${index + 1}`" :data-test="`plate-name-${index}`" @change="(name) => name.trim() && emit('put', { name: name.trim() })" />
      <TextField :value="plate.lamp ?? ''" placeholder="lamp and place" :aria-label="`Lamp of ${plate.name}`" @change="(lamp) => emit('put', { lamp })" />
    </div>
    <div class="keys">
      <BButton size="sm" variant="secondary" :class="{ active: plate.solo }" :aria-pressed="!!plate.solo" :aria-label="`Only ${plate.name}`" :data-test="`solo-${index}`" @click="emit('put', { solo: !plate.solo })">only</BButton>
      <BButton size="sm" variant="secondary" :class="{ active: plate.mute }" :aria-pressed="!!plate.mute" :aria-label="`Leave ${plate.name} out`" :data-test="`mute-${index}`" @click="emit('put', { mute: !plate.mute })">out</BButton>
      <BButton size="sm" variant="secondary" :class="{ active: plate.mask }" :aria-label="`Mask of ${plate.name}${plate.mask ? '' : ': none yet'}`" :data-test="`mask-${index}`" @click="emit('mask')">mask</BButton>
      <BButton size="sm" variant="secondary" :disabled="index === 0" :aria-label="`${plate.name} one down`" @click="emit('order', -1)">↑</BButton>
      <BButton size="sm" variant="secondary" :disabled="last" :aria-label="`${plate.name} one up`" @click="emit('order', 1)">↓</BButton>
    </div>
    <p v-if="over" class="exposed m-0 quiet" :data-test="`exposed-${index}`">Exposed {{ stops(over) }} stops against the others{{ undone ? ', undone' : ', as it was' }}.</p>
    <label class="slide">Level, stops
      <BFormInput type="range" min="-6" max="3" step="0.05" :model-value="plate.stops ?? 0" :data-test="`stops-${index}`" @update:model-value="(v) => emit('put', { stops: Number(v) })" />
      <output class="figure">{{ stops(plate.stops ?? 0) }}</output>
    </label>
    <label class="slide">Warmer, mired
      <BFormInput type="range" min="-120" max="120" step="5" :model-value="plate.mired ?? 0" :data-test="`mired-${index}`" @update:model-value="(v) => emit('put', { mired: Number(v) })" />
      <output class="figure">{{ (plate.mired ?? 0).toFixed(0) }}</output>
    </label>
  </article>
</template>

<style scoped>
.plate {
  display: grid;
  grid-template-columns: 4.2rem minmax(0, 1fr) auto;
  gap: 0.3rem 0.6rem;
  padding: 0.4rem 0.5rem;
  font-size: 0.86rem;
  border-left: 4px solid var(--line);
}
.here {
  border-left-color: var(--light);
}
.out {
  opacity: 0.75;
}
img {
  width: 4.2rem;
  height: 4.2rem;
  object-fit: cover;
  border-radius: 4px;
}
.exposed {
  grid-column: 1 / -1;
}
.names {
  display: grid;
  gap: 0.25rem;
  align-content: start;
}
.keys {
  display: grid;
  grid-template-columns: auto auto auto;
  gap: 0.25rem;
  align-content: start;
}
.slide {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: 6.4rem 1fr 2.6rem;
  gap: 0.5rem;
  align-items: center;
}
output {
  text-align: right;
}
</style>
