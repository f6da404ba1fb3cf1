import { ApiProblem } from '../api/client'

/** What a failed save means: a newer version, a server that may answer later, or a refusal. */
export function failureOf<View>(e: unknown): { message: string; newer: View | null; again: boolean } {
  const message = e instanceof Error ? e.message : String(e)
  if (!(e instanceof ApiProblem)) return { message, newer: null, again: true }
  const newer = e.status === 409 ? ((e.problem.current ?? null) as View | null) : null
  return { message, newer, again: e.status === 0 || e.status >= 500 }
}
