import type { CheckCard, CurveView } from '@/api/client'

/** A curve as it is drawn. */
export interface PlotCurve {
  /** What it is called in the legend, and what tells it from the others. */
  key: string
  title: string
  unit: string
  x: Float64Array
  y: Float64Array
  /** Which stroke it has. */
  index: number
  /** The pane that it was put into. */
  pane: number
  /** One that stays behind to compare with: thin and pale. */
  baseline: boolean
}

export interface PlotAxis {
  title: string
  unit: string
  logarithmic: boolean
}

/** Curves over one axis with one or two scales beside it. */
export interface PlotPane {
  axis: PlotAxis
  curves: PlotCurve[]
  /** The units of the left scale, and of the right one where there are two. */
  units: string[]
}

export type Shape = 'axis' | 'nyquist' | 'polar'

const number = (values: readonly (number | null)[]) => Float64Array.from(values, (value) => value ?? NaN)

/** Values that can be drawn over an axis: of phasors their magnitudes. */
export function drawable({ y, imaginary }: CurveView): Float64Array {
  if (!imaginary) return number(y ?? [])
  return Float64Array.from(y ?? [], (real, k) => Math.hypot(real ?? NaN, imaginary[k] ?? NaN))
}

/** The plane that a card's curves are drawn in. */
export const planeOf = (shape: CheckCard['shape']): Shape => (shape === 'nyquist' || shape === 'polar' ? shape : 'axis')

/** What a curve is drawn as: over its axis, or in the complex plane. */
export function plotCurve(view: CurveView, title: string, pane: number, index: number, shape: Shape, baseline = false): PlotCurve | null {
  if (!view.axis || !view.x?.length) return null
  const shared = { key: `${baseline ? 'baseline ' : ''}${title}`, title, unit: view.unit ?? '', index, pane, baseline }
  if (shape === 'axis') return { ...shared, x: number(view.x), y: drawable(view) }
  if (!view.imaginary) return null
  return { ...shared, x: number(view.y ?? []), y: number(view.imaginary) }
}

/** Panes from the top: those that were asked for, each split where its curves do not share an axis or have more than two units. */
export function panesOf(curves: readonly { curve: PlotCurve; axis: PlotAxis }[]): PlotPane[] {
  const panes: (PlotPane & { asked: number })[] = []
  for (const { curve, axis } of [...curves].sort((a, b) => a.curve.pane - b.curve.pane)) {
    const fits = panes.find((pane) => pane.asked === curve.pane && pane.axis.title === axis.title && (pane.units.includes(curve.unit) || pane.units.length < 2))
    if (!fits) panes.push({ asked: curve.pane, axis, curves: [curve], units: [curve.unit] })
    else {
      fits.curves.push(curve)
      if (!fits.units.includes(curve.unit)) fits.units.push(curve.unit)
    }
  }
  return panes
}

/** The scales of panes that are logarithmic unless it is said otherwise, as "pane unit": densities span decades. */
export const densityScales = (panes: readonly PlotPane[]): ReadonlySet<string> =>
  new Set(panes.flatMap(({ units }, k) => units.filter((unit) => unit.endsWith('√Hz')).map((unit) => `${k} ${unit}`)))
