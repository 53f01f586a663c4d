import { expect, it } from 'vitest'
import { effectsOf } from './corners'

it('ranks factors by what they do by themselves', () => {
  const effects = effectsOf([10, 9, 11, 14, 6, null, 3], ['R1', 'C1', 'R2'])
  expect(effects.map(({ factor, span }) => [factor, span])).toEqual([['C1', 8], ['R1', 2], ['R2', 0]])
  expect(effects[0]).toMatchObject({ low: 14, high: 6 })
})
