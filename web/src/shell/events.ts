// What events are about, without guessing.

/** Whether a key was pressed while a person types or chooses in a field, or with a key that belongs to the browser. */
export function isTyping(e: KeyboardEvent): boolean {
  return (e.target instanceof Element && /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName)) || e.altKey
}
/** Whether a key that belongs to the browser is held. */
export const withCommand = (e: KeyboardEvent): boolean => e.ctrlKey || e.metaKey

/** Keeps the pointer with the thing that was pressed. */
export function holdPointer(e: PointerEvent) {
  if (e.currentTarget instanceof Element) e.currentTarget.setPointerCapture(e.pointerId)
}

/** Files that were chosen in a file field; the field is emptied, so that the same file can be chosen again. */
export function filesOf(e: Event): File[] {
  if (!(e.target instanceof HTMLInputElement)) return []
  const files = [...(e.target.files ?? [])]
  e.target.value = ''
  return files
}

/** The sentence of something that was thrown. */
export const messageOf = (e: unknown): string => (e instanceof Error ? e.message : String(e))
