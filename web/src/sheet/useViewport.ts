import { computed, onBeforeUnmount, onMounted, ref, type Ref } from 'vue'
import type { Box, Point } from './geometry'

const LEAST = 0.2
const MOST = 4

/** The width of a window in which a drawing is as large as life at most, in pixels. */
const USUAL = 800

/** Pixels below the drawing that the tools in the corner take. */
const CORNER = 36

/**
 * What of the sheet is seen: the size of its window, how large things are drawn, and where the sheet's origin lies.
 * At first, and on paper, all that lies within `bounds` is.
 */
export function useViewport(element: Ref<SVGSVGElement | null>, bounds: () => Box) {
  const size = ref({ width: 800, height: 600 })
  const scale = ref(1)
  const origin = ref<Point>({ x: 0, y: 0 })
  const transform = computed(() => (onPaper.value ? '' : `translate(${origin.value.x} ${origin.value.y}) scale(${scale.value})`))

  /** What is printed, whose size on paper nobody knows before. */
  const onPaper = ref<Box | null>(null)
  const viewBox = computed(() => {
    const box = onPaper.value
    return box ? `${box.left} ${box.top} ${box.right - box.left} ${box.bottom - box.top}` : undefined
  })
  const print = () => (onPaper.value = bounds())
  const printed = () => (onPaper.value = null)

  /** Whether somebody chose what is seen: then it stays so, whatever becomes of the window. */
  let touched = false
  const observer = new ResizeObserver(([entry]) => {
    if (onPaper.value) return
    if (entry) size.value = { width: entry.contentRect.width, height: entry.contentRect.height }
    if (!touched) fit()
  })
  onMounted(() => {
    if (element.value) observer.observe(element.value)
    window.addEventListener('beforeprint', print)
    window.addEventListener('afterprint', printed)
  })
  onBeforeUnmount(() => {
    observer.disconnect()
    window.removeEventListener('beforeprint', print)
    window.removeEventListener('afterprint', printed)
  })

  /** A point of the window in the sheet's coordinates, and back. */
  function toSheet(client: Point): Point {
    const box = element.value?.getBoundingClientRect()
    return { x: (client.x - (box?.left ?? 0) - origin.value.x) / scale.value, y: (client.y - (box?.top ?? 0) - origin.value.y) / scale.value }
  }
  const toWindow = (point: Point): Point => ({ x: point.x * scale.value + origin.value.x, y: point.y * scale.value + origin.value.y })

  /** Show everything, but not larger than life; on a large screen, not larger than twice that. */
  function fit() {
    touched = false
    const box = bounds()
    const { width } = size.value
    const height = size.value.height - CORNER
    scale.value = Math.min(Math.min(2, Math.max(1, width / USUAL)), Math.max(LEAST, Math.min(width / (box.right - box.left), height / (box.bottom - box.top))))
    origin.value = {
      x: (width - scale.value * (box.left + box.right)) / 2,
      y: Math.min((height - scale.value * (box.top + box.bottom)) / 2, 12 - scale.value * box.top),
    }
  }

  function zoom(factor: number, about: Point = { x: size.value.width / 2, y: size.value.height / 2 }) {
    touched = true
    const next = Math.min(MOST, Math.max(LEAST, scale.value * factor))
    const ratio = next / scale.value
    origin.value = { x: about.x - ratio * (about.x - origin.value.x), y: about.y - ratio * (about.y - origin.value.y) }
    scale.value = next
  }

  function pan(by: Point) {
    touched = true
    origin.value = { x: origin.value.x + by.x, y: origin.value.y + by.y }
  }

  /** Bring a point into view, with room around it. */
  function reveal(point: Point) {
    const { x, y } = toWindow(point)
    const room = 60
    const shift = (at: number, extent: number) => (at < room ? room - at : at > extent - room ? extent - room - at : 0)
    pan({ x: shift(x, size.value.width), y: shift(y, size.value.height) })
  }

  function onWheel(event: WheelEvent) {
    const box = element.value?.getBoundingClientRect()
    if (event.ctrlKey || event.metaKey) {
      zoom(Math.exp(-event.deltaY / 300), { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) })
    } else pan({ x: event.shiftKey ? -event.deltaY : -event.deltaX, y: event.shiftKey ? 0 : -event.deltaY })
  }

  return { size, scale, origin, transform, toSheet, toWindow, viewBox, fit, zoom, pan, reveal, onWheel }
}
