import { describe, expect, it } from 'vitest'
import { lampFor, named, type Role, unlike } from '../src/rebuild/lamps'

describe('names of lamps', () => {
  it('keeps what a person called it when it is for something else', () => {
    expect(named('fill desk lamp', 'key', [])).toBe('key desk lamp')
    expect(named('key desk lamp', 'other', [])).toBe('desk lamp')
    expect(named('light 3', 'rim', [])).toBe('rim')
    expect(named('rim 2', 'fill', [])).toBe('fill')
    expect(named('key', 'other', [])).toBe('light')
  })

  it('never gives two lights one name', () => {
    expect(unlike('key', ['key', 'key 2'])).toBe('key 3')
    expect(named('fill', 'key', ['key'])).toBe('key 2')
    expect(unlike('  ', [])).toBe('light')
    expect(unlike('x'.repeat(80), []).length).toBeLessThanOrEqual(40)
  })
})

describe('a lamp that is added', () => {
  const light = (role: Role, name: string = role) => ({ name, role })
  it('is for what the set has none of yet, the key first', () => {
    expect(lampFor([]).name).toBe('key')
    expect(lampFor([light('key')]).name).toBe('fill')
    expect(lampFor([light('key'), light('fill', 'fill window')]).name).toBe('rim')
    expect(lampFor([light('fill')]).name).toBe('key')
  })

  it('is a light like any other once all are there, with a name of its own', () => {
    const all = [light('key'), light('fill'), light('rim')]
    const more = lampFor(all)
    expect(more.name).toBe('light')
    expect(lampFor([...all, light('other', more.name)]).name).toBe('light 2')
  })
})
