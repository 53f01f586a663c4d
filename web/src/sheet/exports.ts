import { pngOf, saveBlob, saveText } from '@/format/files'
import type { Box } from './geometry'
import styles from './sheet.css?inline'

/** Pictures of the drawing. */

/** The colours and faces that the page has now, for a picture that stands alone. */
function settings(): string {
  const computed = getComputedStyle(document.documentElement)
  const names = ['--paper', '--paper-raised', '--ink', '--ink-text', '--ink-soft', '--accent', '--breaks', '--holds', '--thin', '--text', '--mono']
  return `:root{${names.map((name) => `${name}:${computed.getPropertyValue(name)}`).join(';')}}`
}

/** A drawing as SVG, cut to a box of the sheet. */
export function asSvg(drawing: SVGSVGElement, box: Box): string {
  const copy = drawing.cloneNode(true) as SVGSVGElement
  const [width, height] = [box.right - box.left, box.bottom - box.top]
  for (const [name, value] of Object.entries({
    xmlns: 'http://www.w3.org/2000/svg', viewBox: `${box.left} ${box.top} ${width} ${height}`, width: String(width), height: String(height),
  })) copy.setAttribute(name, value)
  for (const name of ['tabindex', 'role', 'aria-roledescription']) copy.removeAttribute(name)
  copy.querySelector('.world')?.removeAttribute('transform')
  for (const gone of copy.querySelectorAll('.cursor, .meets, .pin, .ghost, .box-select')) gone.remove()
  for (const value of copy.querySelectorAll('.value')) for (const name of ['tabindex', 'role', 'aria-label']) value.removeAttribute(name)
  const style = document.createElementNS('http://www.w3.org/2000/svg', 'style')
  style.textContent = `${settings()}${styles}`
  copy.prepend(style)
  return new XMLSerializer().serializeToString(copy)
}

export function saveSvg(name: string, drawing: SVGSVGElement, box: Box) {
  saveText(name, asSvg(drawing, box), 'image/svg+xml')
}

export async function savePng(name: string, drawing: SVGSVGElement, box: Box) {
  saveBlob(name, await pngOf(asSvg(drawing, box)))
}
