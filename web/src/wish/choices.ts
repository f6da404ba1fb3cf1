import type { Wish } from '../api/client'

/** Colours a wall or a paper may have, by their share of light. */
export const SHADES = [
  { value: 'white', text: 'white', share: 0.8 },
  { value: 'pale', text: 'pale', share: 0.6 },
  { value: 'grey', text: 'grey', share: 0.2 },
  { value: 'black', text: 'black', share: 0.04 },
] as const
export type Shade = (typeof SHADES)[number]['value']

/** Linear RGB of a shade. */
export function rgbOf(shade: Shade): [number, number, number] {
  const share = SHADES.find((s) => s.value === shade)?.share ?? 0.6
  return [share, share, share]
}

/** The shade nearest to a colour. */
export function shadeOf(rgb: readonly number[] | null | undefined): Shade | '' {
  if (!rgb) return ''
  const mean = rgb.reduce((a, b) => a + b, 0) / rgb.length
  const off = (s: (typeof SHADES)[number]) => Math.abs(Math.log(Math.max(mean, 0.01) / s.share))
  return [...SHADES].sort((a, b) => off(a) - off(b))[0]?.value ?? ''
}

/** Who or what a set may be for. */
export const SUBJECTS = [
  { value: 'person', text: 'a person' },
  { value: 'head_long', text: 'a puppet, long face' },
  { value: 'head_round', text: 'a puppet, round face' },
  { value: 'bottle', text: 'a bottle' },
  { value: 'can', text: 'a can' },
  { value: 'tin', text: 'a box' },
  { value: 'shoe', text: 'a shoe' },
  { value: 'fork', text: 'cutlery' },
  { value: 'ball_matte', text: 'a matte ball' },
  { value: 'ball_mirror', text: 'a mirror ball' },
] as const

export const GROUPS: Record<string, string> = { portrait: 'Portraits', talking: 'Talking to camera', product: 'Products', table: 'On a table' }

const KEPT = 'wish'

/** A living room. */
export const FIRST_ROOM: NonNullable<Wish['room']> = { width_m: 5, depth_m: 6, height_m: 2.6, walls: rgbOf('pale') }
/** A first wish: the everyday portrait. */
export const FIRST: Wish = { look: 'loop', from_right: false, turn_deg: 0, standing: false, room: FIRST_ROOM }

/** The wish of last time, if it can be read. */
export function lastWish(): Wish {
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT) ?? 'null') as Wish | null
    return kept && typeof kept.look === 'string' && kept.room ? { ...FIRST, ...kept } : FIRST
  } catch {
    return FIRST
  }
}

export function keepWish(wish: Wish) {
  localStorage.setItem(KEPT, JSON.stringify(wish))
}
