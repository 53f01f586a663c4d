import type { CurveView } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { panesOf, plotCurve, type PlotCurve } from './curves'

const axis = { title: 'frequency', unit: 'Hz', logarithmic: true }
const view = (over: Partial<CurveView>): CurveView => ({ expression: 'v(out)', unit: 'V', axis, x: [1, 10], y: [3, 0], imaginary: [4, 1], number: null, problem: '', column: null, ...over })
const curve = (unit: string, pane = 0): PlotCurve => ({ key: unit + pane, title: unit, unit, x: new Float64Array(2), y: new Float64Array(2), index: 0, pane, baseline: false })

describe('a curve', () => {
  it('of phasors is drawn by magnitude over its axis, and by its parts in the plane', () => {
    expect([...(plotCurve(view({}), 'a', 0, 0, 'axis')?.y ?? [])]).toEqual([5, 1])
    expect([...(plotCurve(view({}), 'a', 0, 0, 'nyquist')?.x ?? [])]).toEqual([3, 0])
    expect(plotCurve(view({ imaginary: null }), 'a', 0, 0, 'nyquist')).toBeNull()
    expect(plotCurve(view({ axis: null, x: [], y: [], number: 3 }), 'a', 0, 0, 'axis')).toBeNull()
  })

  it('has gaps where there is no number', () => {
    expect(plotCurve(view({ y: [null, 2], imaginary: null }), 'a', 0, 0, 'axis')?.y[0]).toBeNaN()
  })
})

describe('panes', () => {
  it('hold two units at most, and one axis', () => {
    const panes = panesOf(['V', 'A', 'V', 'dB'].map((unit) => ({ curve: curve(unit), axis })))
    expect(panes.map(({ units }) => units)).toEqual([['V', 'A'], ['dB']])
    const time = { title: 'time', unit: 's', logarithmic: false }
    expect(panesOf([{ curve: curve('V'), axis }, { curve: curve('V'), axis: time }])).toHaveLength(2)
  })

  it('are split where one was asked for', () => {
    expect(panesOf([{ curve: curve('V', 1), axis }, { curve: curve('V', 0), axis }])).toHaveLength(2)
  })
})
