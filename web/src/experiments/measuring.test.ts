import type { Board } from '@/api/client'
import { CIRCUITS, circuit } from '@/sheet/testing'
import { expect, it } from 'vitest'
import { boundsOf, limitOf, NO_BOUNDS, withMeasurement } from './measuring'

const stage = CIRCUITS['a non-inverting stage with decoupling'] ?? circuit([])
const [check] = stage.checks
if (!check) throw new Error('no check')
const board = { title: 'b', purpose: '', circuits: [stage], spreads: [], studies: [], limits: [] } as unknown as Board
const peak = { id: '', key: 'maximum', of: 'v(out)', settings: {} }
const measured = (of: Board) => of.circuits[0]?.checks[0] ?? check

it('a measurement is made under a free name, with the limit that is held on it', () => {
  const first = withMeasurement(board, check, peak, { lower: '', upper: ' 4.5 ', reason: 'the converter ends there' })
  const second = withMeasurement(first, measured(first), peak, NO_BOUNDS)
  expect(measured(second).measurements.map(({ id }) => id)).toEqual(['maximum', 'maximum-2'])
  expect(second.limits).toMatchObject([{ check: 'k', measurement: 'maximum', lower: null, upper: '4.5', reason: 'the converter ends there' }])
})

it('its limit is changed in place, and goes where there are no bounds', () => {
  const first = withMeasurement(board, check, peak, { lower: '1', upper: '', reason: 'r' })
  const kept = { ...peak, id: 'maximum' }
  const wider = withMeasurement(first, measured(first), kept, { ...boundsOf(limitOf(first, 'k', 'maximum')), upper: '2' })
  expect(wider.limits).toMatchObject([{ id: first.limits[0]?.id, lower: '1', upper: '2', reason: 'r' }])
  expect(measured(wider).measurements).toHaveLength(1)
  expect(withMeasurement(wider, measured(wider), kept, NO_BOUNDS).limits).toEqual([])
})
