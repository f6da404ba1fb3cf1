// A glossy cylinder: a bottle, a can.
import { type Kind, type MarkOf, type Point, apart, between, dragged, shifted, side } from '../kind'

type Cylinder = MarkOf<'cylinder'>

/** Corners of its outline. */
function sidesOf(m: Cylinder): [Point, Point, Point, Point] {
  const [a, b] = m.axis
  const l = apart(a, b) || 1
  const [nx, ny] = [(-(b[1] - a[1]) / l) * m.radius_px, ((b[0] - a[0]) / l) * m.radius_px]
  return [shifted(a, nx, ny), shifted(b, nx, ny), shifted(b, -nx, -ny), shifted(a, -nx, -ny)]
}

export const kind: Kind<Cylinder> = {
  kind: 'cylinder',
  tools: [
    {
      tool: 'cylinder',
      key: 'Y',
      group: 'surfaces',
      at: 2,
      text: 'cylinder',
      how: 'drag along the axis of the bottle or can, then pull its side to the outline',
      draft: 'line',
      prefix: 'cylinder',
      draw(id, p) {
        const top = dragged(p) ? p.b : shifted(p.a, 0, -0.24 * side(p))
        return { id, kind: 'cylinder', axis: [p.a, top], radius_px: 0.2 * apart(p.a, top) }
      },
    },
  ],
  name: () => 'cylinder',
  letter: () => 'Y',
  points: (m) => m.axis,
  setPoints: (m, [a, b]) => (m.axis = [a ?? m.axis[0], b ?? m.axis[1]]),
  shape: (m) => [{ closed: true, points: sidesOf(m) }, { ray: true, points: m.axis }],
  handles(m) {
    const [a, b] = sidesOf(m)
    return [{ name: 'radius', at: between(a, b) }]
  },
  pull: (m, _, to) => (m.radius_px = Math.max(2, apart(between(...m.axis), to))),
  grow: (m, by) => (m.radius_px = Math.max(2, m.radius_px + by)),
}
