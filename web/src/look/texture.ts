import type { Readings } from '../api/client'

type Texture = NonNullable<Readings['texture']>

/** Way of a smear in words. */
function way(deg: number): string {
  return { 0: 'level', 45: 'falling to the right', 90: 'upright', 135: 'rising to the right' }[deg] ?? `${deg.toFixed(0)}° from level`
}

/** What the picture is made of at the scale of its pixels, in sentences; nothing where it was not measured. */
export function upClose(t: Texture | null | undefined): string {
  if (!t) return ''
  const edge = t.edge_permille
  return [
    `Noise ${t.noise_percent.toFixed(1)} % of the range.`,
    t.blocks_percent >= 0.05 ? `Blocks of compression stand out by ${t.blocks_percent.toFixed(2)} %.` : 'No blocks of compression.',
    edge == null ? 'Too few clear edges to tell how sharp it is.' : `Sharpest edges ${edge.toFixed(1)} thousandths of the longer side wide (± ${t.pixel_permille.toFixed(1)}).`,
    t.subject_edge_permille == null ? '' : `At the subject ${t.subject_edge_permille.toFixed(1)}.`,
    t.smear_permille != null && t.smear_permille > 1.5 * t.pixel_permille ? `${t.smear_permille.toFixed(1)} thousandths wider ${way(t.smear_deg)} than across it.` : '',
  ]
    .filter(Boolean)
    .join(' ')
}
