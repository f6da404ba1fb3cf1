<script lang="ts">
// An eye: the outline of its iris, where it looks, its catchlights.
import type { GreyTarget, MarkReading } from '../../api/client'
import { type Kind, type MarkOf, type Point, apart, radiusOf, rect, shifted } from '../kind'

type Eye = MarkOf<'eye'>

/** Catchlights the program found, as outlines a person can keep or drop. */
export const foundOutlines = (reading?: MarkReading): { outline: Point[] }[] => (reading?.catchlights ?? []).map((s) => ({ outline: s.outline ?? [] })).filter((o) => o.outline.length > 2)

export const kind: Kind<Eye> = {
  kind: 'eye',
  tools: [
    {
      tool: 'eye',
      key: 'E',
      group: 'people',
      at: 2,
      text: 'eye',
      how: 'press on the pupil and drag to the edge of the iris',
      draft: 'circle',
      prefix: 'eye',
      draw(id, p) {
        const r = radiusOf(p, 0.04)
        return { id, kind: 'eye', limbus: { centre: p.a, rx: r, ry: r, angle_deg: 0 } }
      },
    },
    {
      tool: 'catchlight',
      key: 'C',
      group: 'people',
      at: 3,
      text: 'catchlight',
      how: 'drag a rectangle round a catchlight of the chosen eye',
      draft: 'box',
      can: ({ list }) => list.some((m) => m.kind === 'eye'),
      add: (m, p, reading) => (m.catchlights = [...(m.catchlights ?? foundOutlines(reading)), { outline: rect(p.a, p.b) }]),
    },
  ],
  name: () => 'eye',
  letter: () => 'E',
  points: () => [],
  setPoints: () => {},
  shape: (m) => [{ centre: m.limbus.centre, rx: m.limbus.rx, ry: m.limbus.ry, turn_deg: m.limbus.angle_deg ?? 0 }],
  centre: (m) => m.limbus.centre,
  label: (m) => ({ at: shifted(m.limbus.centre, m.limbus.rx, -m.limbus.ry), off: [9, -3] }),
  handles(m) {
    const a = ((m.limbus.angle_deg ?? 0) * Math.PI) / 180
    return [
      { name: 'rx', at: shifted(m.limbus.centre, m.limbus.rx * Math.cos(a), m.limbus.rx * Math.sin(a)) },
      { name: 'ry', at: shifted(m.limbus.centre, -m.limbus.ry * Math.sin(a), m.limbus.ry * Math.cos(a)) },
    ]
  },
  pull(m, handle, to) {
    const d = Math.max(2, apart(m.limbus.centre, to))
    if (handle === 'ry') m.limbus.ry = d
    else {
      m.limbus.rx = d
      m.limbus.angle_deg = (Math.atan2(to[1] - m.limbus.centre[1], to[0] - m.limbus.centre[0]) * 180) / Math.PI
    }
  },
  move(m, dx, dy) {
    m.limbus.centre = shifted(m.limbus.centre, dx, dy)
    m.catchlights?.forEach((c) => (c.outline = c.outline.map((p) => shifted(p, dx, dy))))
  },
  grow(m, by) {
    m.limbus.rx = Math.max(2, m.limbus.rx + by)
    m.limbus.ry = Math.max(2, m.limbus.ry + by)
  },
}
</script>

<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{ mark: Eye; reading?: MarkReading; targets: GreyTarget[] }>()
const emit = defineEmits<{ edit: [change: (m: Eye) => void] }>()
const found = computed(() => foundOutlines(props.reading))
const clocks = [{ value: '', text: 'not said' }, ...Array.from({ length: 12 }, (_, k) => ({ value: String(k + 1), text: `${k + 1} o'clock` }))]
const looks = computed({
  get: () => String(props.mark.looks_to_clock ?? ''),
  set: (v) => emit('edit', (m) => (m.looks_to_clock = v === '' ? undefined : Number(v))),
})
</script>

<template>
  <label>A turned eye looks towards <BFormSelect v-model="looks" size="sm" :options="clocks" /></label>
  <span v-for="(_, i) in found" :key="i" class="small">catchlight {{ i + 1 }} <BButton size="sm" variant="secondary" :aria-label="`Not a catchlight: ${i + 1}`" @click="emit('edit', (m) => (m.catchlights = found.filter((_, k) => k !== i)))">not one</BButton></span>
  <BButton v-if="mark.catchlights" size="sm" variant="secondary" @click="emit('edit', (m) => delete m.catchlights)">Find them again</BButton>
</template>
