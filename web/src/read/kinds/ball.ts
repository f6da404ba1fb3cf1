// A ball probe, matte or mirror.
import { type DrawingTool, type Kind, type MarkOf, type Point, apart, radiusOf, shifted } from '../kind'

type Ball = MarkOf<'ball'>

const tool = (finish: Ball['finish'], key: string, at: number): DrawingTool<Ball> => ({
  tool: finish,
  key,
  group: 'probes',
  at,
  text: `${finish} ball`,
  how: 'press on the centre of the ball and drag to its edge',
  draft: 'circle',
  prefix: 'ball',
  draw: (id, p) => ({ id, kind: 'ball', finish, centre: p.a, radius_px: radiusOf(p, 0.1) }),
})

export const kind: Kind<Ball> = {
  kind: 'ball',
  tools: [tool('matte', 'B', 1), tool('mirror', 'M', 2)],
  name: (m) => `${m.finish} ball`,
  letter: (m) => (m.finish === 'matte' ? 'B' : 'M'),
  points: () => [],
  setPoints: () => {},
  shape: (m) => [{ centre: m.centre, rx: m.radius_px, ry: m.radius_px, turn_deg: 0 }],
  centre: (m) => m.centre,
  label(m) {
    const out: Point = [m.radius_px * 0.72, -m.radius_px * 0.72]
    return { at: shifted(m.centre, ...out), off: [9, -5] }
  },
  handles: (m) => [{ name: 'radius', at: shifted(m.centre, m.radius_px, 0) }],
  pull: (m, _, to) => (m.radius_px = Math.max(2, apart(m.centre, to))),
  move: (m, dx, dy) => (m.centre = shifted(m.centre, dx, dy)),
  grow: (m, by) => (m.radius_px = Math.max(2, m.radius_px + by)),
}
