import type { Box } from './geometry'
import styles from './sheet.css?inline'

/** Pictures and texts handed to the designer as files. */

function save(name: string, data: Blob) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(data)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 1000)
}

export const saveText = (name: string, text: string, type = 'text/plain') => save(name, new Blob([text], { type }))

/** The colours and faces that the page has now, for a picture that stands alone. */
function settings(): string {
  const computed = getComputedStyle(document.documentElement)
  const names = ['--paper', '--paper-raised', '--ink', '--ink-text', '--ink-soft', '--accent', '--breaks', '--text', '--mono']
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

/** The same as a picture of twice the size, on the page's own paper. */
export async function savePng(name: string, drawing: SVGSVGElement, box: Box) {
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(asSvg(drawing, box))}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = 2 * (box.right - box.left)
  canvas.height = 2 * (box.bottom - box.top)
  const context = canvas.getContext('2d')
  if (!context) throw new Error('This browser cannot draw pictures.')
  context.fillStyle = getComputedStyle(document.body).backgroundColor
  context.fillRect(0, 0, canvas.width, canvas.height)
  context.drawImage(image, 0, 0, canvas.width, canvas.height)
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'))
  if (blob) save(name, blob)
}
