import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { extent, panned, roomy, scaleOf, zoomed, type Range } from './scales'

const positive = fc.tuple(fc.double({ min: 1e-6, max: 1e6, noNaN: true }), fc.double({ min: 1.01, max: 1e6, noNaN: true })).map(([low, ratio]): Range => [low, low * ratio])

describe('a scale', () => {
  it('turns values into pixels and back, whether logarithmic or not', () => {
    fc.assert(fc.property(positive, fc.boolean(), fc.double({ min: 0, max: 1, noNaN: true }), ([low, high], logarithmic, share) => {
      const scale = scaleOf([low, high], [0, 500], logarithmic, 50)
      const value = low + share * (high - low)
      expect(scale.toValue(scale.toPixel(value))).toBeCloseTo(value, Math.max(0, 6 - Math.ceil(Math.log10(high))))
    }))
  })

  it('has ticks inside its range, rising, and at least one', () => {
    fc.assert(fc.property(positive, fc.boolean(), fc.integer({ min: 60, max: 1200 }), ([low, high], logarithmic, pixels) => {
      const { ticks } = scaleOf([low, high], [0, pixels], logarithmic, 60)
      expect(ticks.length).toBeGreaterThan(0)
      expect(ticks.length).toBeLessThan(40)
      for (const [k, value] of ticks.entries()) {
        expect(value).toBeGreaterThanOrEqual(low * (1 - 1e-6))
        expect(value).toBeLessThanOrEqual(high * (1 + 1e-6))
        if (k) expect(value).toBeGreaterThan(ticks[k - 1] ?? 0)
      }
    }))
  })

  it('counts decades, and degrees by quarter turns', () => {
    expect(scaleOf([1, 1e6], [0, 600], true, 60).ticks).toEqual([1, 10, 100, 1e3, 1e4, 1e5, 1e6])
    expect(scaleOf([-190, 10], [0, 300], false, 50, '°').ticks).toEqual([-180, -135, -90, -45, 0].map((angle) => angle + 0))
  })
})

describe('ranges', () => {
  it('open around what is level, and leave out what has no logarithm', () => {
    expect(roomy([2, 2], false)).toEqual([1.8, 2.2])
    expect(roomy([0, 0], false)).toEqual([-1, 1])
    expect(roomy(null, true)).toEqual([0.1, 10])
    expect(extent([Float64Array.from([NaN, -1, 3, 0])], true)).toEqual([3, 3])
    expect(extent([Float64Array.from([NaN])], false)).toBeNull()
  })

  it('keep their middle when zoomed, and come back when panned there and back', () => {
    fc.assert(fc.property(positive, fc.boolean(), fc.double({ min: -2, max: 2, noNaN: true }), (range, logarithmic, share) => {
      const back = panned(panned(range, share, logarithmic), -share, logarithmic)
      expect(back[0] / range[0]).toBeCloseTo(1, 3)
      const middle = logarithmic ? Math.sqrt(range[0] * range[1]) : (range[0] + range[1]) / 2
      const half = zoomed(range, middle, 0.5, logarithmic)
      const twice = zoomed(half, middle, 2, logarithmic)
      expect(twice[1] / range[1]).toBeCloseTo(1, 6)
      expect(half[0]).toBeGreaterThanOrEqual(range[0])
    }))
  })
})
