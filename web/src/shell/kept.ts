import { ApiProblem } from '../api/client'

/** What a refused edit says the document is now. The server sends the view of the document that was to be saved. */
export const currentOf = <View>(e: unknown): View | null => (e instanceof ApiProblem && e.status === 409 ? ((e.problem.current ?? null) as View | null) : null)

/** What a failed save means: a newer version, a server that may answer later, or a refusal. */
export function failureOf<View>(e: unknown): { message: string; newer: View | null; again: boolean } {
  const message = e instanceof Error ? e.message : String(e)
  if (!(e instanceof ApiProblem)) return { message, newer: null, again: true }
  return { message, newer: currentOf<View>(e), again: e.status === 0 || e.status >= 500 }
}
