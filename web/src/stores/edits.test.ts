import { bought } from './spreads'
import type { Board } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { valuePath, withLimit, withSpreads, withValue } from './edits'

const board = {
  title: 'b',
  circuits: [
    {
      id: 'c',
      title: 'c',
      parts: [
        { kind: 'resistor', designator: 'R1', value: '1k', pins: ['a', 'gnd'] },
        { kind: 'capacitor', designator: 'C1', value: '1n', pins: ['a', 'gnd'] },
      ],
      checks: [],
    },
  ],
  spreads: [{ of: 'R1', contributions: [{ contributor: 'purchase', amount: '1', distribution: 'normal', form: null }], group: null }],
  studies: [],
  limits: [{ id: 'l', check: 'k', measurement: 'm', lower: '1', upper: null, reason: '' }],
} as unknown as Board

describe('edits', () => {
  it('change one value and nothing else', () => {
    const next = withValue(board, 'C1', '2n2')
    expect(next.circuits[0]?.parts[1]).toEqual({ kind: 'capacitor', designator: 'C1', value: '2n2', pins: ['a', 'gnd'] })
    expect(next.circuits[0]?.parts[0]).toEqual(board.circuits[0]?.parts[0])
    expect(board.circuits[0]?.parts[1]).toMatchObject({ value: '1n' })
  })

  it('know where a value stands in the request', () => {
    expect(valuePath(board, 'C1')).toBe('board.circuits.0.parts.1.value')
    expect(valuePath(board, 'R9')).toBe('')
  })

  it('add, replace and take away spreads', () => {
    const both = withSpreads(board, new Map([['C1', bought('C1', '10')], ['R1', bought('R1', '5')]]))
    expect(both.spreads).toEqual([bought('R1', '5'), bought('C1', '10')])
    expect(withSpreads(both, new Map([['R1', null]])).spreads).toEqual([bought('C1', '10')])
  })

  it('change a limit', () => {
    expect(withLimit(board, 'l', { upper: '2' }).limits[0]).toMatchObject({ lower: '1', upper: '2' })
  })
})
