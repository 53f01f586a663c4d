import type { Spot } from '@/plot/PlotStack.vue'
import { describe, expect, it } from 'vitest'
import { useZoom } from './useZoom'

/** A spot on a pane of 100 by 100 pixels, over 1 Hz to 100 Hz and 0 to 10 V. */
const spot = (over: Partial<Spot> = {}) =>
  ({
    pane: 0, axis: { title: 'frequency', unit: 'Hz', logarithmic: true }, xValue: 10, yValue: 5, xRange: [1, 100], yRanges: [[0, 10]], log: [false],
    width: 100, height: 100, units: ['V'], px: 50, py: 50, top: 0, area: { left: 0, right: 100, top: 0, bottom: 100 }, ...over,
  }) as Spot
const key = (unit: string) => `0 ${unit}`

describe('zooming', () => {
  it('goes to a box, by decades where the axis is logarithmic', () => {
    const zoom = useZoom()
    zoom.box(spot(), { x: 0.5, y: 0.75 }, { x: 1, y: 0.25 }, key)
    expect(zoom.view.value.x['frequency']?.map((value) => Math.round(value))).toEqual([10, 100])
    expect(zoom.view.value.y['0 V']).toEqual([2.5, 7.5])
  })

  it('by the wheel keeps what is under the pointer, along either axis', () => {
    const zoom = useZoom()
    zoom.wheel(spot(), 0.5, false, key)
    const [low = 0, high = 0] = zoom.view.value.x['frequency'] ?? []
    expect(Math.sqrt(low * high)).toBeCloseTo(10)
    zoom.wheel(spot(), 0.5, true, key)
    expect(zoom.view.value.y['0 V']).toEqual([2.5, 7.5])
  })

  it('goes back step by step, and a pan is one step however far it goes', () => {
    const zoom = useZoom()
    zoom.box(spot(), { x: 0, y: 0 }, { x: 0.5, y: 0.5 }, key)
    const boxed = zoom.view.value
    for (const [k, share] of [0.1, 0.2, 0.3].entries()) zoom.pan(spot(), share, 0, key, boxed, k === 0)
    expect(zoom.view.value).not.toEqual(boxed)
    zoom.back()
    expect(zoom.view.value).toEqual(boxed)
    zoom.back()
    expect(zoom.isZoomed.value).toBe(false)
    zoom.back()
    expect(zoom.view.value).toEqual({ x: {}, y: {} })
  })
})
