import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Overlap, withChange } from './merge'

const part = (designator: string, value: string) => ({ designator, value, pins: ['a', 'b'] })
const board = (...parts: ReturnType<typeof part>[]) => ({ title: 't', circuits: [{ id: 'c', title: 'Stage', parts }] })

describe('a change carried over', () => {
  it('leaves what others changed', () => {
    const [from, to] = [board(part('C1', '2n'), part('R2', '1k')), board(part('C1', '1n'), part('R2', '1k'))]
    const present = board(part('C1', '2n'), part('R2', '9k'))
    expect(withChange(present, from, to)).toEqual(board(part('C1', '1n'), part('R2', '9k')))
  })

  it('adds and removes its own items only', () => {
    const with2 = board(part('C1', '1n'), part('R2', '1k'))
    const present = board(part('C1', '1n'), part('R2', '1k'), part('R3', '3k'))
    expect(withChange(present, with2, board(part('C1', '1n')))).toEqual(board(part('C1', '1n'), part('R3', '3k')))
    expect(withChange(board(part('R3', '3k')), board(), board(part('C1', '1n')))).toEqual(board(part('C1', '1n'), part('R3', '3k')))
  })

  it('names what has changed since', () => {
    const [from, to] = [board(part('C1', '2n')), board(part('C1', '1n'))]
    expect(() => withChange(board(part('C1', '3n')), from, to)).toThrow(Overlap)
    expect(() => withChange(board(part('C1', '3n')), from, to)).toThrow('C1')
    expect(() => withChange(board(part('C1', '3n')), from, board())).toThrow('C1')
  })

  it('takes what the service fills in and trims for the same', () => {
    const sent = { circuits: [{ id: 'c', parts: [part('C1', '1n')], notes: [{ id: 't1', text: 'mind the gap ' }] }] }
    const kept = { circuits: [{ notes: [{ text: 'mind the gap', id: 't1' }], parts: [{ rating: null, ...part('C1', '1n') }], id: 'c' }], cards: null }
    const before: typeof sent = { circuits: [{ id: 'c', parts: [], notes: [] }] }
    expect(withChange<object>(kept, sent, before)).toEqual(before)
  })

  it('is the change itself where nobody did anything, and nothing where it is done already', () => {
    const value = fc.dictionary(fc.constantFrom('a', 'b', 'c'), fc.oneof(fc.integer(), fc.array(fc.integer()), fc.array(fc.record({ id: fc.constantFrom('x', 'y'), n: fc.integer() }), { maxLength: 1 })))
    fc.assert(fc.property(value, value, (from, to) => {
      expect(withChange(from, from, to)).toEqual(to)
      expect(withChange(to, from, to)).toEqual(to)
      expect(withChange(from, to, to)).toEqual(from)
    }))
  })
})
