// Filters by name, fetched once.
import { api, data, type Gel, type SetLight } from '../api/client'

let kept: Promise<Gel[]> | null = null
export const allGels = () => (kept ??= data(api.GET('/api/gels')))

/** The filter of the table that a light wears. */
export const gelOf = (table: Gel[], l: SetLight): Gel | undefined =>
  table.find((g) => (g.rgb && l.gel_rgb ? g.rgb.every((v, k) => Math.abs(v - (l.gel_rgb?.[k] ?? 0)) < 1e-6) : !g.rgb && !l.gel_rgb && g.mired !== 0 && g.mired === l.gel_mired))
