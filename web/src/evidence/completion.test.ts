import type { Vocabulary } from '@/api/client'
import { CIRCUITS, check, circuit } from '@/sheet/testing'
import { expect, it } from 'vitest'
import { offers } from './completion'
import { tableOf } from './picture'

const stage = CIRCUITS['a non-inverting stage with decoupling'] ?? circuit([])
const vocabulary = { functions: [{ name: 'db', written: 'db(x)', meaning: 'decibels' }], measurements: [], series: {}, checks: [] } as unknown as Vocabulary
const at = (text: string) => offers(text, text.length, stage, check('out'), vocabulary, ['response', 'noise.R1']).map((offer) => offer.text)

it('offers nets, pins, parts and functions where each belongs', () => {
  expect(at('db(v(o')).toContain('out)')
  expect(at('v(out,')).toContain('gnd)')
  expect(at('i(s')).toEqual(['s)'])
  expect(at('i(R')).toContain('R1.1)')
  expect(at('p(')).toContain('R1)')
  expect(at('2*d')).toEqual(['db('])
  expect(at('re')).toContain('response')
  expect(at('2*noise.r')).toEqual(['noise.R1'])
  expect(at('v(nothing')).toEqual([])
})

it('writes curves that share their places as one table', () => {
  const curve = { key: 'a', title: 'v(a)', unit: 'V', x: Float64Array.from([0, 1]), y: Float64Array.from([2, NaN]), index: 0, pane: 0, baseline: false }
  const pane = { axis: { title: 'time', unit: 's', logarithmic: false }, curves: [curve, { ...curve, title: 'v(b)' }], units: ['V'] }
  expect(tableOf([pane])).toBe('"time / s","v(a) / V","v(b) / V"\n0,2,2\n1,,\n')
})
