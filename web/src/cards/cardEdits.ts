import type { Board, Check, CheckCard, CheckView } from '@/api/client'

/** Edits of what is shown of a check. Cards that nobody chose yet are written down with the first edit. */

export function withCards(board: Board, check: string, change: (cards: CheckCard[]) => CheckCard[], shown: readonly CheckCard[]): Board {
  return {
    ...board,
    circuits: board.circuits.map((circuit) => ({
      ...circuit,
      checks: circuit.checks.map((each) => (each.id === check ? { ...each, cards: change([...(each.cards ?? shown)]) } : each)),
    })),
  }
}

export const withCard = (cards: CheckCard[], id: string, change: Partial<CheckCard>) =>
  cards.map((card) => (card.id === id ? { ...card, ...change } : card))

/** Whether a card shows curves, and so takes more of them. */
export const takesCurves = (card: CheckCard) => card.shape === 'axis' || card.shape === 'nyquist' || card.shape === 'polar'

/** An expression joins a card: the one that was named, or else the first that is seen; a new one where there is none. */
export function withTrace(cards: CheckCard[], expression: string, into: string | null): CheckCard[] {
  const plots = cards.filter(takesCurves)
  const target = plots.find(({ id }) => id === into) ?? plots.find(({ hidden }) => !hidden)
  if (!target) return [...cards, newCard(cards, expression)]
  if (target.curves.some((curve) => curve.expression === expression)) return cards
  return withCard(cards, target.id, { curves: [...target.curves, { expression, pane: 0 }] })
}

export function withoutTrace(cards: CheckCard[], id: string, expression: string): CheckCard[] {
  return cards.map((card) => (card.id === id ? { ...card, curves: card.curves.filter((curve) => curve.expression !== expression) } : card))
}

export function newCard(cards: readonly CheckCard[], expression?: string): CheckCard {
  let k = cards.length + 1
  while (cards.some(({ id }) => id === `card-${k}`)) k += 1
  return { id: `card-${k}`, title: expression ?? `Card ${k}`, curves: expression ? [{ expression, pane: 0 }] : [], shape: 'axis', hidden: false }
}

/** The net or part that a card speaks of: the first that its curves look at. */
export function subjectOf(card: CheckCard, about: { net?: string; part?: string } | null): { net?: string; part?: string } | null {
  for (const { expression } of card.curves) {
    const probe = /([vip])\s*\(\s*([^\s(),]+)/i.exec(expression)
    if (probe) return probe[1]?.toLowerCase() === 'v' ? { net: probe[2] ?? '' } : { part: (probe[2] ?? '').split('.')[0] ?? '' }
  }
  // Natural frequencies and waves are those of the whole circuit.
  return card.shape === 'poles' || card.shape === 'smith' ? null : about
}

/** The net that a check is about, where it names one. */
export const outputOf = (check: Check | undefined) => (check && 'output' in check.analysis ? check.analysis.output : null)

/** What a check is about: the net that it looks at, or the part whose loop it opens. */
export function subjectOfCheck(check: Check | undefined): { net?: string; part?: string } | null {
  const output = outputOf(check)
  if (output) return { net: output }
  if (check && 'around' in check.analysis) return { part: check.analysis.around.split('.')[0] ?? '' }
  return check && 'net' in check.analysis ? { net: check.analysis.net } : null
}

export const curveOf = (result: Pick<CheckView, 'curves'> | undefined, expression: string) => result?.curves.find((curve) => curve.expression === expression)
