import type { PlotCurve } from '@/plot/curves'
import { expect, it } from 'vitest'
import { ref } from 'vue'
import { useCursors } from './useCursors'

const ramp: PlotCurve = { key: 'a', title: 'v(a)', unit: 'V', x: Float64Array.from([0, 1, 2]), y: Float64Array.from([0, 2, 8]), index: 0, pane: 0, baseline: false }

it('two cursors say values, difference and slope between them; one says the slope where it stands', () => {
  const cursors = useCursors(ref([ramp]))
  cursors.put('A', 0.5)
  expect(cursors.readings.value.get('a')).toMatchObject({ a: 1, slope: 2 })
  cursors.put('B', 2)
  expect(cursors.readings.value.get('a')).toEqual({ a: 1, b: 8, difference: 7, slope: 7 / 1.5 })
  expect(cursors.distance.value).toBe(1.5)
  cursors.put('A', NaN)
  expect(cursors.at.value.A).toBe(0.5)
  cursors.put('A', null)
  expect(cursors.distance.value).toBeNull()
})
