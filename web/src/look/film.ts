// Times of film frames.

/** Seconds as hours:minutes:seconds and thousandths: what the film's own clock says. */
export function timeCode(seconds: number): string {
  const ms = Math.round(seconds * 1000)
  const two = (v: number) => String(v).padStart(2, '0')
  return `${two(Math.floor(ms / 3_600_000))}:${two(Math.floor(ms / 60_000) % 60)}:${two(Math.floor(ms / 1000) % 60)}.${String(ms % 1000).padStart(3, '0')}`
}

/** Frames a second from the times of frames shown one after another; null if too few. */
export function rateOf(times: number[]): number | null {
  const gaps = times.slice(1).map((t, i) => t - (times[i] ?? t)).filter((g) => g > 0.004).sort((a, b) => a - b)
  if (gaps.length < 3) return null
  const middle = gaps[Math.floor(gaps.length / 2)] ?? Infinity
  const known = [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60]
  const rate = 1 / middle
  const near = known.reduce((a, b) => (Math.abs(b - rate) < Math.abs(a - rate) ? b : a))
  return Math.abs(near - rate) < 0.05 * rate ? near : rate
}
