// Where a direction lies on the halo. Drawing only: angles come from the core.

export interface Direction {
  azimuth_deg: number
  elevation_deg: number
}

/** A direction as seen on the band: unit vector in the picture (y down) and share of the band's
 *  depth, 0 at the lens, 1 behind. */
export function onBand(d: Direction): { x: number; y: number; out: number } {
  const az = (d.azimuth_deg * Math.PI) / 180
  const el = (d.elevation_deg * Math.PI) / 180
  const x = Math.cos(el) * Math.sin(az)
  const y = Math.sin(el)
  const z = Math.cos(el) * Math.cos(az)
  const r = Math.hypot(x, y)
  const out = Math.atan2(r, z) / Math.PI
  return r < 1e-6 ? { x: 0, y: -1, out } : { x: x / r, y: -y / r, out }
}

export interface Box {
  /** half width and half height of the picture */
  hw: number
  hh: number
  /** depth of the band */
  depth: number
}

/** The box of a halo at thumbnail size: a square with a band round it. */
export function ringBox(size: number): Box {
  const depth = size * 0.17
  return { hw: size / 2 - depth - 2, hh: size / 2 - depth - 2, depth }
}

/** The box of a halo with a wide band, so that degrees can be told apart: what is in its middle is small. */
export function wideBox(size: number): Box {
  return { hw: 0.17 * size, hh: 0.17 * size, depth: 0.31 * size }
}

/** Where the ray from the centre crosses the rectangle that lies `out` of the band's depth outside
 *  the picture. Corners are rounded by the band's depth, so that no place is farther than another. */
export function place(box: Box, d: { x: number; y: number; out: number }): { x: number; y: number } {
  const grow = d.out * box.depth
  const w = box.hw + grow
  const h = box.hh + grow
  const k = Math.min(w / Math.max(Math.abs(d.x), 1e-9), h / Math.max(Math.abs(d.y), 1e-9))
  return { x: d.x * k, y: d.y * k }
}

/** Radius of a lobe for an angular size. Drawn four times larger than the band's own scale, so that a
 *  hard light (2 degrees) and a soft one (40) can be told apart at a glance. */
export function lobeRadius(box: Box, sizeDeg: number): number {
  return Math.max(0.07 * box.depth, (((sizeDeg / 2) * box.depth) / 180) * 4)
}

/** Strength of a lobe's fill for a level in stops under the key. */
export function lobeStrength(level: number | null | undefined): number {
  return Math.max(0.22, 0.85 * Math.pow(2, (level ?? 0) / 2.5))
}

/** Cells of a room's map with the strength they are drawn with: what is darker than the room's mean by two stops is not. */
export function roomCells(room: { rows: number; map_stops: number[] }): (Direction & { strength: number })[] {
  const columns = 2 * room.rows
  const step = 180 / room.rows
  return room.map_stops.flatMap((stops, i) => {
    const strength = Math.min(0.75, Math.max(0, (stops + 2) / 8))
    if (strength < 0.04) return []
    return [{ azimuth_deg: 180 - ((i % columns) + 0.5) * step, elevation_deg: 90 - (Math.floor(i / columns) + 0.5) * step, strength }]
  })
}

/** The direction that lies at a point of the band, as seen from the picture's centre (y down); in the picture itself it is the lens. */
export function directionAt(box: Box, x: number, y: number): Direction {
  const long = Math.hypot(x, y)
  const out = Math.max(0, Math.min(1, Math.max(Math.abs(x) - box.hw, Math.abs(y) - box.hh) / box.depth))
  if (long < 1e-6) return { azimuth_deg: 0, elevation_deg: 0 }
  const [sin, cos] = [Math.sin(out * Math.PI), Math.cos(out * Math.PI)]
  const [dx, dy] = [(x / long) * sin, (-y / long) * sin]
  const deg = 180 / Math.PI
  return { azimuth_deg: Math.atan2(dx, cos) * deg, elevation_deg: Math.asin(Math.max(-1, Math.min(1, dy))) * deg }
}
