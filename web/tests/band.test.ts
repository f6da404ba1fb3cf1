import { describe, expect, it } from 'vitest'
import { directionAt, lobeRadius, lobeStrength, onBand, place, roomCells } from '../src/halo/band'

const at = (azimuth_deg: number, elevation_deg: number) => onBand({ azimuth_deg, elevation_deg })

describe('the halo', () => {
  it('has the lens at its inner edge, the side in the middle and behind outside', () => {
    expect(at(0, 0).out).toBeCloseTo(0, 9)
    expect(at(90, 0).out).toBeCloseTo(0.5, 9)
    expect(at(180, 0).out).toBeCloseTo(1, 9)
    // straight above is a side as well
    expect(at(0, 90).out).toBeCloseTo(0.5, 9)
  })

  it('turns as a clock: up is 12, camera right is 3', () => {
    expect(at(0, 45)).toMatchObject({ x: expect.closeTo(0, 9), y: expect.closeTo(-1, 9) })
    expect(at(45, 0)).toMatchObject({ x: expect.closeTo(1, 9), y: expect.closeTo(0, 9) })
    expect(at(-45, 0).x).toBeCloseTo(-1, 9)
    expect(at(0, -45).y).toBeCloseTo(1, 9)
  })

  it('keeps every place between the picture and the outer edge', () => {
    const box = { hw: 160, hh: 90, depth: 40 }
    for (let az = -180; az <= 180; az += 15)
      for (let el = -85; el <= 85; el += 17) {
        const p = place(box, at(az, el))
        expect(Math.abs(p.x)).toBeLessThanOrEqual(box.hw + box.depth + 1e-6)
        expect(Math.abs(p.y)).toBeLessThanOrEqual(box.hh + box.depth + 1e-6)
        expect(Math.abs(p.x) >= box.hw - 1e-6 || Math.abs(p.y) >= box.hh - 1e-6).toBe(true)
      }
  })

  it('draws larger lights larger and weaker ones fainter, and none to nothing', () => {
    const box = { hw: 160, hh: 90, depth: 40 }
    expect(lobeRadius(box, 40)).toBeGreaterThan(lobeRadius(box, 10))
    expect(lobeRadius(box, 0)).toBeGreaterThan(0)
    expect(lobeStrength(-2)).toBeLessThan(lobeStrength(0))
    expect(lobeStrength(-20)).toBeGreaterThan(0.2)
    expect(lobeStrength(undefined)).toBe(lobeStrength(0))
  })
})

describe('a room on the band', () => {
  const room = (stops: (row: number, column: number) => number) => ({ rows: 4, map_stops: Array.from({ length: 32 }, (_, i) => stops(Math.floor(i / 8), i % 8)) })

  it('has the lens in the middle of its columns and the camera right on the left', () => {
    const cells = roomCells(room((r, c) => (r === 1 && c === 1 ? 3 : -9)))
    expect(cells).toHaveLength(1)
    expect(cells[0]?.azimuth_deg).toBeCloseTo(112.5)
    expect(cells[0]?.elevation_deg).toBeCloseTo(22.5)
  })

  it('leaves out what is far darker than the room, and draws no cell full', () => {
    expect(roomCells(room(() => -3))).toHaveLength(0)
    const bright = roomCells(room(() => 12))
    expect(bright).toHaveLength(32)
    expect(Math.max(...bright.map((c) => c.strength))).toBeLessThanOrEqual(0.75)
  })
})

describe('a point of the halo', () => {
  const box = { hw: 58, hh: 58, depth: 106 }
  it('is the direction that is drawn there', () => {
    for (let az = -170; az <= 170; az += 20)
      for (let el = -80; el <= 80; el += 20) {
        if (az === 0 && el === 0) continue
        const p = place(box, onBand({ azimuth_deg: az, elevation_deg: el }))
        const d = directionAt(box, p.x, p.y)
        expect(d.elevation_deg).toBeCloseTo(el, 6)
        expect(d.azimuth_deg).toBeCloseTo(az, 5)
      }
  })
  it('is the lens within the picture, and behind at the rim and beyond', () => {
    expect(directionAt(box, 10, -20)).toEqual({ azimuth_deg: expect.closeTo(0, 9), elevation_deg: expect.closeTo(0, 9) })
    expect(Math.abs(directionAt(box, 300, 0).azimuth_deg)).toBeCloseTo(180, 6)
    expect(directionAt(box, 0, 0)).toEqual({ azimuth_deg: 0, elevation_deg: 0 })
  })
})
