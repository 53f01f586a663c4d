import type { CheckCard } from '@/api/client'
import { expect, it } from 'vitest'
import { subjectOf, withoutTrace, withTrace } from './cardEdits'

const card = (id: string, ...expressions: string[]): CheckCard => ({ id, title: id, curves: expressions.map((expression) => ({ expression, pane: 0 })), shape: 'axis', hidden: false })

it('a trace joins the card that was used last, once', () => {
  const cards = [card('a', 'v(in)'), card('b')]
  const once = withTrace(cards, 'v(out)', 'b')
  expect(once[1]?.curves.map(({ expression }) => expression)).toEqual(['v(out)'])
  expect(withTrace(once, 'v(out)', 'b')).toBe(once)
  expect(withTrace(cards, 'v(out)', null)[0]?.curves).toHaveLength(2)
  expect(withTrace([], 'v(out)', null)[0]).toMatchObject({ id: 'card-1', title: 'v(out)' })
  const shares = { ...card('s'), shape: 'shares' as const }
  expect(withTrace([shares], 'v(out)', 's').map(({ shape }) => shape)).toEqual(['shares', 'axis'])
  expect(withTrace([shares, ...cards], 'v(out)', 's')[1]?.curves).toHaveLength(2)
  expect(withoutTrace(once, 'b', 'v(out)')[1]?.curves).toEqual([])
})

it('a card speaks of what its first curve looks at', () => {
  expect(subjectOf(card('a', 'db(v(in))', 'v(out,fb)'), null)).toEqual({ net: 'in' })
  expect(subjectOf(card('a', 'rms(i(R1.2))'), null)).toEqual({ part: 'R1' })
  expect(subjectOf(card('a', 'db(response)'), { net: 'out' })).toEqual({ net: 'out' })
  expect(subjectOf(card('a', 'time'), null)).toBeNull()
  expect(subjectOf(card('a'), { net: 'out' })).toEqual({ net: 'out' })
})

