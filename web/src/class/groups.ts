import type { Group } from '../api/client'

/** Groups from the name each student was given; those without one are in none. */
export function grouped(names: Record<string, string>): Group[] {
  const all = new Map<string, string[]>()
  for (const [member, name] of Object.entries(names)) {
    const plain = name.trim()
    if (plain) all.set(plain, [...(all.get(plain) ?? []), member])
  }
  return [...all].map(([name, members]) => ({ name, members })).sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }))
}
