// A line across bands of light and shade.
import { type Kind, type MarkOf, endOf } from '../kind'

type Pattern = MarkOf<'pattern'>

export const kind: Kind<Pattern> = {
  kind: 'pattern',
  tools: [
    {
      tool: 'pattern',
      key: 'X',
      group: 'shadows',
      at: 3,
      text: 'bands',
      how: 'drag across the bands of light and shade',
      draft: 'line',
      prefix: 'bands',
      draw: (id, p) => ({ id, kind: 'pattern', a: p.a, b: endOf(p) }),
    },
  ],
  name: () => 'bands',
  letter: () => 'X',
  points: (m) => [m.a, m.b],
  setPoints: (m, [a, b]) => ([m.a, m.b] = [a ?? m.a, b ?? m.b]),
  shape: (m) => [{ points: [m.a, m.b] }],
}
