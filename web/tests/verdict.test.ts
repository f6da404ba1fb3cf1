import { describe, expect, it } from 'vitest'
import { byGain, letter } from '../src/verdict/order'

const mend = (...rules: string[]) => ({ foreseen: rules.map((rule) => ({ rule, title: rule, before: 'fault' as const, after: 'holds' as const, limit: 0, unit: '', says: '' })) })

describe('the order of findings', () => {
  it('follows what the changes mend, then their own', () => {
    const faults = ['a', 'b', 'c', 'd'].map((rule) => ({ rule }))
    expect(byGain(faults, [mend('c'), mend('b', 'd')]).map((f) => f.rule)).toEqual(['c', 'b', 'd', 'a'])
    expect(byGain(faults, []).map((f) => f.rule)).toEqual(['a', 'b', 'c', 'd'])
  })
  it('does not count what stays a fault', () => {
    const still = { foreseen: [{ rule: 'b', title: 'b', before: 'unsure' as const, after: 'fault' as const, limit: 0, unit: '', says: '' }] }
    expect(byGain([{ rule: 'a' }, { rule: 'b' }], [still]).map((f) => f.rule)).toEqual(['a', 'b'])
  })
})

describe('letters of remarks', () => {
  it('go on after Z', () => {
    expect([0, 25, 26, 199].map(letter)).toEqual(['A', 'Z', 'AA', 'GR'])
  })
})
