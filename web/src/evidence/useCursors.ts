import type { PlotCurve } from '@/plot/curves'
import { computed, ref, type Ref } from 'vue'
import { slopeAt, valueAt } from './finding'

export type CursorName = 'A' | 'B'

/** Two cursors on one axis, and what every curve says at them. */
export function useCursors(curves: Ref<readonly PlotCurve[]>) {
  const at = ref<Record<CursorName, number | null>>({ A: null, B: null })

  const readings = computed(() => {
    const { A, B } = at.value
    return new Map(
      curves.value.map((curve) => {
        const [a, b] = [A === null ? NaN : valueAt(curve, A), B === null ? NaN : valueAt(curve, B)]
        return [curve.key, { a, b, difference: b - a, slope: A !== null && B !== null && A !== B ? (b - a) / (B - A) : A === null ? NaN : slopeAt(curve, A) }] as const
      }),
    )
  })
  const distance = computed(() => (at.value.A === null || at.value.B === null ? null : at.value.B - at.value.A))

  function put(name: CursorName, place: number | null) {
    if (place === null || Number.isFinite(place)) at.value = { ...at.value, [name]: place }
  }
  return { at, readings, distance, put }
}

export type Cursors = ReturnType<typeof useCursors>
