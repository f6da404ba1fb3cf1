<script lang="ts">
// A face by its landmarks.
import type { GreyTarget, MarkReading } from '../../api/client'
import { type Kind, type MarkOf, type Point, apart, between, dragged, grown, middle, side } from '../kind'

type Face = MarkOf<'face'>

/** Landmarks of a face in the order of their handles, and where they lie on an average one: along the line
 * through the eyes and down to the chin, in parts of the way from between the eyes to the chin. */
const landmarks: [name: string, across: number, down: number][] = [
  ['eye_image_left', -0.27, 0],
  ['eye_image_right', 0.27, 0],
  ['nose_tip', 0, 0.36],
  ['nose_base', 0, 0.44],
  ['mouth_image_left', -0.21, 0.63],
  ['mouth_image_right', 0.21, 0.63],
  ['chin', 0, 1],
]

/** Landmarks that are marked, in the order of the list. */
const marked = (m: Face): [string, Point][] =>
  landmarks.flatMap(([name]) => {
    const p = m.points[name]
    const one: [string, Point][] = p ? [[name, p]] : []
    return one
  })

/** How far a landmark that is pulled takes the points of the mesh along, in parts of the way between the eyes. */
const REACH = 0.35

/** A point of the mesh when landmarks move: it goes as those near it do (Shepard 1968, with a Gaussian). */
function carried([x, y, z]: [number, number, number], moves: { from: Point; by: Point }[], reach: number): [number, number, number] {
  let [sum, dx, dy] = [1e-9, 0, 0]
  for (const { from, by } of moves) {
    const w = Math.exp(-(((x - from[0]) ** 2 + (y - from[1]) ** 2) / (2 * Math.max(reach, 1) ** 2))) + 1e-6
    sum += w
    dx += w * by[0]
    dy += w * by[1]
  }
  return [x + dx / sum, y + dy / sum, z]
}

export const kind: Kind<Face> = {
  kind: 'face',
  tools: [
    {
      tool: 'face',
      key: 'F',
      group: 'people',
      at: 1,
      text: 'face',
      how: 'press between the eyes and drag to the chin, then pull each point into place',
      draft: 'line',
      prefix: 'face',
      draw(id, p) {
        const [dx, dy] = dragged(p) ? [p.b[0] - p.a[0], p.b[1] - p.a[1]] : [0, side(p) * 0.3]
        const at = (across: number, down: number): Point => [p.a[0] + dx * down + dy * across, p.a[1] + dy * down - dx * across]
        return { id, kind: 'face', points: Object.fromEntries(landmarks.map(([name, across, down]) => [name, at(across, down)])) }
      },
    },
  ],
  name: () => 'face',
  letter: () => 'F',
  points: (m) => marked(m).map(([, p]) => p),
  setPoints(m, points) {
    const before = marked(m)
    const { eye_image_left: left, eye_image_right: right } = m.points
    const reach = REACH * (left && right ? apart(left, right) : 0)
    const moves = before.flatMap(([, from], i) => {
      const to = points[i]
      return to ? [{ from, by: [to[0] - from[0], to[1] - from[1]] satisfies Point }] : []
    })
    if (m.dense?.length) m.dense = m.dense.map((p) => carried(p, moves, reach))
    before.forEach(([name], i) => {
      const p = points[i]
      if (p) m.points[name] = p
    })
  },
  label: (m) => ({ at: marked(m)[0]?.[1] ?? [0, 0], off: [-16, -14] }),
  shape(m) {
    const p = m.points
    const brow = p.eye_image_left && p.eye_image_right ? between(p.eye_image_left, p.eye_image_right) : undefined
    return [[p.eye_image_left, p.eye_image_right], [brow, p.nose_tip, p.nose_base], [p.mouth_image_left, p.mouth_image_right], [p.mouth_image_left, p.chin, p.mouth_image_right]]
      .map((l) => ({ points: l.filter((q): q is Point => !!q) }))
      .filter((l) => l.points.length > 1)
  },
  grow(m, by) {
    kind.setPoints(m, grown(kind.points(m), middle(kind.points(m)), by))
  },
}
</script>

<script setup lang="ts">
import { computed } from 'vue'
import { misfit } from '../misfit'

const props = defineProps<{ mark: Face; reading?: MarkReading; targets: GreyTarget[] }>()
defineEmits<{ edit: [change: (m: Face) => void] }>()
const view = computed(() => props.reading?.face)
const share = computed(() => (view.value?.heads ?? []).filter((h) => h.share >= 0.1).map((h) => `${h.name} ${Math.round(100 * h.share)} %`).join(', '))
</script>

<template>
  <div v-if="view" class="face" data-test="face">
    Head turned {{ Math.abs(view.turned_deg).toFixed(0) }} ± {{ (view.turned_sd_deg ?? 4).toFixed(0) }}° to image {{ view.turned_deg >= 0 ? 'right' : 'left' }},
    nodded {{ Math.abs(view.nodded_deg).toFixed(0) }}° {{ view.nodded_deg >= 0 ? 'up' : 'down' }}.
    {{ mark.dense?.length ? 'Read with a head fitted to this face, out of a family of heads' : `Read as a blend of stand-in heads: ${share}` }};
    typical misfit {{ reading?.fit?.residual_percent.toFixed(0) }} % over {{ reading?.fit?.samples }} samples of skin<template v-if="view.shadow_edges">; the key's size also by {{ view.shadow_edges }} edges of its own shadows</template>.
    <BFormCheckbox v-model="misfit" switch data-test="misfit">Show the misfit: white dots are lighter than the lights found explain, black darker</BFormCheckbox>
  </div>
</template>

<style scoped>
.face {
  font-size: 0.9rem;
  margin: 0;
  flex-basis: 100%;
}
</style>
