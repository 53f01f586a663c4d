import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { crossing, extreme, halfPower, neighbour, slopeAt, valueAt } from './finding'

const x = Float64Array.from({ length: 1001 }, (_, k) => k / 100)
const sine = { x, y: x.map((at) => Math.sin(at)) }

describe('on a sine', () => {
  it('values, slopes and extremes are where they must be', () => {
    expect(valueAt(sine, 1)).toBeCloseTo(Math.sin(1), 6)
    expect(slopeAt(sine, 0)).toBeCloseTo(1, 4)
    expect(extreme(sine, 0, 4, true)).toBeCloseTo(Math.PI / 2, 2)
    expect(extreme(sine, 0, 6.2, false)).toBeCloseTo((3 * Math.PI) / 2, 2)
    expect(valueAt(sine, 11)).toBeNaN()
  })

  it('crossings come one after the other, both ways', () => {
    const first = crossing(sine, 0.5, 0, 1) ?? NaN
    expect(first).toBeCloseTo(Math.asin(0.5), 4)
    const second = crossing(sine, 0.5, first, 1) ?? NaN
    expect(second).toBeCloseTo(Math.PI - Math.asin(0.5), 4)
    expect(crossing(sine, 0.5, second, -1)).toBeCloseTo(first, 9)
    expect(crossing(sine, 2, 0, 1)).toBeNull()
  })

  it('the next point is one step away, and the last is the end', () => {
    expect(neighbour(sine, 1, 1)).toBeCloseTo(1.01)
    expect(neighbour(sine, 10, 1)).toBe(10)
  })
})

it('of a sweep there and back, the way there counts', () => {
  const loop = { x: Float64Array.from([0, 1, 2, 1, 0]), y: Float64Array.from([0, 0, 5, 5, 0]) }
  expect(valueAt(loop, 0.5)).toBe(0)
  expect(valueAt(loop, 1.5)).toBe(2.5)
  expect(slopeAt(loop, 1.5)).toBe(5)
  expect(neighbour(loop, 1.5, 1)).toBe(2)
  expect(neighbour(loop, 1.5, -1)).toBe(1)
})

it('half the power is 3.0103 dB down, or a root of two', () => {
  const level = { x: Float64Array.from([1, 2]), y: Float64Array.from([20, 10]) }
  expect(halfPower({ ...level, unit: 'dB' }, 1, 2)).toBeCloseTo(16.9897, 4)
  expect(halfPower({ ...level, unit: 'V' }, 1, 2)).toBeCloseTo(14.142, 3)
})

it('a value lies between its neighbours', () => {
  fc.assert(fc.property(fc.array(fc.double({ min: -1e3, max: 1e3, noNaN: true }), { minLength: 2, maxLength: 40 }), fc.double({ min: 0, max: 1, noNaN: true }), (values, share) => {
    const line = { x: Float64Array.from(values, (_, k) => k), y: Float64Array.from(values) }
    const at = share * (values.length - 1)
    const near = [values[Math.floor(at)] ?? NaN, values[Math.min(Math.floor(at) + 1, values.length - 1)] ?? NaN]
    const found = valueAt(line, at)
    expect(found).toBeGreaterThanOrEqual(Math.min(...near) - 1e-9)
    expect(found).toBeLessThanOrEqual(Math.max(...near) + 1e-9)
  }))
})
