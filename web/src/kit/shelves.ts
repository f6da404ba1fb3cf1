// The shelves of a kit: what lies on each, what is said of it in a line, and the figures that can be put in.
import type { Board, Kit, KitBoard, Lamp, Modifier, Sheet, Stand } from '../api/client'
import { show } from '../shell/units'

/** Anything one owns. */
export interface Owned {
  id: string
  name: string
  count?: number
  household?: boolean
}

/** A figure, or a word out of some. */
export type Field<T extends Owned> =
  | { label: string; name: string; unit: string; of(t: T): number | null | undefined; put(t: T, v: number): void; clear?(t: T): void; has?(t: T): boolean }
  | { label: string; name: string; words: readonly string[]; of(t: T): string | undefined; pick(t: T, word: string): void; has?(t: T): boolean }

export interface Shelf<T extends Owned> {
  name: 'lamp' | 'modifier' | 'sheet' | 'board' | 'stand'
  title: string
  list(k: Kit): T[]
  put(k: Kit, list: T[]): void
  about(t: T): string
  fields: Field<T>[]
}

const OUTPUTS = { lux: 'lux', lumens: 'lumens', guide: 'guide_number_m', joules: 'joules' } as const
/** What is printed on a lamp, in the notation it is measured in. */
export function outputOf(l: Lamp): number {
  const o = l.output
  if (o.measured === 'lux') return o.lux
  if (o.measured === 'lumens') return o.lumens
  return o.measured === 'guide' ? o.guide_number_m : o.joules
}
export function putOutput(l: Lamp, v: number) {
  Object.assign(l.output, { [OUTPUTS[l.output.measured]]: v })
}
export const NOTATIONS: { measured: Lamp['output']['measured']; text: string }[] = [
  { measured: 'guide', text: 'flash, guide number' },
  { measured: 'joules', text: 'flash, joules' },
  { measured: 'lux', text: 'continuous, lux' },
  { measured: 'lumens', text: 'continuous, lumens' },
]

const CONTROLS: NonNullable<Lamp['control']>[] = ['fraction', 'percent', 'stops', 'panel', 'joules', 'fixed']
export const FINISHES: readonly Board['finish'][] = ['white', 'silver', 'gold', 'black', 'mirror']
const percent = (v: number) => `${Math.round(100 * v)} %`
const across = ([w, h]: [number, number]) => `${show(w, 'm')} × ${show(h, 'm')} m`

function size<T extends Owned & { size_m: [number, number] }>(): Field<T>[] {
  return [
    { label: 'Width, m', name: 'size_m-0', unit: 'm', of: (t) => t.size_m[0], put: (t, v) => (t.size_m = [v, t.size_m[1]]) },
    { label: 'Height, m', name: 'size_m-1', unit: 'm', of: (t) => t.size_m[1], put: (t, v) => (t.size_m = [t.size_m[0], v]) },
  ]
}
/** A figure kept under one name. */
function figure<K extends string, T extends Owned & { [P in K]?: number | null }>(label: string, name: K, unit: string): Field<T> {
  return { label, name, unit, of: (t) => t[name], put: (t, v) => Object.assign(t, { [name]: v }), clear: (t) => Object.assign(t, { [name]: null }) }
}
/** One word out of some. */
function word<T extends Owned, W extends string>(label: string, name: string, words: readonly W[], of: (t: T) => W | undefined, put: (t: T, w: W) => void): Field<T> {
  const pick = (t: T, chosen: string) => {
    const found = words.find((w) => w === chosen)
    if (found) put(t, found)
  }
  return { label, name, words, of, pick }
}

const said = (l: Lamp): string => {
  const o = l.output
  if (o.measured === 'lux') return `${o.lux} lux at ${o.at_m} m`
  if (o.measured === 'lumens') return `${o.lumens} lumens`
  return o.measured === 'guide' ? `guide number ${o.guide_number_m} m` : `${o.joules} J`
}
const isFlash = (l: Lamp) => l.output.measured === 'guide' || l.output.measured === 'joules'
type Pulse = NonNullable<Lamp['pulse']>
const FRESH_PULSE: Pulse = { t01_s: 0.002, dimming: 'cut', ready_s: 2 }
/** A figure of a flash's pulse; written first, the pulse begins with usual ones. */
function pulsed(label: string, name: string, of: (p: Pulse) => number | null, put: (p: Pulse, v: number) => void): Field<Lamp> {
  const set = (l: Lamp, v: number) => {
    const p = { ...(l.pulse ?? FRESH_PULSE) }
    put(p, v)
    l.pulse = p
  }
  return { label, name, unit: 'number', has: isFlash, of: (l) => (l.pulse ? of(l.pulse) : null), put: set }
}
const lamps: Shelf<Lamp> = {
  name: 'lamp',
  title: 'Lamps',
  list: (k) => k.lamp,
  put: (k, list) => (k.lamp = list),
  about: (l) => `${said(l)} in ${l.output.beam_deg}°, ± ${l.spread_stops ?? 0.3} stops, ${l.cct_k} K`,
  fields: [
    { label: 'Measured at, m', name: 'at_m', unit: 'm', has: (l) => 'at_m' in l.output, of: (l) => ('at_m' in l.output ? l.output.at_m : null), put: (l, v) => Object.assign(l.output, { at_m: v }) },
    { label: 'Beam, °', name: 'output-beam_deg', unit: 'deg', of: (l) => l.output.beam_deg, put: (l, v) => (l.output.beam_deg = v) },
    figure('Face, m', 'face_m', 'm'),
    figure('Colour, K', 'cct_k', 'number'),
    figure('Lowest power, stops', 'lowest_stops', 'stops'),
    figure('Spread, stops', 'spread_stops', 'stops'),
    figure('Draws from the mains, W', 'draw_w', 'number'),
    pulsed('Flash lasts at full power, ms', 'pulse-t01', (p) => 1000 * p.t01_s, (p, v) => (p.t01_s = v / 1000)),
    pulsed('Ready again after, s', 'pulse-ready', (p) => p.ready_s, (p, v) => (p.ready_s = v)),
    pulsed('Flashes on a charge', 'pulse-flashes', (p) => p.flashes ?? null, (p, v) => (p.flashes = v)),
    { label: 'Turned down by', name: 'pulse-dimming', words: ['cut', 'voltage'], has: (l: Lamp) => isFlash(l), of: (l: Lamp) => l.pulse?.dimming, pick: (l: Lamp, w: string) => (l.pulse = { ...(l.pulse ?? FRESH_PULSE), dimming: w === 'voltage' ? 'voltage' : 'cut' }) },
    word('Power set as', 'control', CONTROLS, (l: Lamp) => l.control, (l, w) => (l.control = w)),
  ],
}
const modifiers: Shelf<Modifier> = {
  name: 'modifier',
  title: 'Modifiers',
  list: (k) => k.modifier,
  put: (k, list) => (k.modifier = list),
  about: (m) => `${across(m.size_m)}, lets out ${percent(m.share ?? 0.45)}${m.beam_deg ? `, beam ${m.beam_deg}°` : ''}`,
  fields: [...size<Modifier>(), figure('Used from, m', 'near_m', 'm'), figure('to, m', 'far_m', 'm'), figure('Lets out, share', 'share', 'number'), figure('Beam, °', 'beam_deg', 'deg')],
}
const sheets: Shelf<Sheet> = {
  name: 'sheet',
  title: 'Sheets of diffusion',
  list: (k) => k.sheet,
  put: (k, list) => (k.sheet = list),
  about: (m) => `${across(m.size_m)}, ${percent(m.transmission)} comes through, ± ${m.spread_stops ?? 0.3} stops`,
  fields: [...size<Sheet>(), figure('Lets through, share', 'transmission', 'number'), figure('Spread, stops', 'spread_stops', 'stops')],
}
const boards: Shelf<KitBoard> = {
  name: 'board',
  title: 'Boards',
  list: (k) => k.board,
  put: (k, list) => (k.board = list),
  about: (m) => `${across(m.size_m)}, ${m.finish}`,
  fields: [...size<KitBoard>(), word('Finish', 'finish', FINISHES, (b: KitBoard) => b.finish, (b, w) => (b.finish = w))],
}
const stands: Shelf<Stand> = {
  name: 'stand',
  title: 'Stands',
  list: (k) => k.stand,
  put: (k, list) => (k.stand = list),
  about: (m) => `${show(m.lowest_m, 'm')} to ${show(m.highest_m, 'm')} m${m.boom ? ', boom' : ''}`,
  fields: [figure('Lowest, m', 'lowest_m', 'm'), figure('Highest, m', 'highest_m', 'm')],
}

export const SHELVES: Shelf<Owned>[] = [lamps, modifiers, sheets, boards, stands]

/** What the catalogue has and the kit has not. */
export const missing = (s: Shelf<Owned>, kit: Kit, catalogue: Kit): Owned[] => s.list(catalogue).filter((t) => !s.list(kit).some((m) => m.id === t.id))

/** One more of a thing of the catalogue. */
export function addTo(s: Shelf<Owned>, kit: Kit, thing: Owned) {
  const mine = s.list(kit).find((t) => t.id === thing.id)
  if (mine) mine.count = (mine.count ?? 1) + 1
  else s.put(kit, [...s.list(kit), { ...thing, count: 1 }])
}

/** A row of one's own: starts as a plain thing of its kind. Returns its id. */
export function addOwn(s: Shelf<Owned>, kit: Kit, like: Owned): string {
  const n = 1 + s.list(kit).filter((t) => t.id.startsWith('own-')).length
  const id = `own-${s.name}-${n}`
  s.put(kit, [...s.list(kit), { ...like, id, name: `My ${s.name} ${n}`, count: 1, household: false }])
  return id
}
