<script setup lang="ts">
// The take over the reference in stops, point by point.
import { computed, onMounted, ref, watch } from 'vue'
import { api, data, type AlignmentView, type FrameView, type ScaleStep } from '../api/client'

const props = defineProps<{ take: FrameView; view: AlignmentView | null }>()
const matched = ref(true)
const scale = ref<ScaleStep[]>([])
onMounted(async () => (scale.value = await data(api.GET('/api/difference-scale'))))
const src = computed(() => `/api/frames/${props.take.id}/difference?matched=${matched.value}`)
const loading = ref(true)
watch(src, () => (loading.value = true))
const stops = (v: number) => `${v > 0 ? '+' : ''}${v.toFixed(1)}`.replace('-', '−')
</script>

<template>
  <div>
    <p v-if="!view" class="quiet" role="status">Laying the take over the reference…</p>
    <p v-else-if="view.problem" class="problem" data-test="no-map">{{ view.problem }}</p>
    <template v-else>
      <figure>
        <img :src="src" :alt="`Map of differences of ${take.file_name}: ${stops(view.exposure_stops)} stops of it exposure`" :class="{ loading }" data-test="difference-map" @load="loading = false" />
        <figcaption>
          <span>Take over reference, stops</span>
          <span class="scale" role="img" aria-label="Colours from two stops darker, purple, to two stops brighter, orange"><i v-for="s in scale" :key="s.from_stops" :style="{ background: s.colour }" /></span>
          <span class="figure">−2</span><span class="figure">0</span><span class="figure">+2</span>
        </figcaption>
      </figure>
      <BFormCheckbox v-model="matched" class="small" data-test="matched">with the exposure matched ({{ stops(view.exposure_stops) }} stops taken out)</BFormCheckbox>
      <p class="small quiet m-0">Hatched: clipped, too dark, or at an edge that the alignment cannot hold. {{ Math.round(100 * view.told) }} % of the picture can be told. {{ view.says }}</p>
    </template>
  </div>
</template>

<style scoped>
figure {
  margin: 0;
}
img {
  width: 100%;
  max-height: 56vh;
  object-fit: contain;
  background: var(--band-2);
  border-radius: 4px;
}
.loading {
  opacity: 0.4;
}
figcaption {
  display: grid;
  grid-template-columns: auto repeat(3, 1fr);
  gap: 0 0.6rem;
  font-size: 0.9rem;
  padding-top: 0.3rem;
}
.scale {
  grid-column: 2 / -1;
  display: flex;
}
.scale i {
  flex: 1;
  height: 0.9rem;
}
figcaption .figure:nth-of-type(3) {
  grid-column: 2;
}
figcaption .figure:nth-of-type(4) {
  text-align: center;
}
figcaption .figure:nth-of-type(5) {
  text-align: right;
}
</style>
