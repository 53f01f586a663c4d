import { expect, it } from 'vitest'
import { whereText } from './client'

it('an error names its part and its nodes once', () => {
  const place = { file: null, line: 3, column: null, part: 'R1', nodes: ['out', 'n1'] }
  expect(whereText(place, 'R1 has no value')).toBe('line 3, nodes out, n1: ')
  expect(whereText(place, 'nothing holds out and n1')).toBe('line 3, part R1: ')
  expect(whereText({ ...place, line: null }, 'R1: out and n1 are joined')).toBe('')
  expect(whereText(place, 'R12 has no value')).toBe('line 3, part R1, nodes out, n1: ')
})
