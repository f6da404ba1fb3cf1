import { describe, expect, it } from 'vitest'
import type { ShotList } from '../src/api/client'
import { cornersOf, cropOf, freeViews, linesOf } from '../src/series/guide'

const view = (id: string) => ({ id, name: id, says: '', guide: 'box' as const, judges: [] })
const list: ShotList = {
  id: 'bottle', name: 'Bottle', says: '', aspect: [4, 5], base_percent: 12, height_percent: 74, f_number: [8, 16], repeats: false,
  views: [view('front'), view('back'), view('cap')], checks: [], prep: [], props: [],
}

describe('guides of a view', () => {
  it('lays a crop of the list into any frame, in its middle', () => {
    expect(cropOf(list, 1000, 1000)).toEqual([100, 0, 800, 1000])
    expect(cropOf(list, 400, 1000)).toEqual([0, 250, 400, 500])
  })
  it('draws the base line and where the other end belongs; of a head the eyes and the chin', () => {
    const box = linesOf(list, false, 0, 1000)
    expect(box.base).toBeCloseTo(880)
    expect(box.end).toBeCloseTo(140)
    const head = linesOf({ ...list, base_percent: 62, height_percent: 46 }, true, 0, 1000)
    expect(head.base).toBeCloseTo(380)
    expect(head.end).toBeCloseTo(610)
  })
  it('turns a crop about its middle', () => {
    expect(cornersOf({ middle: [50, 60], width: 40, height: 20, turn_deg: 0, beyond: 0 })).toBe('30.0,50.0 70.0,50.0 70.0,70.0 30.0,70.0')
    expect(cornersOf({ middle: [50, 60], width: 40, height: 20, turn_deg: 90, beyond: 0 })).toBe('60.0,40.0 60.0,80.0 40.0,80.0 40.0,40.0')
  })
})

describe('views for files that come in together', () => {
  it('takes those that have none, in the order of the list, the one that was meant first', () => {
    expect(freeViews(list, [{ view: 'front' }], 5)).toEqual(['back', 'cap'])
    expect(freeViews(list, [], 2, 'cap')).toEqual(['cap', 'front'])
    expect(freeViews(list, [{ view: 'front' }], 1, 'front')).toEqual(['front'])
  })
  it('takes all of a list that repeats', () => {
    expect(freeViews({ ...list, repeats: true, views: [view('sitter')] }, [{ view: 'sitter' }], 3)).toEqual(['sitter', 'sitter', 'sitter'])
  })
})
