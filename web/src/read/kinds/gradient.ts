// A part of the background.
import { type Kind, type MarkOf, area, boxOf } from '../kind'

type Gradient = MarkOf<'gradient'>

export const kind: Kind<Gradient> = {
  kind: 'gradient',
  tools: [
    {
      tool: 'gradient',
      key: 'D',
      group: 'surfaces',
      at: 5,
      text: 'background',
      how: 'drag a rectangle on the background, free of the subject',
      draft: 'box',
      prefix: 'background',
      draw: (id, p) => ({ id, kind: 'gradient', polygon: boxOf(p, 0.15) }),
    },
  ],
  name: () => 'background',
  letter: () => 'D',
  ...area<Gradient>(),
}
