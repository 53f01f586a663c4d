import { engineering } from '@/format/engineering'

/** A figure's value with its unit; a count is a whole number. */
export function figureText(value: number | null | undefined, unit: string): string {
  return unit === '' && value != null && Number.isInteger(value) ? String(value) : engineering(value, unit)
}
