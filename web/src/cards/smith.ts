/** What a reflection says, and the lines of the chart that it is drawn on. Both are of the unit circle. */

export interface Complex {
  re: number
  im: number
}

/** In decibels, how much less comes back than went in; infinite where nothing does. */
export const returnLoss = ({ re, im }: Complex) => -20 * Math.log10(Math.hypot(re, im))

/** Ratio of the greatest to the least voltage along a line; infinite where all comes back. */
export function standingWave({ re, im }: Complex): number {
  const size = Math.hypot(re, im)
  return size >= 1 ? Infinity : (1 + size) / (1 - size)
}

/** How much of an impedance is reactive, as a ratio. */
export const quality = ({ re, im }: Complex) => Math.abs(im / re)

export function inverse({ re, im }: Complex): Complex {
  const square = re * re + im * im
  return { re: re / square, im: -im / square }
}

/** Resistances and reactances, by the reference, at which the chart has lines. */
export const LINES = [0.2, 0.5, 1, 2, 5] as const

/** Circles of one resistance: where their middle lies on the real axis, and their radius. */
export const resistanceCircle = (r: number) => ({ x: r / (1 + r), radius: 1 / (1 + r) })

/** Circles of one reactance: how far their middle lies above 1, and their radius. */
export const reactanceCircle = (x: number) => ({ y: 1 / x, radius: Math.abs(1 / x) })

/** Where the circle of a reactance meets the rim. */
export function onRim(x: number): Complex {
  const square = x * x
  return { re: (square - 1) / (square + 1), im: (2 * x) / (square + 1) }
}

/** Which of some points lies nearest to a place. */
export function nearest(points: readonly Complex[], to: Complex): number {
  let best = 0
  let least = Infinity
  for (const [k, { re, im }] of points.entries()) {
    const distance = Math.hypot(re - to.re, im - to.im)
    if (distance < least) [best, least] = [k, distance]
  }
  return best
}
