import type { Board } from '@/api/client'
import { expect, it } from 'vitest'
import { leavingWith } from './leaving'
import { bought } from './spreads'

const board = {
  circuits: [{ checks: [{ title: 'Stability', analysis: { kind: 'loop', around: 'U1.out' }, measurements: [
    { id: 'a', key: 'value', of: 'i(R1.2)', hand: null }, { id: 'b', key: 'value', of: 'v(R1)', hand: { formula: '2*geophone.resistance', source: '' } },
  ] }] }],
  spreads: [bought('R1', '1'), bought('geophone.resistance', '5')], studies: [{ title: 'Ohms', over: 'R1' }],
} as unknown as Board

it('says what goes with a part or a fixture, and what is left with nothing to speak of', () => {
  expect(leavingWith(board, new Set(['R1']))).toBe('its spread goes with it; “value of i(R1.2)”, “Ohms” speak of what is gone')
  expect(leavingWith(board, new Set(['geophone']))).toBe('its spread goes with it; “value of v(R1)” speaks of what is gone')
  expect(leavingWith(board, new Set(['U1']))).toBe('“Stability” speaks of what is gone')
  expect(leavingWith(board, new Set(['R2']))).toBe('')
})
