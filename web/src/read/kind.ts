// What a kind of mark is in the front end. One file of `kinds/` holds all of one kind: its tools, how it is drawn, moved and
// pulled, and what can be said beside it; nothing else names it.
import type { Component } from 'vue'
import type { GreyTarget, Mark, MarkReading } from '../api/client'

export type Point = [number, number]
export type MarkOf<K extends Mark['kind']> = Extract<Mark, { kind: K }>

/** A press at `a` dragged to `b` along `path`; for a mere click `b` is `a`. */
export interface Pull {
  a: Point
  b: Point
  path: Point[]
  /** Width and height of the picture, pixels. */
  picture: Point
  /** Steps of the grey target a wedge is drawn for. */
  steps: number[]
}

export type Group = 'people' | 'probes' | 'surfaces' | 'shadows'

interface ToolBase {
  tool: string
  key: string
  group: Group
  /** Place in its group. */
  at: number
  text: string
  how: string
  /** What is drawn while the pointer is held. */
  draft: 'box' | 'line' | 'circle' | 'path'
  /** Whether there is what it needs. */
  can?: (given: { list: Mark[]; targets: GreyTarget[] }) => boolean
}

/** A tool that draws a new mark. */
export interface DrawingTool<M extends Mark> extends ToolBase {
  /** Ids begin with it. */
  prefix: string
  draw(id: string, p: Pull): M
  /** Brings what was drawn into place by the picture of a frame; what was drawn stays if it cannot. */
  settle?(m: M, frame: string): Promise<void>
}

/** A tool that adds to a mark of its kind. */
export interface AddingTool<M extends Mark> extends ToolBase {
  add(to: M, p: Pull, reading?: MarkReading): void
}

export type Tool = DrawingTool<Mark> | AddingTool<Mark>

/** Lines and ellipses, in pixels of the picture. */
export type Shape = { closed?: boolean; ray?: boolean; points: Point[] } | { centre: Point; rx: number; ry: number; turn_deg: number }

export interface Handle {
  name: string
  at: Point
}

export interface Kind<M extends Mark> {
  kind: M['kind']
  tools: (DrawingTool<M> | AddingTool<M>)[]
  name(m: M): string
  letter(m: M): string
  /** The points it is made of, each with a handle. */
  points(m: M): Point[]
  setPoints(m: M, p: Point[]): void
  shape(m: M): Shape[]
  centre?(m: M): Point
  /** Where its letter stands, and how many screen pixels off. */
  label?(m: M): { at: Point; off: Point }
  /** Further handles. */
  handles?(m: M): Handle[]
  /** Pulls a handle that is no point of its own. */
  pull?(m: M, handle: string, to: Point): void
  move?(m: M, dx: number, dy: number): void
  grow?(m: M, by: number): void
  /** Keys that act on a chosen mark of the kind. */
  keys?: Record<string, (m: M) => void>
}

/** A file of `kinds/`: the kind, and, if there is something to say beside such a mark, a component that takes
 * `mark`, `reading` and `targets` and emits `edit` with a function that changes the mark. */
export interface KindFile {
  kind: Kind<Mark>
  default?: Component
}

export const apart = (a: Point, b: Point): number => Math.hypot(b[0] - a[0], b[1] - a[1])
export const middle = (p: Point[]): Point => (p.length ? [p.reduce((s, q) => s + q[0], 0) / p.length, p.reduce((s, q) => s + q[1], 0) / p.length] : [0, 0])
export const between = (a: Point, b: Point): Point => middle([a, b])
export const shifted = (p: Point, dx: number, dy: number): Point => [p[0] + dx, p[1] + dy]

/** A rectangle by two of its corners. */
export function rect(a: Point, b: Point): Point[] {
  const [x0, x1] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])]
  const [y0, y1] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])]
  return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]
}
/** A square round a point. */
export const square = (at: Point, half: number): Point[] => rect(shifted(at, -half, -half), shifted(at, half, half))

/** Whether the pointer was dragged, not only pressed. */
export const dragged = (p: Pull): boolean => apart(p.a, p.b) > 3
/** Shorter side of the picture. */
export const side = (p: Pull): number => Math.min(...p.picture)
/** Where a line ends: a mere click gets a length from the picture's. */
export const endOf = (p: Pull): Point => (dragged(p) ? p.b : shifted(p.a, side(p) * 0.12, 0))
/** Radius that was drawn, or a share of the picture's side. */
export const radiusOf = (p: Pull, share: number): number => (dragged(p) ? apart(p.a, p.b) : side(p) * share)
/** The rectangle that was drawn, or a square of a share of the picture's side. */
export const boxOf = (p: Pull, share: number): Point[] => (dragged(p) ? rect(p.a, p.b) : square(p.a, side(p) * share))

/** Points pushed out from a centre by so many pixels. */
export function grown(points: Point[], centre: Point, by: number): Point[] {
  return points.map((p) => {
    const d = apart(centre, p) || 1
    const k = Math.max(1, d + by) / d
    return [centre[0] + (p[0] - centre[0]) * k, centre[1] + (p[1] - centre[1]) * k]
  })
}

type Drawn<M extends Mark> = Pick<Kind<M>, 'points' | 'setPoints' | 'shape'>

/** What every mark that is a line between two points has in common. */
export const line = <M extends Mark>(ends: (m: M) => [Point, Point], put: (m: M, ends: [Point, Point]) => void): Drawn<M> => ({
  points: ends,
  setPoints(m, [a, b]) {
    const [c, d] = ends(m)
    put(m, [a ?? c, b ?? d])
  },
  shape: (m) => [{ points: ends(m) }],
})

/** What every mark that is an area has in common. */
export const area = <M extends Mark & { polygon: Point[] }>(): Drawn<M> & Pick<Kind<M>, 'grow'> => ({
  points: (m) => m.polygon,
  setPoints: (m, p) => (m.polygon = p),
  shape: (m) => [{ closed: true, points: m.polygon }],
  grow: (m, by) => (m.polygon = grown(m.polygon, middle(m.polygon), by)),
})
