// A line across bands of light and shade.
import { type Kind, type MarkOf, endOf, line } from '../kind'

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
  ...line<Pattern>((m) => [m.a, m.b], (m, ends) => ([m.a, m.b] = ends)),
}
