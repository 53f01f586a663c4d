import type { PlotCurve } from '@/plot/curves'

/** Finding places on a curve: values between points, crossings, extremes. Between points a curve is a straight line. */

type Line = Pick<PlotCurve, 'x' | 'y'>

/** The first stretch of a curve that holds a place, by its first point; of a sweep there and back, on the way there. */
function stretch({ x }: Line, at: number): number {
  for (let k = 0; k + 1 < x.length; k += 1) {
    const [from = NaN, to = NaN] = [x[k], x[k + 1]]
    if (Math.min(from, to) <= at && at <= Math.max(from, to)) return k
  }
  return -1
}

export function valueAt(curve: Line, at: number): number {
  const { x, y } = curve
  const k = stretch(curve, at)
  const [x0 = NaN, x1 = NaN, y0 = NaN, y1 = NaN] = [x[k], x[k + 1], y[k], y[k + 1]]
  return x1 === x0 ? y1 : y0 + ((y1 - y0) * (at - x0)) / (x1 - x0)
}

/** The slope at a place, of the stretch that it lies on. */
export function slopeAt(curve: Line, at: number): number {
  const { x, y } = curve
  const k = stretch(curve, at)
  return ((y[k + 1] ?? NaN) - (y[k] ?? NaN)) / ((x[k + 1] ?? NaN) - (x[k] ?? NaN))
}

/** The next place at which a curve passes a level, on from a place; null where there is none. */
export function crossing(curve: Line, level: number, from: number, way: 1 | -1): number | null {
  const { x, y } = curve
  const near = 1e-9 * Math.abs(from)
  const found: number[] = []
  for (let k = 0; k + 1 < x.length; k += 1) {
    const [x0 = 0, x1 = 0, y0 = NaN, y1 = NaN] = [x[k], x[k + 1], y[k], y[k + 1]]
    if ((y0 - level) * (y1 - level) > 0 || y0 === y1 || Number.isNaN(y0 + y1)) continue
    found.push(x0 + ((level - y0) * (x1 - x0)) / (y1 - y0))
  }
  const beyond = found.filter((place) => (way > 0 ? place > from + near : place < from - near))
  return beyond.length ? (way > 0 ? Math.min(...beyond) : Math.max(...beyond)) : null
}

/** The place of the greatest, or the least, value between two places. */
export function extreme({ x, y }: Line, from: number, to: number, greatest: boolean): number | null {
  let best: number | null = null
  for (let k = 0; k < x.length; k += 1) {
    const [at = 0, value = NaN] = [x[k], y[k]]
    if (at < from || at > to || Number.isNaN(value)) continue
    if (best === null || (greatest ? value > (y[best] ?? NaN) : value < (y[best] ?? NaN))) best = k
  }
  return best === null ? null : (x[best] ?? null)
}

/** The level of half the power, below a curve's peak. */
export function halfPower(curve: Line & { unit: string }, from: number, to: number): number | null {
  const top = extreme(curve, from, to, true)
  if (top === null) return null
  const peak = valueAt(curve, top)
  return curve.unit === 'dB' ? peak - 10 * Math.log10(2) : peak / Math.SQRT2
}

/** The point after a place, or before it. */
export function neighbour(curve: Line, at: number, by: number): number {
  const k = stretch(curve, at)
  // Between two points, one step goes to the end of the stretch on that side.
  const here = k < 0 ? 0 : at === curve.x[k + 1] ? k + 1 : at === curve.x[k] ? k : by < 0 ? k + 1 : k
  return curve.x[Math.min(Math.max(here + by, 0), curve.x.length - 1)] ?? at
}
