// The order of findings, and signs of remarks. Nothing is measured here.
import type { Finding, Mend } from '../api/client'

/** Faults that the first change mends come first, then those of the next, then the rest in their order. */
export function byGain<F extends Pick<Finding, 'rule'>>(faults: F[], mends: Pick<Mend, 'foreseen'>[]): F[] {
  const step = (f: F) => {
    const k = mends.findIndex((m) => m.foreseen.some((s) => s.rule === f.rule && s.before === 'fault' && s.after !== 'fault'))
    return k < 0 ? mends.length : k
  }
  return faults.map((f, i) => ({ f, i, k: step(f) })).sort((a, b) => a.k - b.k || a.i - b.i).map((x) => x.f)
}

/** A remark's sign: A, B, ... Z, AA. */
export function letter(i: number): string {
  const c = String.fromCharCode(65 + (i % 26))
  return i < 26 ? c : letter(Math.floor(i / 26) - 1) + c
}
