import { describe, expect, it } from 'vitest'
import type { Board } from '@/api/client'
import told from '../../../tests/core/spreads/told.json'
import { amountText, bought, contributionOf, ownerOf, withContribution, withOwnedSpreads } from './spreads'

describe('a spread', () => {
  it('keeps its other contributions when one is given, replaced or taken away', () => {
    const aged = withContribution('R1', bought('R1', '1'), 'ageing', { amount: '2', distribution: 'normal', form: null })
    expect(aged?.contributions.map(({ contributor }) => contributor)).toEqual(['purchase', 'ageing'])
    const tighter = withContribution('R1', aged ?? undefined, 'purchase', { amount: '0.1', distribution: 'uniform', form: null })
    expect(contributionOf(tighter ?? undefined, 'purchase')?.amount).toBe('0.1')
    expect(withContribution('R1', tighter ?? undefined, 'ageing', null)).toEqual(bought('R1', '0.1'))
    expect(withContribution('R1', bought('R1', '1'), 'purchase', null)).toBeNull()
  })

  it('belongs to a part or a fixture', () => {
    expect(['R1', 'geophone.resistance'].map((of) => ownerOf(bought(of, '1')))).toEqual(['R1', 'geophone'])
  })

  it('goes with the last part or fixture that it belongs to', () => {
    const check = (...names: string[]) => ({ fixtures: names.map((name) => ({ name })) })
    const board = (...checks: unknown[]) => ({ circuits: [{ parts: [{ designator: 'R1' }], checks }], spreads: [bought('R1', '1'), bought('R2', '1'), bought('load', '5')] }) as unknown as Board
    expect(withOwnedSpreads(board(check('load'), check())).spreads.map(({ of }) => of)).toEqual(['R1', 'load'])
    expect(withOwnedSpreads(board(check())).spreads.map(({ of }) => of)).toEqual(['R1'])
  })

  it('has an amount that is read as it was meant', () => {
    // The cases of the core, which tells the same in the parts list.
    for (const [text, words] of told as [string, string][]) expect(amountText(text)).toBe(words)
  })
})
