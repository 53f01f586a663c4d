import type { Board } from '@/api/client'
import { CIRCUITS, circuit } from '@/sheet/testing'
import { expect, it } from 'vitest'
import { goesWith, withCopiedCheck, withFreshCheck, withoutCheck, withoutMeasurement } from './checkEdits'

const stage = CIRCUITS['a non-inverting stage with decoupling'] ?? circuit([])
const [from] = stage.checks
if (!from) throw new Error('no check')
const board = {
  title: 'b', purpose: '', circuits: [stage, { ...circuit([]), id: 'other', title: 'Other' }], spreads: [],
  studies: [{ id: 's', checks: ['k'] }, { id: 'two', checks: ['k', 'other'] }], limits: [{ id: 'l', check: 'k', measurement: 'm' }],
} as unknown as Board

it('a check is copied within its circuit; another one must have its nets', () => {
  const { board: next, id } = withCopiedCheck(board, from, 'c')
  expect(next.circuits[0]?.checks.find((check) => check.id === id)).toMatchObject({ title: 'k 2', fixtures: from.fixtures })
  expect(() => withCopiedCheck(board, from, 'other')).toThrow(/Other has no net/)
})

it('a check that is removed takes its studies and limits along', () => {
  expect(withoutCheck(board, 'k')).toMatchObject({ studies: [{ id: 'two', checks: ['other'] }], limits: [], circuits: [{ checks: [] }, {}] })
  expect(goesWith(board, 'k')).toBe('1 limit and 1 study go with it')
  expect(goesWith(board, 'other')).toBe('')
  expect(withoutMeasurement(board, 'k', 'm').limits).toEqual([])
})

it('a check that was made is added, or takes the place of the one it was made from', () => {
  const added = withFreshCheck(board, 'other', { ...from, id: 'new' })
  expect(added.circuits.map(({ checks }) => checks.map(({ id }) => id))).toEqual([['k'], ['new']])
  const instead = withFreshCheck(board, 'c', { ...from, analysis: { kind: 'operating point' } })
  expect(instead.circuits[0]?.checks.map(({ analysis }) => analysis.kind)).toEqual(['operating point'])
})
