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

type Straight = NonNullable<Readings['straight']>

/** How a horizon, a table's edge or the corners of a room lie, in sentences. */
export function framed(s: Straight | null | undefined): string {
  const about = (v: number, sd: number) => `${Math.abs(v).toFixed(1)} ± ${sd.toFixed(1)}°`
  const parts: string[] = []
  if (s?.level) {
    const { tilt_deg: t, tilt_sd_deg: sd } = s.level
    parts.push(Math.abs(t) < sd + 0.1 ? `The longest level line is level (± ${sd.toFixed(1)}°).` : `The longest level line falls to the ${t > 0 ? 'right' : 'left'} by ${about(t, sd)}.`)
  }
  if (s?.upright) {
    const { tilt_deg: t, tilt_sd_deg: sd } = s.upright
    parts.push(Math.abs(t) < sd + 0.1 ? `Uprights stand (± ${sd.toFixed(1)}°).` : `Uprights lean to the ${t > 0 ? 'right' : 'left'} by ${about(t, sd)}.`)
  }
  const c = s?.converging_deg
  if (c != null && s?.converging_sd_deg != null && Math.abs(c) > 2 * s.converging_sd_deg + 0.2) parts.push(`They meet ${c > 0 ? 'above: the camera looks up' : 'below: the camera looks down'} (${about(c, s.converging_sd_deg)}).`)
  return parts.join(' ')
}
