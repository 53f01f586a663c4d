import type { Board, Check, Limit, Measurement } from '@/api/client'
import { freeMeasurementId, withCheck } from './checkEdits'

/** What is held of a measurement: its bounds as they are typed, and why. */
export interface Bounds {
  lower: string
  upper: string
  reason: string
}

export const NO_BOUNDS: Bounds = { lower: '', upper: '', reason: '' }

export const limitOf = (board: Board, check: string, measurement: string) => board.limits.find((limit) => limit.check === check && limit.measurement === measurement)

export function boundsOf(limit: Limit | undefined): Bounds {
  return limit ? { lower: limit.lower ?? '', upper: limit.upper ?? '', reason: limit.reason ?? '' } : NO_BOUNDS
}

/** A measurement of a check, new (without an id) or in another form, with the limit that is held on it. */
export function withMeasurement(board: Board, check: Check, measurement: Measurement, bounds: Bounds): Board {
  const id = measurement.id || freeMeasurementId(check, measurement.key)
  const next = { ...measurement, id }
  const measured = withCheck(board, check.id, (old) => ({
    ...old, measurements: old.measurements.some((other) => other.id === id) ? old.measurements.map((other) => (other.id === id ? next : other)) : [...old.measurements, next],
  }))
  return withBounds(measured, check.id, id, bounds)
}

/** The limit on a measurement: made, changed, or taken away where there are no bounds. */
export function withBounds(board: Board, check: string, measurement: string, { lower, upper, reason }: Bounds): Board {
  const old = limitOf(board, check, measurement)
  const others = board.limits.filter((limit) => limit !== old)
  if (!lower.trim() && !upper.trim()) return { ...board, limits: others }
  const limit: Limit = { id: old?.id ?? freeLimitId(board, `${check}-${measurement}`), check, measurement, lower: lower.trim() || null, upper: upper.trim() || null, reason }
  return { ...board, limits: old ? board.limits.map((each) => (each === old ? limit : each)) : [...others, limit] }
}

function freeLimitId(board: Board, wished: string): string {
  const base = wished.slice(0, 58)
  let [id, k] = [base, 1]
  while (board.limits.some((limit) => limit.id === id)) id = `${base}-${(k += 1)}`
  return id
}
