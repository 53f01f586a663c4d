import { typed } from '@/format/engineering'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fromSlider, neighbour, reachOf, stepped, toSlider } from './turning'

const E6 = [1, 1.5, 2.2, 3.3, 4.7, 6.8]

describe('turning', () => {
  it('goes along a series, over decades, and back', () => {
    expect(neighbour(4700, true, E6)).toBe(6800)
    expect(neighbour(6800, true, E6)).toBe(10000)
    expect(neighbour(1e-9, false, E6)).toBe(6.8e-10)
    expect(neighbour(5000, false, E6)).toBe(4700)
    fc.assert(fc.property(fc.integer({ min: -9, max: 6 }), fc.constantFrom(...E6), (decade, digit) => {
      const value = Number(`${digit}e${decade}`)
      expect(neighbour(neighbour(value, true, E6), false, E6)).toBeCloseTo(value, 12)
    }))
  })

  it('goes by a share of a value, and by steps through zero', () => {
    const reach = reachOf(1e3, 'Ω')
    expect(stepped(1e3, 1, undefined, false, reach)).toBeCloseTo(1020)
    expect(stepped(0, -1, undefined, false, reachOf(0, 'V'))).toBeCloseTo(-0.02)
  })

  it('by slider covers a decade either way', () => {
    fc.assert(fc.property(fc.double({ min: 1e-12, max: 1e9, noNaN: true }), fc.integer({ min: 0, max: 1000 }), (value, place) => {
      const reach = reachOf(value, '')
      expect(toSlider(fromSlider(place, reach), reach)).toBe(place)
      expect(toSlider(value, reach)).toBe(500)
    }))
  })
})

it('numbers are typed as a designer would', () => {
  expect([4700, 1e-7, 33e-9, -5, 0, 1.23456, 2.2e6].map((value) => typed(value))).toEqual(['4.7k', '100n', '33n', '-5', '0', '1.235', '2.2M'])
})
