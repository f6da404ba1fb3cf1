// Geometry of marks under the hand: making, moving, growing. Nothing here knows about light.
import type { Mark, MarkReading } from '../api/client'

export type Tool = 'matte' | 'mirror' | 'eye' | 'patch' | 'catchlight' | 'cast' | 'penumbra' | 'cylinder' | 'face' | 'wedge' | 'nose' | 'contour' | 'rim' | 'gradient' | 'pattern'
export type Handle = 'body' | 'radius' | 'rx' | 'ry' | 'turn' | `corner${number}`

/** Tools in groups, as they are offered. */
export const toolGroups: { title: string; tools: { tool: Tool; key: string; text: string; how: string }[] }[] = [
  {
    title: 'people',
    tools: [
      { tool: 'face', key: 'F', text: 'face', how: 'press between the eyes and drag to the chin, then pull each point into place' },
      { tool: 'eye', key: 'E', text: 'eye', how: 'press on the pupil and drag to the edge of the iris' },
      { tool: 'catchlight', key: 'C', text: 'catchlight', how: 'drag a rectangle round a catchlight of the chosen eye' },
      { tool: 'nose', key: 'V', text: 'nose shadow', how: 'press on the tip of the nose (or whatever casts the shadow) and drag to the tip of its shadow on the face or wall' },
    ],
  },
  {
    title: 'probes',
    tools: [
      { tool: 'matte', key: 'B', text: 'matte ball', how: 'press on the centre of the ball and drag to its edge' },
      { tool: 'mirror', key: 'M', text: 'mirror ball', how: 'press on the centre of the ball and drag to its edge' },
      { tool: 'wedge', key: 'T', text: 'grey steps', how: 'drag from the middle of the brightest grey step to the middle of the darkest; the picture is read through the curve they tell' },
    ],
  },
  {
    title: 'surfaces',
    tools: [
      { tool: 'patch', key: 'P', text: 'patch', how: 'drag a rectangle on one material; L, S or G after it for lit, shadow, background' },
      { tool: 'cylinder', key: 'Y', text: 'cylinder', how: 'drag along the axis of the bottle or can, then pull its side to the outline' },
      { tool: 'contour', key: 'K', text: 'outline', how: 'draw along an outline of the subject against the background, round a bend: jaw, shoulder, a ball' },
      { tool: 'rim', key: 'R', text: 'rim', how: 'press inside the form and drag across its bright edge into the background' },
      { tool: 'gradient', key: 'D', text: 'background', how: 'drag a rectangle on the background, free of the subject' },
    ],
  },
  {
    title: 'shadows',
    tools: [
      { tool: 'cast', key: 'H', text: 'shadow', how: 'press on the foot of what casts the shadow and drag to the tip of the shadow, then pull the top into place' },
      { tool: 'penumbra', key: 'W', text: 'edge width', how: 'drag across the edge of a shadow, from full light to full dark' },
      { tool: 'pattern', key: 'X', text: 'bands', how: 'drag across the bands of light and shade' },
    ],
  },
]
export const toolNames = toolGroups.flatMap((g) => g.tools)

export const patchRoles = ['lit', 'shadow', 'forehead', 'chest', 'background', 'background_far', 'rim', 'label', 'liquid', 'grey18', 'white', 'black', 'other'] as const

const rect = (a: number[], b: number[]): number[][] => {
  const [x0, x1] = [Math.min(a[0]!, b[0]!), Math.max(a[0]!, b[0]!)]
  const [y0, y1] = [Math.min(a[1]!, b[1]!), Math.max(a[1]!, b[1]!)]
  return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]
}

const prefix: Record<Tool, string> = { matte: 'ball', mirror: 'ball', eye: 'eye', patch: 'patch', catchlight: '', cast: 'shadow', penumbra: 'edge', cylinder: 'cylinder', face: 'face', wedge: 'wedge', nose: 'shadow', contour: 'outline', rim: 'rim', gradient: 'background', pattern: 'bands' }

/** Patches in a row from the middle of the brightest step to the middle of the darkest. */
export function stepsBetween(a: number[], b: number[], steps: number[]): { polygon: number[][]; reflectance: number }[] {
  const n = Math.max(1, steps.length - 1)
  const [dx, dy] = [(b[0]! - a[0]!) / n, (b[1]! - a[1]!) / n]
  const h = Math.max(1.5, 0.28 * Math.hypot(dx, dy))
  return steps.map((reflectance, i) => {
    const c = [a[0]! + dx * i, a[1]! + dy * i]
    return { reflectance, polygon: rect([c[0]! - h, c[1]! - h], [c[0]! + h, c[1]! + h]) }
  })
}
/** Middles of the first and the last step. */
export function endsOf(m: Extract<Mark, { kind: 'wedge' }>): [number[], number[]] {
  const mid = (p: number[][]) => [p.reduce((s, q) => s + q[0]!, 0) / p.length, p.reduce((s, q) => s + q[1]!, 0) / p.length]
  return [mid(m.patches[0]!.polygon), mid(m.patches.at(-1)!.polygon)]
}

/** Landmarks of a face in the order of their handles, and where they lie on an average one: along the line
 * through the eyes and down to the chin, in parts of the way from between the eyes to the chin. */
export const landmarks: [name: string, words: string, across: number, down: number][] = [
  ['eye_image_left', 'eye, image left', -0.27, 0],
  ['eye_image_right', 'eye, image right', 0.27, 0],
  ['nose_tip', 'tip of the nose', 0, 0.36],
  ['nose_base', 'base of the nose', 0, 0.44],
  ['mouth_image_left', 'corner of the mouth, image left', -0.21, 0.63],
  ['mouth_image_right', 'corner of the mouth, image right', 0.21, 0.63],
  ['chin', 'chin, where it turns under', 0, 1],
]

export function freeId(tool: Tool, marks: Mark[]): string {
  for (let i = 1; ; i++) {
    const id = `${prefix[tool]}-${i}`
    if (!marks.some((m) => m.id === id)) return id
  }
}

/** A new mark from a press at `a` dragged to `b`; a mere click gets a size from the picture's. */
export function make(tool: Exclude<Tool, 'catchlight'>, id: string, a: number[], b: number[], side: number, role: (typeof patchRoles)[number], steps: number[], path: number[][] = []): Mark {
  const pulled = Math.hypot(b[0]! - a[0]!, b[1]! - a[1]!)
  const r = pulled > 3 ? pulled : side * (tool === 'eye' ? 0.04 : 0.1)
  if (tool === 'eye') return { id, kind: 'eye', limbus: { centre: a, rx: r, ry: r, angle_deg: 0 } }
  if (tool === 'wedge') return { id, kind: 'wedge', patches: stepsBetween(a, pulled > 3 ? b : [a[0]! + side * 0.3, a[1]!], steps) }
  if (tool === 'face') {
    const [dx, dy] = pulled > 3 ? [b[0]! - a[0]!, b[1]! - a[1]!] : [0, side * 0.3]
    const points = Object.fromEntries(landmarks.map(([name, , across, down]) => [name, [a[0]! + dx * down + dy * across, a[1]! + dy * down - dx * across]]))
    return { id, kind: 'face', points }
  }
  if (tool === 'patch') {
    const h = side * 0.02
    const polygon = pulled > 3 ? rect(a, b) : rect([a[0]! - h, a[1]! - h], [a[0]! + h, a[1]! + h])
    return { id, kind: 'patch', role, polygon }
  }
  if (tool === 'gradient') {
    const h = side * 0.15
    return { id, kind: 'gradient', polygon: pulled > 3 ? rect(a, b) : rect([a[0]! - h, a[1]! - h], [a[0]! + h, a[1]! + h]) }
  }
  const h = side * 0.12
  const end = pulled > 3 ? b : [a[0]! + h, a[1]!]
  if (tool === 'nose') return { id, kind: 'cast', base: a, top: a, tip: end, on: 'other' }
  if (tool === 'rim') return { id, kind: 'rim', inside: a, outside: end }
  if (tool === 'pattern') return { id, kind: 'pattern', a, b: end }
  if (tool === 'contour') return { id, kind: 'contour', points: path.length > 2 ? path : [a, [(a[0]! + end[0]!) / 2, a[1]! - h], end], outward: 'left' }
  // from the foot to the tip of the shadow; the top waits over the foot to be put in place
  if (tool === 'cast') return { id, kind: 'cast', base: a, tip: end, top: [a[0]!, a[1]! - 0.7 * Math.hypot(end[0]! - a[0]!, end[1]! - a[1]!)] }
  if (tool === 'penumbra') return { id, kind: 'penumbra', a, b: end }
  if (tool === 'cylinder') {
    const top = pulled > 3 ? b : [a[0]!, a[1]! - 2 * h]
    return { id, kind: 'cylinder', axis: [a, top], radius_px: 0.2 * Math.hypot(top[0]! - a[0]!, top[1]! - a[1]!) }
  }
  return { id, kind: 'ball', finish: tool, centre: a, radius_px: r }
}

/** Landmarks that are marked, in the order of the list. */
export const facePoints = (m: Extract<Mark, { kind: 'face' }>) => landmarks.flatMap(([name]) => ((m.points as Record<string, number[]>)[name] ? [[name, (m.points as Record<string, number[]>)[name]!] as [string, number[]]] : []))

/** Named points of marks that are made of points. */
export function pointsOf(m: Mark): number[][] {
  if (m.kind === 'patch') return m.polygon
  if (m.kind === 'cast') return m.on === 'other' ? [m.top, m.tip] : [m.base, m.top, m.tip]
  if (m.kind === 'penumbra' || m.kind === 'pattern') return [m.a, m.b]
  if (m.kind === 'rim') return [m.inside, m.outside]
  if (m.kind === 'contour') return m.points
  if (m.kind === 'gradient') return m.polygon
  if (m.kind === 'cylinder') return m.axis
  if (m.kind === 'face') return facePoints(m).map(([, p]) => p)
  if (m.kind === 'wedge') return m.patches.length > 1 ? endsOf(m) : []
  return []
}
function setPoints(m: Mark, p: number[][]) {
  if (m.kind === 'patch') m.polygon = p
  else if (m.kind === 'cast' && m.on === 'other') [m.base, m.top, m.tip] = [p[0]!, p[0]!, p[1]!]
  else if (m.kind === 'cast') [m.base, m.top, m.tip] = [p[0]!, p[1]!, p[2]!]
  else if (m.kind === 'penumbra' || m.kind === 'pattern') [m.a, m.b] = [p[0]!, p[1]!]
  else if (m.kind === 'rim') [m.inside, m.outside] = [p[0]!, p[1]!]
  else if (m.kind === 'contour') m.points = p
  else if (m.kind === 'gradient') m.polygon = p
  else if (m.kind === 'cylinder') m.axis = [p[0]!, p[1]!]
  else if (m.kind === 'wedge') m.patches = stepsBetween(p[0]!, p[1]!, m.patches.map((k) => k.reflectance))
  else if (m.kind === 'face') m.points = { ...m.points, ...Object.fromEntries(facePoints(m).map(([name], i) => [name, p[i]!])) }
}
/** Corners of a cylinder's outline. */
export function sidesOf(m: Extract<Mark, { kind: 'cylinder' }>): number[][] {
  const [a, b] = [m.axis[0]!, m.axis[1]!]
  const l = Math.hypot(b[0]! - a[0]!, b[1]! - a[1]!) || 1
  const [nx, ny] = [(-(b[1]! - a[1]!) / l) * m.radius_px, ((b[0]! - a[0]!) / l) * m.radius_px]
  return [[a[0]! + nx, a[1]! + ny], [b[0]! + nx, b[1]! + ny], [b[0]! - nx, b[1]! - ny], [a[0]! - nx, a[1]! - ny]]
}

/** Side of a drawn outline that looks away from the middle of the picture, walking along it: the background, most likely. */
export function awayFrom(path: number[][], middle: number[]): 'left' | 'right' {
  let turn = 0
  for (let i = 1; i < path.length; i++) {
    const [dx, dy] = [path[i]![0]! - path[i - 1]![0]!, path[i]![1]! - path[i - 1]![1]!]
    turn += dx * (middle[1]! - path[i]![1]!) - dy * (middle[0]! - path[i]![0]!)
  }
  return turn > 0 ? 'left' : 'right'
}

/** Catchlights the program found, as outlines a person can keep or drop. */
export const foundOutlines = (reading?: MarkReading) => (reading?.catchlights ?? []).map((s) => ({ outline: s.outline ?? [] })).filter((o) => o.outline.length > 2)

export const outlineOf = (a: number[], b: number[]) => ({ outline: rect(a, b) })

export function centreOf(m: Mark): number[] {
  if (m.kind === 'ball') return m.centre
  if (m.kind === 'eye') return m.limbus.centre
  const p = pointsOf(m)
  if (m.kind === 'cast') return m.tip
  if (m.kind === 'contour') return p[Math.floor(p.length / 2)] ?? [0, 0]
  if (!p.length) return [0, 0]
  return [p.reduce((s, q) => s + q[0]!, 0) / p.length, p.reduce((s, q) => s + q[1]!, 0) / p.length]
}

const shift = (p: number[], dx: number, dy: number) => [p[0]! + dx, p[1]! + dy]

export function move(m: Mark, dx: number, dy: number) {
  if (m.kind === 'ball') m.centre = shift(m.centre, dx, dy)
  else if (m.kind === 'eye') {
    m.limbus.centre = shift(m.limbus.centre, dx, dy)
    m.catchlights?.forEach((c) => (c.outline = c.outline.map((p) => shift(p, dx, dy))))
  } else setPoints(m, pointsOf(m).map((p) => shift(p, dx, dy)))
}

export function grow(m: Mark, by: number) {
  if (m.kind === 'ball' || m.kind === 'cylinder') m.radius_px = Math.max(2, m.radius_px + by)
  else if (m.kind === 'eye') {
    m.limbus.rx = Math.max(2, m.limbus.rx + by)
    m.limbus.ry = Math.max(2, m.limbus.ry + by)
  } else if (m.kind === 'patch' || m.kind === 'face' || m.kind === 'gradient') {
    const [cx, cy] = centreOf(m) as [number, number]
    setPoints(m, pointsOf(m).map((p) => {
      const d = Math.hypot(p[0]! - cx, p[1]! - cy) || 1
      const k = Math.max(1, d + by) / d
      return [cx + (p[0]! - cx) * k, cy + (p[1]! - cy) * k]
    }))
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
  } else if (handle.startsWith('corner')) setPoints(m, pointsOf(m).map((p, i) => (i === Number(handle.slice(6)) ? at : p)))
  else if (m.kind === 'cylinder') m.radius_px = d
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
  if (m.kind === 'contour') return [0, m.points.length - 1].map((i) => ({ handle: `corner${i}` as Handle, at: m.points[i]! }))
  const corners = pointsOf(m).map((at, i) => ({ handle: `corner${i}` as Handle, at }))
  if (m.kind === 'cylinder') {
    const s = sidesOf(m)
    corners.push({ handle: 'radius', at: [(s[0]![0]! + s[1]![0]!) / 2, (s[0]![1]! + s[1]![1]!) / 2] })
  }
  return corners
}

export function nameOf(m: Mark): string {
  if (m.kind === 'ball') return `${m.finish} ball`
  if (m.kind === 'patch') return `${m.role.replace('_', ' ')} patch`
  if (m.kind === 'cast' && m.on === 'other') return 'shadow on a face or wall'
  return { cast: 'cast shadow', penumbra: 'shadow edge', wedge: 'grey steps', contour: 'outline', gradient: 'background', pattern: 'bands' }[m.kind as string] ?? m.kind
}

/** The id if a person gave it a telling one, else what it is. */
export const titleOf = (m: Mark) => (/^(ball|eye|patch|shadow|edge|cylinder|face|wedge|outline|rim|background|bands)-\d+$/.test(m.id) ? `${nameOf(m)} ${m.id.split('-').at(-1)}` : `${m.id.replaceAll('-', ' ')}`)

export const letterOf = (m: Mark) => (m.kind === 'ball' ? (m.finish === 'matte' ? 'B' : 'M') : m.kind === 'eye' ? 'E' : m.kind === 'patch' ? 'P' : ({ cast: m.kind === 'cast' && m.on === 'other' ? 'V' : 'H', penumbra: 'W', cylinder: 'Y', face: 'F', wedge: 'T', contour: 'K', rim: 'R', gradient: 'D', pattern: 'X' }[m.kind as string] ?? '?'))
