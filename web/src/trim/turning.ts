/** Turning a value by steps: by a share of itself, or along a series of preferred values. */

/** What one notch of the wheel does, and one with Shift. */
const STEP = 1.02
const FINE = 1.002

/** A range that a slider covers; logarithmic where it lies above zero. */
export interface Reach {
  low: number
  high: number
}

export const isLogarithmic = ({ low, high }: Reach) => low > 0 && high > 0

/** A range around a value: a decade either way, or as much again for what is zero or below. */
export function reachOf(value: number, unit: string): Reach {
  if (unit === '°C') return { low: -40, high: 125 }
  if (value > 0) return { low: value / 10, high: value * 10 }
  const size = Math.abs(value) || 1
  return { low: value - size, high: value + size }
}

/** The next value up or down: the neighbour in a series, or by a notch. */
export function stepped(value: number, by: number, series: readonly number[] | undefined, fine: boolean, reach: Reach): number {
  if (series?.length && value > 0) {
    let found = value
    for (let k = 0; k < Math.abs(by); k += 1) found = neighbour(found, by > 0, series)
    return found
  }
  if (isLogarithmic(reach) && value > 0) return value * (fine ? FINE : STEP) ** by
  return value + (by * (reach.high - reach.low) * (fine ? 0.001 : 0.01))
}

/** The nearest value of a series that is above, or below, a value. */
export function neighbour(value: number, up: boolean, series: readonly number[]): number {
  const decade = Math.floor(Math.log10(value) + 1e-12)
  const around = [-1, 0, 1].flatMap((shift) => series.map((digit) => Number(`${digit}e${decade + shift}`)))
  const near = 1e-9 * value
  const beyond = up ? around.filter((each) => each > value + near) : around.filter((each) => each < value - near)
  return up ? Math.min(...beyond) : Math.max(...beyond)
}

/** Where a value stands on a slider from 0 to 1000, and back. */
export function toSlider(value: number, reach: Reach): number {
  const { low, high } = reach
  const share = isLogarithmic(reach) && value > 0 ? Math.log(value / low) / Math.log(high / low) : (value - low) / (high - low)
  return Math.round(1000 * Math.min(Math.max(share, 0), 1))
}
export function fromSlider(place: number, reach: Reach): number {
  const share = place / 1000
  return isLogarithmic(reach) ? reach.low * (reach.high / reach.low) ** share : reach.low + share * (reach.high - reach.low)
}
