import { scaleLinear, scaleLog } from 'd3-scale'

export type Range = readonly [number, number]

/** From values to pixels, and back, with the places of its ticks. */
export interface Scale {
  range: Range
  logarithmic: boolean
  toPixel: (value: number) => number
  toValue: (pixel: number) => number
  ticks: number[]
  /** Lines without a number. */
  minor: number[]
}

/** The least and the greatest of finite values; of those above zero for a logarithmic scale. */
export function extent(arrays: Iterable<Float64Array>, logarithmic: boolean): Range | null {
  let low = Infinity
  let high = -Infinity
  for (const values of arrays) {
    for (const value of values) {
      if (!Number.isFinite(value) || (logarithmic && value <= 0)) continue
      if (value < low) low = value
      if (value > high) high = value
    }
  }
  return low <= high ? [low, high] : null
}

/** A range with room around its values; one without extent is opened around its value. */
export function roomy(range: Range | null, logarithmic: boolean): Range {
  if (!range) return logarithmic ? [0.1, 10] : [-1, 1]
  const [low, high] = range
  if (logarithmic) return low === high ? [low / 2, high * 2] : [low / (high / low) ** 0.04, high * (high / low) ** 0.04]
  // What differs by rounding only is level.
  const least = 1e-9 * Math.max(Math.abs(low), Math.abs(high))
  if (high - low <= least) {
    const half = Math.abs(low) > 1e-15 ? Math.abs(low) * 0.1 : 1
    return [low - half, high + half]
  }
  return [low - 0.06 * (high - low), high + 0.06 * (high - low)]
}

/** How many ticks fit beside each other. */
const room = (pixels: number, each: number) => Math.min(10, Math.max(2, Math.floor(pixels / each)))

/** Steps of angles, in degrees. */
const ANGLES = [1, 2, 5, 15, 30, 45, 90, 180, 360, 720, 1800]

function angles([low, high]: Range, most: number): number[] {
  const step = ANGLES.find((each) => (high - low) / each <= most)
  if (!step || high - low < 4) return scaleLinear().domain([low, high]).ticks(most)
  return Array.from({ length: Math.floor(high / step) - Math.ceil(low / step) + 1 }, (_, k) => (Math.ceil(low / step) + k) * step)
}

/** The scale of a range over pixels, with a tick about every `each` of them; degrees have ticks of their own. */
export function scaleOf(range: Range, pixels: Range, logarithmic: boolean, each: number, unit = ''): Scale {
  const length = Math.abs(pixels[1] - pixels[0])
  const map = (logarithmic ? scaleLog() : scaleLinear()).domain(range).range(pixels)
  const { ticks, minor } = logarithmic ? logTicks(range, room(length, each)) : { ticks: unit === '°' ? angles(range, room(length, each)) : scaleLinear().domain(range).ticks(room(length, each)), minor: [] }
  return { range, logarithmic, toPixel: (value) => map(value), toValue: (pixel) => map.invert(pixel), ticks, minor }
}

/** Whole decades, every so many of them; within one or two decades the numbers between as well. */
function logTicks([low, high]: Range, most: number): { ticks: number[]; minor: number[] } {
  const first = Math.floor(Math.log10(low) + 1e-9)
  const last = Math.ceil(Math.log10(high) - 1e-9)
  const every = Math.max(1, Math.ceil((last - first) / most))
  const inside = (value: number) => value >= low * (1 - 1e-9) && value <= high * (1 + 1e-9)
  const decades = Array.from({ length: last - first + 1 }, (_, k) => 10 ** (first + k))
  const between = decades.flatMap((decade) => [2, 3, 4, 5, 6, 7, 8, 9].map((digit) => Number((digit * decade).toPrecision(6))))
  const whole = decades.filter((_, k) => k % every === 0).filter(inside)
  if (whole.length >= 3) return { ticks: whole, minor: every === 1 && decades.length <= 8 ? between.filter(inside) : [] }
  const more = [...decades, ...between.filter((value) => /^[25]/.test(value.toExponential()))].filter(inside).sort((a, b) => a - b)
  if (more.length >= 3) return { ticks: more, minor: between.filter(inside) }
  return { ticks: scaleLinear().domain([low, high]).ticks(most), minor: [] }
}

/** A part of a range, zoomed by a factor about one of its values. */
export function zoomed(range: Range, about: number, factor: number, logarithmic: boolean): Range {
  const to = (value: number) => (logarithmic ? Math.log10(value) : value)
  const from = (value: number) => (logarithmic ? 10 ** value : value)
  const middle = to(about)
  return [from(middle + (to(range[0]) - middle) * factor), from(middle + (to(range[1]) - middle) * factor)]
}

/** A range moved by a share of itself. */
export function panned(range: Range, share: number, logarithmic: boolean): Range {
  if (!logarithmic) {
    const by = share * (range[1] - range[0])
    return [range[0] + by, range[1] + by]
  }
  const by = (range[1] / range[0]) ** share
  return [range[0] * by, range[1] * by]
}
