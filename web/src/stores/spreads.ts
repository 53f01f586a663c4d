import type { Board, Spread } from '@/api/client'

/** Spreads: how a quantity differs, for one reason or several. */
export type Contribution = Spread['contributions'][number]

/** The part or fixture that a spread's quantity belongs to. */
export const ownerOf = ({ of }: Spread) => of.split('.')[0] ?? of

/** A board without spreads of what it has no longer. */
export function withOwnedSpreads(board: Board): Board {
  const owners = new Set(board.circuits.flatMap(({ parts, checks }) => [...parts.map(({ designator }) => designator), ...checks.flatMap(({ fixtures }) => fixtures.map(({ name }) => name))]))
  const stays = (spread: Spread) => owners.has(ownerOf(spread))
  return board.spreads.every(stays) ? board : { ...board, spreads: board.spreads.filter(stays) }
}

export const contributionOf = (spread: Spread | undefined, contributor: string) => spread?.contributions.find((each) => each.contributor === contributor)

/** A spread with one contribution replaced, or taken away by null; null where nothing is left of it. */
export function withContribution(of: string, spread: Spread | undefined, contributor: string, change: Omit<Contribution, 'contributor'> | null): Spread | null {
  const present = spread?.contributions ?? []
  const known = present.some((each) => each.contributor === contributor)
  const kept = present.flatMap((each) => (each.contributor !== contributor ? [each] : change ? [{ contributor, ...change }] : []))
  const contributions = change && !known ? [...kept, { contributor, ...change }] : kept
  return contributions.length ? { of, contributions, group: spread?.group ?? null } : null
}

/** A spread as one bought with an amount as it is typed: "1" is per cent, both ways. */
export const bought = (of: string, amount: string): Spread => ({ of, contributions: [{ contributor: 'purchase', amount, distribution: 'uniform', form: null }], group: null })

/** An amount as it is read aloud: a mere number is per cent, and what has no sign goes both ways. */
export function amountText(amount: string): string {
  const text = amount.trim().replace(/^±\s*/, '')
  const signed = /^[-+−]/.test(text) ? text : `±${text}`
  return /\d$/.test(text) && !/[a-zµ]/i.test(text.replace(/e[-+]?\d/gi, '')) ? `${signed} %` : signed
}
