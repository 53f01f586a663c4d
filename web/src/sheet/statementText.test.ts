import { describe, expect, it } from 'vitest'
import { netsOfText, withNetsOfText } from './statementText'

const renamed = (designator: string, text: string) => withNetsOfText(designator, text, (net) => (net.toLowerCase() === '2' ? 'sum' : net))

describe('the text of a statement', () => {
  it('names nets in probes and in lists of controlling nodes, and nowhere else', () => {
    expect(netsOfText('B1', 'v={2*v(2)-V(a, 2)+i(vin)}')).toEqual(['2', 'a', '2'])
    expect(netsOfText('E1', 'poly(2) 2 0 b 0 1 2 3')).toEqual(['2', '0', 'b', '0'])
    expect(netsOfText('E1', 'nullor a b')).toEqual(['a', 'b'])
    expect(netsOfText('F1', 'poly(2) v1 v2 1 2')).toEqual([])
    expect(netsOfText('S1', 'power')).toEqual([])
  })

  it('keeps its numbers when a net of the same figure gets a name', () => {
    expect(renamed('B1', 'v={2*v(2)}')).toBe('v={2*v(sum)}')
    expect(renamed('E1', 'poly(1) 2 0 0 2')).toBe('poly(1) sum 0 0 2')
    expect(renamed('E1', '2')).toBe('2')
    expect(renamed('K1', 'L1 L2 0.9')).toBe('L1 L2 0.9')
  })
})
