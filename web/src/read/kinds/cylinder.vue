<script lang="ts">
// A bottle, a can: its axis with straight sides, or with its outline from foot to head.
import { api, data, type MarkReading } from '../../api/client'
import { type Kind, type MarkOf, type Point, apart, between, dragged, shifted, side } from '../kind'

export type Cylinder = MarkOf<'cylinder'>
type Node = [share: number, half: number]

/** Pulled nodes take their neighbours along, by shares of the axis. */
const REACH = 0.04
/** Handles are no nearer to each other, in shares of the axis. */
const SPACING = 0.045

const profileOf = (m: Cylinder): Node[] => m.profile ?? []

/** A place at a share of the axis, so many pixels to the image side right of the axis walked from its first end. */
function place(m: Cylinder, share: number, off: number): Point {
  const [a, b] = m.axis
  const l = apart(a, b) || 1
  const [dx, dy] = [(b[0] - a[0]) / l, (b[1] - a[1]) / l]
  return [a[0] + dx * l * share - dy * off, a[1] + dy * l * share + dx * off]
}

/** Its outline, or the corners of its straight sides. */
export function outlineOf(m: Cylinder): Point[] {
  const nodes: Node[] = profileOf(m).length ? profileOf(m) : [[0, m.radius_px], [1, m.radius_px]]
  const one = (sign: 1 | -1) => nodes.map(([t, r]) => place(m, t, sign * r))
  return [...one(1), ...one(-1).reverse()]
}

/** Nodes that get a handle: not too close to each other. */
export function held(m: Cylinder): number[] {
  const out: number[] = []
  profileOf(m).forEach(([t], i) => {
    const last = out.at(-1)
    const before = last === undefined ? -1 : (profileOf(m)[last]?.[0] ?? -1)
    if (t - before >= SPACING) out.push(i)
  })
  return out
}

/** Half widths after one node was pulled to another: its neighbours come along. */
export function pulled(nodes: readonly Node[], at: number, half: number): Node[] {
  const from = nodes[at]
  if (!from) return [...nodes]
  const by = half - from[1]
  return nodes.map(([t, r]) => [t, Math.max(0, r + by * Math.max(0, 1 - Math.abs(t - from[0]) / REACH))])
}

/** Asks for the outline about the axis as it was drawn. */
async function trace(m: Cylinder, frame: string) {
  const traced = await data(api.POST('/api/frames/{id}/outline', { params: { path: { id: frame } }, body: { axis: m.axis } }))
  Object.assign(m, { axis: traced.axis, radius_px: traced.radius_px, profile: traced.profile ?? [] })
}

export const kind: Kind<Cylinder> = {
  kind: 'cylinder',
  tools: [
    {
      tool: 'cylinder',
      key: 'Y',
      group: 'surfaces',
      at: 2,
      text: 'bottle, can',
      how: 'drag from the foot to the head of the bottle or can; its outline is traced by itself, and can be pulled',
      draft: 'line',
      prefix: 'cylinder',
      draw(id, p) {
        const top = dragged(p) ? p.b : shifted(p.a, 0, -0.24 * side(p))
        return { id, kind: 'cylinder', axis: [p.a, top], radius_px: 0.2 * apart(p.a, top) }
      },
      settle: trace,
    },
  ],
  name: (m) => (profileOf(m).length ? 'bottle or can' : 'cylinder'),
  letter: () => 'Y',
  points: (m) => m.axis,
  setPoints: (m, [a, b]) => (m.axis = [a ?? m.axis[0], b ?? m.axis[1]]),
  shape: (m) => [{ closed: true, points: outlineOf(m) }, { ray: true, points: m.axis }],
  handles(m) {
    const nodes = profileOf(m)
    if (!nodes.length) return [{ name: 'radius', at: between(place(m, 0, m.radius_px), place(m, 1, m.radius_px)) }]
    return held(m).flatMap((i) => {
      const n = nodes[i]
      return n ? [{ name: `node-${i}`, at: place(m, n[0], n[1]) }] : []
    })
  },
  pull(m, name, to) {
    const [a, b] = m.axis
    const l = apart(a, b) || 1
    const off = Math.abs((to[0] - a[0]) * (-(b[1] - a[1]) / l) + (to[1] - a[1]) * ((b[0] - a[0]) / l))
    if (name === 'radius') m.radius_px = Math.max(2, off)
    else m.profile = pulled(profileOf(m), Number(name.slice('node-'.length)), off)
  },
  grow(m, by) {
    m.radius_px = Math.max(2, m.radius_px + by)
    m.profile = profileOf(m).map(([t, r]) => [t, Math.max(0, r + by)])
  },
}
</script>

<script setup lang="ts">
import { ref } from 'vue'
import { useCase } from '../../cases/case'
import { messageOf } from '../../shell/events'

const { mark, reading = undefined } = defineProps<{ mark: Cylinder; reading?: MarkReading }>()
const emit = defineEmits<{ edit: [change: (m: Cylinder) => void] }>()
const current = useCase()
const problem = ref('')
async function again() {
  const copy = { ...mark }
  try {
    await trace(copy, current.shown.id)
    problem.value = ''
    emit('edit', (m) => Object.assign(m, { axis: copy.axis, radius_px: copy.radius_px, profile: copy.profile }))
  } catch (e) {
    problem.value = messageOf(e)
  }
}
const straight = () => emit('edit', (m) => (m.profile = []))
const percent = (v: number) => `${Math.round(100 * v)} %`
</script>

<template>
  <div class="outline">
    <BButton size="sm" variant="secondary" data-test="trace" @click="again">{{ mark.profile?.length ? 'Trace the outline again' : 'Trace the outline' }}</BButton>
    <BButton v-if="mark.profile?.length" size="sm" variant="secondary" data-test="straight" @click="straight">Straight sides</BButton>
    <p v-if="problem" role="alert" class="problem m-0" data-test="trace-problem">{{ problem }}</p>
    <BTableSimple v-if="reading?.strips?.some((s) => !s.lit_side)" small class="m-0 lines" data-test="lines-table">
      <thead><tr><th scope="col">Line</th><th scope="col">round the axis</th><th scope="col">wide</th><th scope="col">edges</th><th scope="col">up to</th></tr></thead>
      <tbody>
        <tr v-for="(s, i) in reading.strips.filter((l) => !l.lit_side)" :key="i">
          <td>{{ i + 1 }}</td>
          <td><span class="figure">{{ ((s.azimuth_from_deg + s.azimuth_to_deg) / 2).toFixed(1).replace('-', '−') }}° ± {{ s.azimuth_sd_deg.toFixed(1) }}</span></td>
          <td><span class="figure">{{ (s.azimuth_to_deg - s.azimuth_from_deg).toFixed(1) }}° ± {{ s.width_sd_deg.toFixed(1) }}</span></td>
          <td>{{ s.edge }}</td>
          <td><span class="figure">{{ s.reaches ? `${s.reaches.elevation_deg.toFixed(0)}°${s.reaches.open ? ' or more' : ` ± ${s.reaches.elevation_sd_deg.toFixed(0)}`}` : 'not told' }}</span></td>
        </tr>
      </tbody>
    </BTableSimple>
    <p v-if="reading?.bands?.length" class="m-0 small">Surface from the foot: {{ reading.bands.map((b) => `${b.finish ?? 'not told'} ${percent(b.from)} to ${percent(b.to)}`).join(', ') }}.</p>
  </div>
</template>

<style scoped>
.outline {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
  width: 100%;
}
.lines {
  font-size: 0.86rem;
}
</style>
