/** Texts and pictures handed to the designer as files. */

export function saveBlob(name: string, data: Blob) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(data)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 1000)
}

export const saveText = (name: string, text: string, type = 'text/plain') => saveBlob(name, new Blob([text], { type }))

/** What a file is called: words in lower case with dashes. */
export const fileName = (title: string) => title.toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^-|-$/g, '') || 'card'

/** An SVG text as pixels, twice its size, on the page's own paper. */
export async function pngOf(svg: string): Promise<Blob> {
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = 2 * image.width
  canvas.height = 2 * image.height
  const context = canvas.getContext('2d')
  if (!context) throw new Error('This browser cannot draw pictures.')
  context.fillStyle = getComputedStyle(document.body).backgroundColor
  context.fillRect(0, 0, canvas.width, canvas.height)
  context.drawImage(image, 0, 0, canvas.width, canvas.height)
  return new Promise((done, failed) => canvas.toBlob((blob) => (blob ? done(blob) : failed(new Error('The picture could not be made.'))), 'image/png'))
}
