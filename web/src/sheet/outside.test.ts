import type { Check } from '@/api/client'
import { expect, it } from 'vitest'
import { fixtureDrawings } from './outside'

it('puts the first port on the left and every other one on the right, where its lead looks back at the board', () => {
  const port = (number: number, plus: string) => ({ kind: 'port', name: `port-${number}`, plus, minus: 'gnd', number, impedance: '50', reactance: '0' }) as const
  const check = { fixtures: [port(1, 'in'), port(2, 'out')] } as unknown as Check
  const edge = { left: 0, top: 0, right: 400, bottom: 200 }
  const drawn = fixtureDrawings(check, edge, () => 100)
  expect(drawn.map(({ port: end }) => end?.way)).toEqual(['east', 'west'])
  expect(drawn[0]?.box.right).toBeLessThan(edge.left)
  expect(drawn[1]?.box.left).toBeGreaterThan(edge.right)
})
