import type { Board } from '@/api/client'
import { CIRCUITS, circuit } from '@/sheet/testing'
import { expect, it } from 'vitest'
import { withAnalysis, withCopiedCheck, withNewCheck, withoutCheck, withoutMeasurement } from './checkEdits'

const stage = CIRCUITS['a non-inverting stage with decoupling'] ?? circuit([])
const [from] = stage.checks
if (!from) throw new Error('no check')
const board = {
  title: 'b', purpose: '', circuits: [stage, { ...circuit([]), id: 'other', title: 'Other' }], spreads: [],
  studies: [{ id: 's', check: 'k' }], limits: [{ id: 'l', check: 'k', measurement: 'm' }],
} as unknown as Board

it('a check is copied within its circuit; another one must have its nets', () => {
  const { board: next, id } = withCopiedCheck(board, from, 'c')
  expect(next.circuits[0]?.checks.find((check) => check.id === id)).toMatchObject({ title: 'k 2', fixtures: from.fixtures })
  expect(() => withCopiedCheck(board, from, 'other')).toThrow(/Other has no net/)
})

it('a check that is removed takes its studies and limits along', () => {
  expect(withoutCheck(board, 'k')).toMatchObject({ studies: [], limits: [], circuits: [{ checks: [] }, {}] })
  expect(withoutMeasurement(board, 'k', 'm').limits).toEqual([])
})

it('another analysis keeps what it can measure', () => {
  const measured = { ...from, measurements: [{ id: 'a', key: 'passband_gain', of: 'response' }, { id: 'b', key: 'maximum', of: 'v(out)' }] }
  expect(withAnalysis(stage, measured, 'transient').measurements.map(({ id }) => id)).toEqual(['b'])
  const back = withAnalysis(stage, { ...measured, measurements: [] }, 'frequency response')
  expect(back.measurements.map(({ id }) => id)).toEqual(['gain', 'cutoff'])
  expect(() => withAnalysis(stage, { ...from, fixtures: [], source: null }, 'frequency response')).toThrow(/needs a source/)
})

it('a new check begins with the fixture of the one that is shown', () => {
  const { board: next, id } = withNewCheck(board, 'c', 'transient', from)
  expect(next.circuits[0]?.checks.find((check) => check.id === id)).toMatchObject({ title: 'Transient', fixtures: from.fixtures, temperature: '27' })
})
