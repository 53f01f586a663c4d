import { expect, it } from 'vitest'
import { togetherOf, withoutThem } from './shares'

it('adds powers, and writes what is left without some as an expression', () => {
  expect(togetherOf([{ value: 3 }, { value: 4 }])).toBe(5)
  expect(withoutThem([{ trace: 'noise.R1' }, { trace: '"noise.a-b"' }])).toBe('sqrt(max(noise^2-noise.R1^2-"noise.a-b"^2,0))')
})
