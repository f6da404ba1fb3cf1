// Marks under the hand: making, moving, growing, pulling, by what each kind says of itself. Nothing here knows about light,
// and nothing here names a kind.
import type { Mark, MarkReading } from '../api/client'
import { type AddingTool, type DrawingTool, type Group, type Handle, type Kind, type KindFile, type Point, type Pull, type Shape, type Tool, middle, shifted } from './kind'

const files = Object.values(import.meta.glob<KindFile>('./kinds/*.{ts,vue}', { eager: true }))

function fileOf(m: Mark): KindFile {
  const file = files.find((f) => f.kind.kind === m.kind)
  if (!file) throw new Error(`no file of kinds/ holds ${m.kind}`)
  return file
}
const kindOf = (m: Mark): Kind<Mark> => fileOf(m).kind

/** What can be said beside a mark, if there is something. */
export const detailsOf = (m: Mark) => fileOf(m).default

const groups: Group[] = ['people', 'probes', 'surfaces', 'shadows']
const all: Tool[] = files.flatMap((f) => f.kind.tools)
/** Tools in groups, as they are offered. */
export const toolGroups = groups.map((title) => ({ title, tools: all.filter((t) => t.group === title).sort((a, b) => a.at - b.at) }))
export const toolNames = toolGroups.flatMap((g) => g.tools)
export const adds = (t: Tool): t is AddingTool<Mark> => 'add' in t
export const draws = (t: Tool): t is DrawingTool<Mark> => 'draw' in t
/** The kind of mark a tool is of. */
export const kindOfTool = (t: Tool) => files.find((f) => f.kind.tools.includes(t))?.kind.kind

function freeFrom(prefix: string, marks: { id: string }[]): string {
  for (let i = 1; ; i++) {
    const id = `${prefix}-${i}`
    if (!marks.some((m) => m.id === id)) return id
  }
}
const prefixes = new Set(all.filter(draws).map((t) => t.prefix))
const prefixOf = (kind: Mark['kind']) => files.find((f) => f.kind.kind === kind)?.kind.tools.find(draws)?.prefix ?? kind
/** An id for a new mark of a kind. */
export const freeId = (kind: Mark['kind'], marks: { id: string }[]): string => freeFrom(prefixOf(kind), marks)

/** A new mark. */
export const make = (tool: DrawingTool<Mark>, marks: Mark[], pull: Pull): Mark => tool.draw(freeFrom(tool.prefix, marks), pull)

export const pointsOf = (m: Mark): Point[] => kindOf(m).points(m)
export const shapesOf = (m: Mark): Shape[] => kindOf(m).shape(m)
export const centreOf = (m: Mark): Point => kindOf(m).centre?.(m) ?? middle(pointsOf(m))
const beside = (at: Point): { at: Point; off: Point } => ({ at, off: [14, -12] })
export const labelOf = (m: Mark) => kindOf(m).label?.(m) ?? beside(centreOf(m))
export const nameOf = (m: Mark): string => kindOf(m).name(m)
export const letterOf = (m: Mark): string => kindOf(m).letter(m)
export const keyOf = (m: Mark, key: string) => kindOf(m).keys?.[key.toLowerCase()]
export const grow = (m: Mark, by: number) => kindOf(m).grow?.(m, by)

export function move(m: Mark, dx: number, dy: number) {
  const kind = kindOf(m)
  if (kind.move) kind.move(m, dx, dy)
  else kind.setPoints(m, kind.points(m).map((p) => shifted(p, dx, dy)))
}

/** A line of many points is pulled at its ends. */
const MOST_HANDLES = 12
const corner = (i: number) => `corner${i}`

export function handlesOf(m: Mark): Handle[] {
  const kind = kindOf(m)
  const points = kind.points(m).map((at, i) => ({ name: corner(i), at }))
  const shown = points.length > MOST_HANDLES ? points.filter((_, i) => i === 0 || i === points.length - 1) : points
  return [...shown, ...(kind.handles?.(m) ?? [])]
}

/** Pulls a handle to a point of the picture. */
export function pull(m: Mark, handle: string, to: Point) {
  const kind = kindOf(m)
  const points = kind.points(m)
  const i = points.findIndex((_, k) => corner(k) === handle)
  if (i >= 0) kind.setPoints(m, points.map((p, k) => (k === i ? to : p)))
  else kind.pull?.(m, handle, to)
}

/** The id if a person gave it a telling one, else what it is. */
export function titleOf(m: Mark): string {
  const [, prefix, number] = /^(\w+)-(\d+)$/.exec(m.id) ?? []
  return prefix && prefixes.has(prefix) ? `${nameOf(m)} ${number}` : m.id.replaceAll('-', ' ')
}

export type { Mark, MarkReading }
