import type { PlotCurve } from './curves'
import type { Scale } from './scales'
import { strokeOf } from './strokes'

/** Logarithms of values, computed once: a pan draws the same values again and again. */
const logarithms = new WeakMap<Float64Array, Float64Array>()

function held(values: Float64Array, logarithmic: boolean): Float64Array {
  if (!logarithmic) return values
  const known = logarithms.get(values)
  if (known) return known
  const found = values.map((value) => (value > 0 ? Math.log10(value) : NaN))
  logarithms.set(values, found)
  return found
}

/** Pixels are straight lines of what a scale holds. */
function line(scale: Scale): { slope: number; offset: number } {
  const [low, high] = scale.range
  const to = (value: number) => (scale.logarithmic ? Math.log10(value) : value)
  const slope = (scale.toPixel(high) - scale.toPixel(low)) / (to(high) - to(low))
  return { slope, offset: scale.toPixel(low) - slope * to(low) }
}

/** More points than this are drawn without dashes and without what lies within a pixel. */
export const MANY = 50_000

/** Draw one curve; points that are no numbers interrupt it. With `many` points beside it, it is drawn plainly. */
export function drawCurve(context: CanvasRenderingContext2D, curve: PlotCurve, x: Scale, y: Scale, colour: string, many = false) {
  const near = many ? 0.9 : 0.3
  const [xs, ys] = [held(curve.x, x.logarithmic), held(curve.y, y.logarithmic)]
  const [across, up] = [line(x), line(y)]
  const [from, to] = [x.toPixel(x.range[0]), x.toPixel(x.range[1])]
  const stroke = strokeOf(curve.index)
  context.strokeStyle = colour
  context.globalAlpha = curve.baseline ? 0.45 : 1
  context.lineWidth = curve.baseline || many ? 1 : 1.7
  context.setLineDash(curve.baseline || many ? [] : [...stroke.dash])
  context.beginPath()
  let drawing = false
  let beforeX = NaN
  let beforeY = NaN
  for (let k = 0; k < xs.length; k += 1) {
    const px = across.slope * (xs[k] ?? NaN) + across.offset
    const py = Math.min(Math.max(up.slope * (ys[k] ?? NaN) + up.offset, -1e5), 1e5)
    if (Number.isNaN(px) || Number.isNaN(py)) {
      drawing = false
      continue
    }
    // Of what lies beside the pane, only the point next to it counts.
    const outside = px < from ? -1 : px > to ? 1 : 0
    if (outside && drawing && (beforeX < from ? -1 : beforeX > to ? 1 : 0) === outside) {
      context.moveTo(px, py)
    } else if (drawing) {
      if (Math.abs(px - beforeX) < near && Math.abs(py - beforeY) < near) continue
      context.lineTo(px, py)
    } else context.moveTo(px, py)
    drawing = true
    beforeX = px
    beforeY = py
  }
  context.stroke()
  context.globalAlpha = 1
}
