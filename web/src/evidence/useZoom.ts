import { panned, zoomed, type Range } from '@/plot/scales'
import type { Spot } from '@/plot/PlotStack.vue'
import { ref, shallowRef } from 'vue'

interface View {
  x: Record<string, Range>
  y: Record<string, Range>
}

/** What is zoomed to, with the way back. Panes that share an axis are zoomed together. */
export function useZoom() {
  const view = shallowRef<View>({ x: {}, y: {} })
  const past = shallowRef<readonly View[]>([])
  const isZoomed = ref(false)

  function set(next: View, remember = true) {
    if (remember) past.value = [...past.value.slice(-49), view.value]
    view.value = next
    isZoomed.value = Object.keys(next.x).length + Object.keys(next.y).length > 0
  }

  /** A box within a pane, as shares of its width and height from the top left. */
  function box(spot: Spot, from: { x: number; y: number }, to: { x: number; y: number }, key: (unit: string) => string) {
    const [left, right] = [Math.min(from.x, to.x), Math.max(from.x, to.x)]
    const [top, bottom] = [Math.min(from.y, to.y), Math.max(from.y, to.y)]
    const logarithmic = spot.axis.logarithmic
    const x = part(spot.xRange, left, right, logarithmic)
    const y = Object.fromEntries(spot.units.map((unit, k) => [key(unit), part(spot.yRanges[k] ?? [0, 1], 1 - bottom, 1 - top, spot.log[k] ?? false)]))
    set({ x: { ...view.value.x, [spot.axis.title]: x }, y: { ...view.value.y, ...y } })
  }

  function wheel(spot: Spot, factor: number, vertical: boolean, key: (unit: string) => string) {
    if (!vertical) return set({ ...view.value, x: { ...view.value.x, [spot.axis.title]: zoomed(spot.xRange, spot.xValue, factor, spot.axis.logarithmic) } })
    const share = 1 - (spot.py - spot.top - spot.area.top) / spot.height
    const y = spot.units.map((unit, k) => {
      const range = spot.yRanges[k] ?? [0, 1]
      const log = spot.log[k] ?? false
      return [key(unit), zoomed(range, part(range, share, share, log)[0], factor, log)]
    })
    set({ ...view.value, y: { ...view.value.y, ...Object.fromEntries(y) } })
  }

  /** Move what is seen by shares of a pane. */
  function pan(spot: Spot, dx: number, dy: number, key: (unit: string) => string, start: View, remember: boolean) {
    const x = { ...start.x, [spot.axis.title]: panned(spot.xRange, -dx, spot.axis.logarithmic) }
    const y = Object.fromEntries(spot.units.map((unit, k) => [key(unit), panned(spot.yRanges[k] ?? [0, 1], dy, spot.log[k] ?? false)]))
    set({ x, y: { ...start.y, ...y } }, remember)
  }

  function back() {
    const last = past.value.at(-1)
    if (!last) return
    past.value = past.value.slice(0, -1)
    set(last, false)
  }
  const whole = () => set({ x: {}, y: {} })

  return { view, past, isZoomed, box, wheel, pan, back, whole, set }
}

/** A part of a range, by shares of it. */
function part([low, high]: Range, from: number, to: number, logarithmic: boolean): Range {
  if (!logarithmic) return [low + from * (high - low), low + to * (high - low)]
  return [low * (high / low) ** from, low * (high / low) ** to]
}
