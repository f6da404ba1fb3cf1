// Geometry of marks under the hand: making, moving, growing. Nothing here knows about light.
import type { Mark } from '../api/client'

export type Tool = 'matte' | 'mirror' | 'eye' | 'patch' | 'catchlight'
export type Handle = 'body' | 'radius' | 'rx' | 'ry' | 'turn' | `corner${number}`

export const toolNames: { tool: Tool; key: string; text: string }[] = [
  { tool: 'matte', key: 'B', text: 'matte ball' },
  { tool: 'mirror', key: 'M', text: 'mirror ball' },
  { tool: 'eye', key: 'E', text: 'eye' },
  { tool: 'patch', key: 'P', text: 'patch' },
  { tool: 'catchlight', key: 'C', text: 'catchlight' },
]

export const patchRoles = ['lit', 'shadow', 'forehead', 'chest', 'background', 'background_far', 'rim', 'label', 'liquid', 'grey18', 'white', 'black', 'other'] as const

const rect = (a: number[], b: number[]): number[][] => {
  const [x0, x1] = [Math.min(a[0]!, b[0]!), Math.max(a[0]!, b[0]!)]
  const [y0, y1] = [Math.min(a[1]!, b[1]!), Math.max(a[1]!, b[1]!)]
  return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]
}

const prefix: Record<Tool, string> = { matte: 'ball', mirror: 'ball', eye: 'eye', patch: 'patch', catchlight: '' }

export function freeId(tool: Tool, marks: Mark[]): string {
  for (let i = 1; ; i++) {
    const id = `${prefix[tool]}-${i}`
    if (!marks.some((m) => m.id === id)) return id
  }
}

/** A new mark from a press at `a` dragged to `b`; a mere click gets a size from the picture's. */
export function make(tool: Exclude<Tool, 'catchlight'>, id: string, a: number[], b: number[], side: number, role: (typeof patchRoles)[number]): Mark {
  const pulled = Math.hypot(b[0]! - a[0]!, b[1]! - a[1]!)
  const r = pulled > 3 ? pulled : side * (tool === 'eye' ? 0.04 : 0.1)
  if (tool === 'eye') return { id, kind: 'eye', limbus: { centre: a, rx: r, ry: r, angle_deg: 0 } }
  if (tool === 'patch') {
    const h = side * 0.02
    const polygon = pulled > 3 ? rect(a, b) : rect([a[0]! - h, a[1]! - h], [a[0]! + h, a[1]! + h])
    return { id, kind: 'patch', role, polygon }
  }
  return { id, kind: 'ball', finish: tool, centre: a, radius_px: r }
}

export const outlineOf = (a: number[], b: number[]) => ({ outline: rect(a, b) })

export function centreOf(m: Mark): number[] {
  if (m.kind === 'ball') return m.centre
  if (m.kind === 'eye') return m.limbus.centre
  if (m.kind === 'patch') {
    const n = m.polygon.length
    return [m.polygon.reduce((s, p) => s + p[0]!, 0) / n, m.polygon.reduce((s, p) => s + p[1]!, 0) / n]
  }
  return [0, 0]
}

const shift = (p: number[], dx: number, dy: number) => [p[0]! + dx, p[1]! + dy]

export function move(m: Mark, dx: number, dy: number) {
  if (m.kind === 'ball') m.centre = shift(m.centre, dx, dy)
  else if (m.kind === 'eye') {
    m.limbus.centre = shift(m.limbus.centre, dx, dy)
    m.catchlights?.forEach((c) => (c.outline = c.outline.map((p) => shift(p, dx, dy))))
  } else if (m.kind === 'patch') m.polygon = m.polygon.map((p) => shift(p, dx, dy))
}

export function grow(m: Mark, by: number) {
  if (m.kind === 'ball') m.radius_px = Math.max(2, m.radius_px + by)
  else if (m.kind === 'eye') {
    m.limbus.rx = Math.max(2, m.limbus.rx + by)
    m.limbus.ry = Math.max(2, m.limbus.ry + by)
  } else if (m.kind === 'patch') {
    const [cx, cy] = centreOf(m) as [number, number]
    m.polygon = m.polygon.map((p) => {
      const d = Math.hypot(p[0]! - cx, p[1]! - cy) || 1
      const k = Math.max(1, d + by) / d
      return [cx + (p[0]! - cx) * k, cy + (p[1]! - cy) * k]
    })
  }
}

/** Pulls a handle to a point of the picture. */
export function pull(m: Mark, handle: Handle, at: number[]) {
  const [cx, cy] = centreOf(m) as [number, number]
  const [dx, dy] = [at[0]! - cx, at[1]! - cy]
  const d = Math.max(2, Math.hypot(dx, dy))
  if (m.kind === 'ball') m.radius_px = d
  else if (m.kind === 'eye') {
    const turn = (Math.atan2(dy, dx) * 180) / Math.PI
    if (handle === 'rx') {
      m.limbus.rx = d
      m.limbus.angle_deg = turn
    } else if (handle === 'ry') m.limbus.ry = d
  } else if (m.kind === 'patch' && handle.startsWith('corner')) m.polygon[Number(handle.slice(6))] = at
}

export function handlesOf(m: Mark): { handle: Handle; at: number[] }[] {
  if (m.kind === 'ball') return [{ handle: 'radius', at: [m.centre[0]! + m.radius_px, m.centre[1]!] }]
  if (m.kind === 'eye') {
    const a = ((m.limbus.angle_deg ?? 0) * Math.PI) / 180
    const [cx, cy] = m.limbus.centre as [number, number]
    return [
      { handle: 'rx', at: [cx + m.limbus.rx * Math.cos(a), cy + m.limbus.rx * Math.sin(a)] },
      { handle: 'ry', at: [cx - m.limbus.ry * Math.sin(a), cy + m.limbus.ry * Math.cos(a)] },
    ]
  }
  if (m.kind === 'patch') return m.polygon.map((at, i) => ({ handle: `corner${i}` as Handle, at }))
  return []
}

export function nameOf(m: Mark): string {
  if (m.kind === 'ball') return `${m.finish} ball`
  if (m.kind === 'patch') return `${m.role.replace('_', ' ')} patch`
  return m.kind
}

/** The id if a person gave it a telling one, else what it is. */
export const titleOf = (m: Mark) => (/^(ball|eye|patch)-\d+$/.test(m.id) ? `${nameOf(m)} ${m.id.split('-').at(-1)}` : `${m.id.replaceAll('-', ' ')}`)

export const letterOf = (m: Mark) => (m.kind === 'ball' ? (m.finish === 'matte' ? 'B' : 'M') : m.kind === 'eye' ? 'E' : m.kind === 'patch' ? 'P' : '?')
