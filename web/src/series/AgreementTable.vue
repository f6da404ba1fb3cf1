<script setup lang="ts">
// What was compared: a row for each quantity, a column for each picture, its difference from the usual one.
import type { SeriesComparison } from '../api/client'

const { comparison } = defineProps<{ comparison: SeriesComparison }>()
type Row = SeriesComparison['report']['compared'][number]
const of = (row: Row, frame: string) => row.values.find((v) => v.frame === frame)
function text(row: Row, frame: string) {
  const v = of(row, frame)
  if (!v) return ''
  const digits = row.unit === 'mired' ? 0 : row.unit === 'stops' ? 2 : 1
  const by = v.by.toFixed(digits)
  return Number(by) === 0 ? '0' : Number(by) > 0 ? `+${by}` : by.replace('-', '−')
}
</script>

<template>
  <div class="wide" tabindex="0" role="region" aria-label="Differences from the usual one">
    <BTableSimple small>
      <thead>
        <tr>
          <th scope="col">Against the others</th>
          <th v-for="p in comparison.pictures" :key="p.frame" scope="col">{{ p.name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in comparison.report.compared" :key="row.id" :data-test="`row-${row.id}`">
          <th scope="row">{{ row.name }} <span class="quiet">±{{ row.within }} {{ row.unit }}</span></th>
          <td v-for="p in comparison.pictures" :key="p.frame" class="by" :class="{ out: of(row, p.frame)?.out }">{{ text(row, p.frame) }}<span v-if="of(row, p.frame)" class="visually-hidden"> ± {{ of(row, p.frame)?.sd.toFixed(2) }}</span></td>
        </tr>
      </tbody>
    </BTableSimple>
  </div>
</template>

<style scoped>
.wide {
  overflow-x: auto;
  font-size: 0.82rem;
}
th,
td {
  font-weight: 400;
}
thead th {
  vertical-align: bottom;
}
td {
  font-variant-numeric: tabular-nums;
  text-align: right;
  white-space: nowrap;
}
.out {
  color: var(--fault);
  font-weight: 700;
}
</style>
