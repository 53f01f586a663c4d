/** Numbers for the eye. What is typed is read by the service alone, so that there is one reading of "4k7". */

const PREFIXES: Record<string, string> = {
  '-15': 'f', '-12': 'p', '-9': 'n', '-6': 'µ', '-3': 'm', '0': '', '3': 'k', '6': 'M', '9': 'G', '12': 'T',
}

/** Units that take no prefix. */
const PLAIN = new Set(['dB', 'V/V', '%', '°', ''])

/** `value` with `digits` significant digits, in engineering notation where the unit takes a prefix; "–" for null. */
export function engineering(value: number | null | undefined, unit = '', digits = 4): string {
  if (value == null || !Number.isFinite(value)) return '–'
  // A decibel or a degree this small is a rounding of none.
  if (PLAIN.has(unit) && unit && Math.abs(value) < 1e-9) return `0${unit === 'V/V' ? '' : ` ${unit}`}`
  if (PLAIN.has(unit)) return `${sign(trimmed(value, digits))}${unit && unit !== 'V/V' ? ` ${unit}` : ''}`
  // What lies this far below the smallest prefix is the computer's noise.
  if (Math.abs(value) < 1e-18) return `0 ${unit}`
  const rounded = Number(value.toPrecision(digits))
  const power = Math.min(12, Math.max(-15, 3 * Math.floor(Math.floor(Math.log10(Math.abs(rounded)) + 1e-12) / 3)))
  return `${sign(trimmed(rounded / 10 ** power, digits))} ${PREFIXES[power]}${unit}`
}

/** A ratio of 1 as per cent: 0.98 -> "98 %". */
export function percent(share: number | null | undefined, digits = 3): string {
  return share == null ? '–' : `${trimmed(share * 100, digits)} %`
}

/** A per cent value with its sign always shown, such as a deviation. */
export function signedPercent(value: number | null | undefined): string {
  if (value == null) return '–'
  const size = Math.abs(value)
  const text = size < 0.005 ? '0.00' : size < 10 ? size.toFixed(2) : size.toFixed(1)
  return `${value < 0 && size >= 0.005 ? '−' : '+'}${text} %`
}

function trimmed(value: number, digits: number): string {
  const rounded = Number(value.toPrecision(digits))
  const size = Math.abs(rounded)
  // Keep all digits (trailing zeros too), so that columns of numbers say how precise they are.
  return size >= 10 ** digits ? rounded.toFixed(0) : size < 1e-4 && size > 0 ? rounded.toExponential(digits - 1) : rounded.toPrecision(digits)
}

/** A true minus sign, as wide as the plus. */
function sign(text: string): string {
  return text.replace('-', '−')
}

/** A short label for an axis tick: 1000 -> "1 k". */
export function tick(value: number): string {
  if (value === 0) return '0'
  const power = 3 * Math.floor(Math.log10(Math.abs(value)) / 3 + 1e-9)
  const prefix = PREFIXES[power]
  return prefix === undefined ? value.toExponential() : sign(`${Number((value / 10 ** power).toPrecision(4))}${prefix ? ` ${prefix}` : ''}`)
}

/** A number as one would type it, such as 4.7k. */
export function typed(value: number, digits = 4): string {
  if (value === 0 || !Number.isFinite(value)) return '0'
  const rounded = Number(value.toPrecision(digits))
  const power = Math.min(12, Math.max(-15, 3 * Math.floor(Math.floor(Math.log10(Math.abs(rounded)) + 1e-12) / 3)))
  return `${Number((rounded / 10 ** power).toPrecision(digits))}${(PREFIXES[power] ?? '').replace('µ', 'u')}`
}
