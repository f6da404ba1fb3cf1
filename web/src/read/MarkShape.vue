<script setup lang="ts">
// One mark on the picture, with handles when it is chosen. Stage pixels.
import { computed } from 'vue'
import type { Mark, MarkReading } from '../api/client'
import { centreOf, facePoints, handlesOf, letterOf, nameOf, pointsOf, sidesOf } from './edit'

const props = defineProps<{ mark: Mark; reading?: MarkReading; scale: number; stage: (p: number[]) => { x: number; y: number }; chosen: boolean }>()

const c = computed(() => props.stage(centreOf(props.mark)))
const points = (list: number[][]) => list.map((p) => { const s = props.stage(p); return `${s.x},${s.y}` }).join(' ')
const label = computed(() => {
  const m = props.mark
  if (m.kind === 'ball') return { x: c.value.x + m.radius_px * props.scale * 0.72 + 9, y: c.value.y - m.radius_px * props.scale * 0.72 - 5 }
  if (m.kind === 'face') {
    const top = props.stage(facePoints(m)[0]?.[1] ?? centreOf(m))
    return { x: top.x - 16, y: top.y - 14 }
  }
  if (m.kind === 'eye') return { x: c.value.x + m.limbus.rx * props.scale + 9, y: c.value.y - m.limbus.ry * props.scale - 3 }
  return { x: c.value.x + 14, y: c.value.y - 12 }
})
const faceLines = computed(() => {
  if (props.mark.kind !== 'face') return []
  const p = Object.fromEntries(facePoints(props.mark))
  const between = p.eye_image_left && p.eye_image_right ? [(p.eye_image_left[0]! + p.eye_image_right[0]!) / 2, (p.eye_image_left[1]! + p.eye_image_right[1]!) / 2] : undefined
  return [[p.eye_image_left, p.eye_image_right], [between, p.nose_tip, p.nose_base], [p.mouth_image_left, p.mouth_image_right], [p.mouth_image_left, p.chin, p.mouth_image_right]]
    .map((l) => l.filter((q): q is number[] => !!q))
    .filter((l) => l.length > 1)
})
/** Where the picture is lighter or darker than the lights found explain. */
const fit = computed(() => (props.reading?.face?.map ?? []).filter((s) => Math.abs(s[2]!) > 0.12) as [number, number, number][])
const spots = computed(() => (props.reading?.catchlights ?? props.reading?.lights ?? []).filter((s) => s.outline?.length))
</script>

<template>
  <g class="shape" :class="{ chosen, off: mark.off }" :data-mark="mark.id" data-test="mark">
    <title>{{ mark.id }}, {{ nameOf(mark) }}</title>
    <template v-if="mark.kind === 'ball'">
      <circle class="under" :cx="c.x" :cy="c.y" :r="mark.radius_px * scale" />
      <circle class="line" :cx="c.x" :cy="c.y" :r="mark.radius_px * scale" />
    </template>
    <template v-else-if="mark.kind === 'eye'">
      <ellipse class="under" :transform="`translate(${c.x} ${c.y}) rotate(${mark.limbus.angle_deg ?? 0})`" :rx="mark.limbus.rx * scale" :ry="mark.limbus.ry * scale" />
      <ellipse class="line" :transform="`translate(${c.x} ${c.y}) rotate(${mark.limbus.angle_deg ?? 0})`" :rx="mark.limbus.rx * scale" :ry="mark.limbus.ry * scale" />
    </template>
    <template v-else-if="mark.kind === 'patch' || mark.kind === 'gradient'">
      <polygon class="under" :points="points(mark.polygon)" />
      <polygon class="line" :points="points(mark.polygon)" />
    </template>
    <template v-else-if="mark.kind === 'cast'">
      <polyline class="under" :points="points([mark.top, mark.base, mark.tip])" />
      <polyline class="line" :points="points([mark.top, mark.base, mark.tip])" />
      <polyline class="line ray" :points="points([mark.tip, mark.top])" />
    </template>
    <template v-else-if="mark.kind === 'penumbra' || mark.kind === 'pattern' || mark.kind === 'rim' || mark.kind === 'contour'">
      <polyline class="under" :points="points(pointsOf(mark))" />
      <polyline class="line" :points="points(pointsOf(mark))" />
    </template>
    <template v-else-if="mark.kind === 'cylinder'">
      <polygon class="under" :points="points(sidesOf(mark))" />
      <polygon class="line" :points="points(sidesOf(mark))" />
      <polyline class="line ray" :points="points(mark.axis)" />
    </template>
    <template v-else-if="mark.kind === 'face'">
      <polyline v-for="(line, i) in faceLines" :key="`u${i}`" class="under" :points="points(line)" />
      <polyline v-for="(line, i) in faceLines" :key="`l${i}`" class="line" :points="points(line)" />
      <template v-if="chosen"><rect v-for="([x, y, off], i) in fit" :key="`f${i}`" class="fit" :class="off > 0 ? 'over' : 'under-model'" :opacity="Math.min(1, Math.abs(off) / 0.8)" :x="stage([x, y]).x - 1.6" :y="stage([x, y]).y - 1.6" width="3.2" height="3.2" /></template>
    </template>
    <template v-else-if="mark.kind === 'wedge'">
      <template v-for="(p, i) in mark.patches" :key="i"><polygon class="under" :points="points(p.polygon)" /><polygon class="line" :points="points(p.polygon)" /></template>
    </template>
    <polygon v-for="(s, i) in spots" :key="i" class="spot" :points="points(s.outline ?? [])" />
    <text class="label" :x="label.x" :y="label.y">{{ letterOf(mark) }}</text>
    <template v-if="chosen">
      <rect v-for="h in handlesOf(mark)" :key="h.handle" class="handle" :x="stage(h.at).x - 5" :y="stage(h.at).y - 5" width="10" height="10" :data-handle="h.handle" />
    </template>
  </g>
</template>

<style scoped>
.under,
.line {
  fill: transparent;
  vector-effect: non-scaling-stroke;
}
.under {
  stroke: #000;
  stroke-opacity: 0.55;
  stroke-width: 3.4;
}
.line {
  stroke: #fff;
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
  stroke: #fff;
  stroke-width: 1;
  paint-order: stroke;
}
.fit.over {
  fill: #fff;
}
.fit.under-model {
  fill: #000;
}
.label {
  fill: #fff;
  stroke: #000;
  stroke-width: 2.6;
  paint-order: stroke;
  font-size: 12px;
  font-weight: 700;
  dominant-baseline: central;
}
.handle {
  fill: #fff;
  stroke: #000;
}
.shape {
  cursor: move;
}
</style>
