/** A copy of plain data, free of what watches the original. */
export function copy<T>(plain: T): T {
  return JSON.parse(JSON.stringify(plain))
}
