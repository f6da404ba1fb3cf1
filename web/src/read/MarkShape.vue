<script setup lang="ts">
// One mark on the picture, with handles when it is chosen. Stage pixels.
import { computed } from 'vue'
import type { Mark, MarkReading } from '../api/client'
import { handlesOf, labelOf, letterOf, nameOf, shapesOf } from './edit'
import type { Point } from './kind'
import { misfit } from './misfit'

const props = defineProps<{ mark: Mark; reading?: MarkReading; scale: number; stage: (p: Point) => { x: number; y: number }; chosen: boolean }>()

const points = (list: Point[]) => list.map((p) => { const s = props.stage(p); return `${s.x},${s.y}` }).join(' ')
const label = computed(() => {
  const { at, off } = labelOf(props.mark)
  const p = props.stage(at)
  return { x: p.x + off[0], y: p.y + off[1] }
})
/** Each line is drawn twice: dark beneath, light above, so that it shows on any ground. */
interface Drawn {
  is: string
  class: string
  with: Record<string, string | number>
}
const shapes = computed(() =>
  shapesOf(props.mark).flatMap((s): Drawn[] => {
    if (!('points' in s)) {
      const c = props.stage(s.centre)
      const ellipse = { transform: `translate(${c.x} ${c.y}) rotate(${s.turn_deg})`, rx: s.rx * props.scale, ry: s.ry * props.scale }
      return [{ is: 'ellipse', class: 'under', with: ellipse }, { is: 'ellipse', class: 'line', with: ellipse }]
    }
    const is = s.closed ? 'polygon' : 'polyline'
    const line = { points: points(s.points) }
    return s.ray ? [{ is, class: 'line ray', with: line }] : [{ is, class: 'under', with: line }, { is, class: 'line', with: line }]
  }),
)
/** Where the picture is lighter or darker than the lights found explain. */
const fit = computed(() => (misfit.value ? (props.reading?.face?.map ?? []) : []).filter(([, , off]) => Math.abs(off) > 0.12))
/** The outline as it was read on the picture. */
const settled = computed(() => {
  const [x, y, r] = props.reading?.circle ?? []
  return x == null || y == null || r == null ? null : { ...props.stage([x, y]), r: r * props.scale }
})
const spots = computed(() => (props.reading?.catchlights ?? props.reading?.lights ?? []).filter((s) => s.outline?.length))
</script>

<template>
  <g class="shape" :class="{ chosen, off: mark.off }" :data-mark="mark.id" data-test="mark">
    <title>{{ mark.id }}, {{ nameOf(mark) }}</title>
    <component :is="s.is" v-for="(s, i) in shapes" :key="i" :class="s.class" v-bind="s.with" />
    <template v-if="chosen"><rect v-for="([x, y, off], i) in fit" :key="`f${i}`" class="fit" :class="off > 0 ? 'over' : 'under-model'" :opacity="Math.min(1, Math.abs(off) / 0.8)" :x="stage([x, y]).x - 1.6" :y="stage([x, y]).y - 1.6" width="3.2" height="3.2" /></template>
    <circle v-if="chosen && settled" class="settled" :cx="settled.x" :cy="settled.y" :r="settled.r" data-test="settled"><title>The outline as it was read on the picture</title></circle>
    <polygon v-for="(s, i) in spots" :key="`s${i}`" class="spot" :points="points(s.outline ?? [])" />
    <text class="label" :x="label.x" :y="label.y">{{ letterOf(mark) }}</text>
    <template v-if="chosen">
      <rect v-for="h in handlesOf(mark)" :key="h.name" class="handle" :x="stage(h.at).x - 5" :y="stage(h.at).y - 5" width="10" height="10" :data-handle="h.name" />
    </template>
  </g>
</template>

<style scoped>
.settled {
  fill: none;
  stroke: var(--light);
  stroke-dasharray: 2 3;
  pointer-events: none;
}
.under,
.line {
  fill: transparent;
  vector-effect: non-scaling-stroke;
}
.under {
  stroke: var(--dark);
  stroke-opacity: 0.55;
  stroke-width: 3.4;
}
.line {
  stroke: var(--light);
  stroke-width: 1.4;
}
.chosen .line {
  stroke-width: 2.2;
}
.off {
  opacity: 0.45;
}
.off .line {
  stroke-dasharray: 4 4;
}
.ray {
  stroke-dasharray: 3 4;
}
.spot {
  fill: none;
  stroke: var(--light);
  stroke-width: 1;
  paint-order: stroke;
}
.fit.over {
  fill: var(--light);
}
.fit.under-model {
  fill: var(--dark);
}
.label {
  fill: var(--light);
  stroke: var(--dark);
  stroke-width: 2.6;
  paint-order: stroke;
  font-size: 12px;
  font-weight: 700;
  dominant-baseline: central;
}
.handle {
  fill: var(--light);
  stroke: var(--dark);
}
.shape {
  cursor: move;
}
</style>
