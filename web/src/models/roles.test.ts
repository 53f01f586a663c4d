import type { Reading } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { proposed, refusal } from './roles'

const reading = {
  subcircuits: [{ name: 'amp', pins: [{ node: '1', role: 'in+' }, { node: '7', role: null }] }],
} as unknown as Reading

describe('roles', () => {
  it('are proposed from the reading, or named after the node', () => {
    expect(proposed(reading)).toEqual({ amp: ['in+', '7'] })
  })

  it('are refused when two nodes share one, or a node has none', () => {
    expect(refusal(['in+', 'in-', 'out'])).toBeNull()
    expect(refusal(['in+', 'in+', 'out'])).toContain('Two nodes are in+')
    expect(refusal(['in+', ' '])).toContain('every node')
  })
})
