/** What a factor does by itself: the measurement at its low and at its high end. */
export interface Effect {
  factor: string
  low: number | null
  high: number | null
  span: number
}

/** Row 0 is as drawn, then each factor low and high. The largest effects come first. */
export function effectsOf(values: readonly (number | null)[], factors: readonly string[]): Effect[] {
  const effects = factors.map((factor, k): Effect => {
    const [low, high] = [values[1 + 2 * k] ?? null, values[2 + 2 * k] ?? null]
    return { factor, low, high, span: low !== null && high !== null ? Math.abs(high - low) : 0 }
  })
  return effects.sort((a, b) => b.span - a.span)
}
