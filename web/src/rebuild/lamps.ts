// Names and first places of lamps that are added by hand: what a light is for is the first word of its name.
import type { LightMeter, SetLight } from '../api/client'

export type Role = LightMeter['role']
export const ROLES: Role[] = ['key', 'fill', 'rim', 'background', 'other']

/** A name no other light has, in at most 40 characters. */
export function unlike(name: string, others: string[]): string {
  const short = (name.trim() || 'light').slice(0, 36).trim()
  if (!others.includes(short)) return short
  for (let n = 2; ; n++) if (!others.includes(`${short} ${n}`)) return `${short} ${n}`
}

/** The same light for something else: its name begins with what it is for; a bare number of its own goes. */
export function named(name: string, role: Role, others: string[]): string {
  const words = name.trim().split(/\s+/)
  const own = ROLES.some((r) => r === words[0]?.toLowerCase()) ? words.slice(1) : words
  const rest = own.join(' ').replace(/^(light)?\s*\d*$/i, '')
  return unlike(role === 'other' ? rest || 'light' : `${role} ${rest}`, others)
}

const PLACES: Record<Role, { azimuth_deg: number; elevation_deg: number; stops: number }> = {
  key: { azimuth_deg: -45, elevation_deg: 35, stops: 0 },
  fill: { azimuth_deg: 40, elevation_deg: 10, stops: -2 },
  rim: { azimuth_deg: 150, elevation_deg: 35, stops: -1 },
  background: { azimuth_deg: -120, elevation_deg: -20, stops: -2 },
  other: { azimuth_deg: 0, elevation_deg: 30, stops: -2 },
}

/** A lamp to add beside those that are metered: for what the set has none of yet, key first, where such a light commonly stands. */
export function lampFor(lights: Pick<LightMeter, 'name' | 'role'>[]): SetLight {
  const there = lights.map((l) => l.role)
  const role = ROLES.find((r) => r !== 'background' && !there.includes(r)) ?? 'other'
  const { stops, ...place } = PLACES[role]
  const name = unlike(role === 'other' ? 'light' : role, lights.map((l) => l.name))
  return { name, ...place, distance_m: 1.5, source: { kind: 'rectangle', width_m: 0.6, height_m: 0.6 }, level: { stops } }
}
