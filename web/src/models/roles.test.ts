import { describe, expect, it } from 'vitest'
import { assigned, missing, refusal } from './roles'

describe('roles', () => {
  it('are exchanged when a node is given the role of another one', () => {
    expect(assigned(['in+', 'in-', 'out'], 0, 'in-')).toEqual(['in-', 'in+', 'out'])
    expect(assigned(['in+', 'x'], 1, 'out')).toEqual(['in+', 'out'])
  })

  it('are refused when two nodes share one, a node has none, or one is no word', () => {
    expect(refusal(['in+', 'in-', 'out'])).toBeNull()
    expect(refusal(['in+', 'in+', 'out'])).toContain('Two nodes are in+')
    expect(refusal(['in+', ' '])).toContain('every node')
    expect(refusal(['in+', 'the output'])).toContain('one word')
  })

  it('tell which of a kind are missing', () => {
    expect(missing(['in+', 'out'], ['in+', 'in-', 'out'])).toEqual(['in-'])
  })
})
