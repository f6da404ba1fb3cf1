/** Where a pointer is in a drawing's own units; nothing while it is not laid out. */
export function pointIn(svg: SVGSVGElement | undefined, e: PointerEvent): [x: number, y: number] | null {
  const m = svg?.getScreenCTM()?.inverse()
  if (!m) return null
  const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(m)
  return [p.x, p.y]
}
