import type { PlotPane, Shape } from '@/plot/curves'
import { scaleOf, type Range } from '@/plot/scales'
import { strokeOf } from '@/plot/strokes'
import { tick } from '@/format/engineering'

/** A card as a drawing that stands alone, with the same scales as on the screen. */

export interface Laid {
  pane: PlotPane
  x: Range
  y: Range[]
  log: boolean[]
}

const escaped = (text: string) => text.replace(/[&<>]/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;' })[sign] ?? sign)

/** A picture in SVG; colours are read from the page, so that it looks as it does there. */
export function svgOf(title: string, laid: readonly Laid[], shape: Shape, width = 960, each = 300): string {
  const style = getComputedStyle(document.documentElement)
  const token = (name: string) => style.getPropertyValue(name).trim()
  const height = 40 + laid.length * each
  const body = laid.map((pane, k) => paneOf(pane, shape, width, each, 40 + k * each, token)).join('')
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" font-family="IBM Plex Sans, sans-serif" font-size="12">`
    + `<rect width="${width}" height="${height}" fill="${token('--paper-raised')}"/><text x="12" y="24" font-size="16" font-weight="600" fill="${token('--ink-text')}">${escaped(title)}</text>${body}</svg>`
}

function paneOf({ pane, x, y, log }: Laid, shape: Shape, width: number, height: number, top: number, token: (name: string) => string): string {
  const inner = { width: width - 130, height: height - 70 }
  const across = scaleOf(x, [0, inner.width], shape === 'axis' && pane.axis.logarithmic, 90)
  const ups = y.map((range, k) => scaleOf(range, [inner.height, 0], log[k] ?? false, 40, pane.units[k]))
  const [left] = ups
  if (!left) return ''
  const rule = token('--rule')
  const soft = token('--ink-soft')
  const lines = [
    ...across.ticks.map((value) => `<path d="M${across.toPixel(value)} 0V${inner.height}" stroke="${rule}"/><text x="${across.toPixel(value)}" y="${inner.height + 16}" text-anchor="middle" fill="${soft}">${tick(value)}</text>`),
    ...left.ticks.map((value) => `<path d="M0 ${left.toPixel(value)}H${inner.width}" stroke="${rule}"/><text x="-6" y="${left.toPixel(value) + 4}" text-anchor="end" fill="${soft}">${tick(value)}</text>`),
    ...(ups[1]?.ticks.map((value) => `<text x="${inner.width + 6}" y="${(ups[1]?.toPixel(value) ?? 0) + 4}" fill="${soft}">${tick(value)}</text>`) ?? []),
  ]
  const curves = pane.curves.map((curve) => {
    const up = ups[pane.units.indexOf(curve.unit)] ?? left
    const points = Array.from(curve.x, (value, k) => [across.toPixel(value), up.toPixel(curve.y[k] ?? NaN)] as const).filter(([a, b]) => Number.isFinite(a) && Number.isFinite(b))
    const stroke = strokeOf(curve.index)
    return `<path d="M${points.map(([a, b]) => `${a.toFixed(1)} ${b.toFixed(1)}`).join('L')}" fill="none" stroke="${token(stroke.token)}" stroke-width="${curve.baseline ? 1 : 1.8}" stroke-dasharray="${curve.baseline ? '' : stroke.dash.join(' ')}" opacity="${curve.baseline ? 0.5 : 1}"/>`
  })
  const names = pane.curves.map((curve, k) => `<text x="${k * 150}" y="-8" fill="${token(strokeOf(curve.index).token)}">${escaped(curve.title)}${curve.unit ? ` / ${curve.unit}` : ''}</text>`)
  const id = `clip${Math.round(top)}`
  const foot = `${pane.axis.title}${pane.axis.unit ? ` / ${pane.axis.unit}` : ''}`
  return `<g transform="translate(65 ${top + 26})"><clipPath id="${id}"><rect width="${inner.width}" height="${inner.height}"/></clipPath>${lines.join('')}`
    + `<path d="M0 0V${inner.height}H${inner.width}" fill="none" stroke="${soft}"/><g clip-path="url(#${id})">${curves.join('')}</g>${names.join('')}<text x="${inner.width / 2}" y="${inner.height + 34}" text-anchor="middle" fill="${soft}">${escaped(foot)}</text></g>`
}

/** Curves as a table: for each axis a column of places and one for every curve over it. */
export function tableOf(panes: readonly PlotPane[], separator = ','): string {
  const curves = panes.flatMap((pane) => pane.curves.map((curve) => ({ curve, axis: pane.axis })))
  const named = (title: string, unit: string) => `"${(unit ? `${title} / ${unit}` : title).replaceAll('"', '""')}"`
  const columns = curves.flatMap(({ curve, axis }, k) => {
    const shared = k > 0 && curves[k - 1]?.curve.x.length === curve.x.length && curves[k - 1]?.curve.x.every((value, n) => value === curve.x[n])
    const own = { name: named(curve.title, curve.unit), values: curve.y }
    return shared ? [own] : [{ name: named(axis.title, axis.unit), values: curve.x }, own]
  })
  const rows = Math.max(0, ...columns.map(({ values }) => values.length))
  const line = (k: number) => columns.map(({ values }) => (k < values.length && Number.isFinite(values[k]) ? String(values[k]) : '')).join(separator)
  return [columns.map(({ name }) => name).join(separator), ...Array.from({ length: rows }, (_, k) => line(k))].join('\n') + '\n'
}
