import { describe, expect, it } from 'vitest'
import { wholeKit, wholeSet, type Kit, type Lamp } from '../src/api/client'
import { addOwn, addTo, missing, outputOf, putOutput, SHELVES, type Owned, type Shelf } from '../src/kit/shelves'
import { copy } from '../src/shell/copy'

const lamp = (id: string, output: Lamp['output']): Lamp => ({ id, name: id, output, cct_k: 5600, face_m: 0.1, takes_modifiers: true })
const catalogue: Kit = wholeKit({
  lamp: [lamp('head', { measured: 'joules', joules: 400, beam_deg: 65 }), lamp('panel', { measured: 'lux', lux: 2600, at_m: 1, beam_deg: 110 })],
  modifier: [{ id: 'octagon', name: 'Octagon', size_m: [1, 1], near_m: 0.5, far_m: 3, throws: 'octagon' }],
  sheet: [{ id: 'sheet', name: 'Bed sheet', size_m: [2, 1.5], transmission: 0.3 }],
  board: [{ id: 'card', name: 'Card', size_m: [0.7, 1], finish: 'white' }],
  stand: [{ id: 'stand', name: 'Stand', lowest_m: 0.9, highest_m: 2.6 }],
})
function shelf(name: string): Shelf<Owned> {
  const s = SHELVES.find((x) => x.name === name)
  if (!s) throw new Error(name)
  return s
}

describe('the shelves of a kit', () => {
  it('takes one more of what is there and one of what is not', () => {
    const kit = wholeKit({})
    const s = shelf('board')
    const [card] = s.list(catalogue)
    if (!card) throw new Error('a card')
    expect(missing(s, kit, catalogue)).toEqual([card])
    addTo(s, kit, card)
    addTo(s, kit, card)
    expect(kit.board.map((b) => b.count)).toEqual([2])
    expect(missing(s, kit, catalogue)).toEqual([])
  })

  it('gives a thing of one’s own an id of its own', () => {
    const kit = wholeKit({})
    const s = shelf('stand')
    const [like] = s.list(catalogue)
    if (!like) throw new Error('a stand')
    const ids = [1, 2, 3].map(() => addOwn(s, kit, like))
    expect(new Set(ids).size).toBe(3)
    expect(kit.stand.every((t) => t.count === 1 && t.household === false)).toBe(true)
    // the catalogue’s own is not touched
    expect(s.list(catalogue)[0]?.name).toBe('Stand')
  })

  it('puts what is printed on a lamp in the notation it is measured in', () => {
    for (const l of copy(catalogue.lamp)) {
      putOutput(l, 123)
      expect(outputOf(l)).toBe(123)
      expect(l.output.beam_deg).toBeGreaterThan(0)
    }
  })

  it.each(SHELVES.map((s) => [s.name, s] as const))('%s: says a line of each thing and keeps the figures that are put in', (_, s) => {
    for (const original of s.list(catalogue)) {
      const t = copy(original)
      expect(s.about(t)).not.toMatch(/undefined|NaN|null/)
      for (const f of s.fields) {
        if ('words' in f) {
          for (const w of f.words) {
            f.pick(t, w)
            expect(f.of(t)).toBe(w)
          }
          f.pick(t, 'no such word')
          expect(f.words).toContain(f.of(t))
        } else if (!f.has || f.has(t)) {
          f.put(t, 0.75)
          expect(f.of(t)).toBe(0.75)
        }
      }
    }
  })
})

describe('what comes from the server', () => {
  it('has all of its lists', () => {
    const camera = { position_m: [0, 0, 2] as [number, number, number], exposure: { f_number: 8, shutter_s: 0.01, iso: 100 } }
    const set = wholeSet({ format: 'slant-set/1', camera })
    expect([set.lights, set.boards, set.flags, set.walls, set.subjects]).toEqual([[], [], [], [], []])
    expect(wholeKit({}).lamp).toEqual([])
  })

  it('is copied free of its original', () => {
    const a = { list: [{ v: 1 }] }
    const b = copy(a)
    b.list[0] = { v: 2 }
    expect(a.list[0]?.v).toBe(1)
  })
})
