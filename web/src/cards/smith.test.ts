import { describe, expect, it } from 'vitest'
import { inverse, nearest, onRim, quality, reactanceCircle, resistanceCircle, returnLoss, standingWave } from './smith'

const reflected = (r: number, x: number) => {
  const square = (r + 1) ** 2 + x * x
  return { re: (r * r - 1 + x * x) / square, im: (2 * x) / square }
}

describe('the chart of impedances', () => {
  it('has every impedance on the circles of its resistance and of its reactance', () => {
    for (const [r, x] of [[0.2, 0.5], [1, -2], [5, 1]] as const) {
      const { re, im } = reflected(r, x)
      const [own, other] = [resistanceCircle(r), reactanceCircle(x)]
      expect(Math.hypot(re - own.x, im)).toBeCloseTo(own.radius, 12)
      expect(Math.hypot(re - 1, im - other.y)).toBeCloseTo(other.radius, 12)
    }
    expect(onRim(2)).toEqual(reflected(0, 2))
  })

  it('reads 2:1 as 9.54 dB and 100 Ω or 25 Ω of 50 Ω', () => {
    const gamma = reflected(2, 0)
    expect(standingWave(gamma)).toBeCloseTo(2, 12)
    expect(returnLoss(gamma)).toBeCloseTo(9.542, 3)
    expect(standingWave({ re: 0, im: 1 })).toBe(Infinity)
  })

  it('turns impedances over and tells their quality', () => {
    expect(inverse({ re: 3, im: 4 })).toEqual({ re: 0.12, im: -0.16 })
    expect(quality({ re: 10, im: -50 })).toBe(5)
    expect(nearest([{ re: 0, im: 0 }, { re: 1, im: 0 }], { re: 0.8, im: 0.1 })).toBe(1)
  })
})
