import type { Board, Check, Circuit, Fixture, Waveform } from '@/api/client'
import { withOwnedSpreads } from '@/stores/spreads'
import { freeCheckId, withCheck } from '@/experiments/checkEdits'

/** Edits of what stands outside the board edge. */

/** A name for a fixture that no other one of the check has. */
export function freeFixtureName(present: readonly Fixture[], wished: string): string {
  let name = wished
  for (let k = 2; present.some((other) => other.name === name); k += 1) name = `${wished}-${k}`
  return name
}

/** A fixture beside others: under a name that is free, a port with a number that is. */
function beside(present: readonly Fixture[], fixture: Fixture): Fixture {
  const named = { ...fixture, name: freeFixtureName(present, fixture.name) }
  if (named.kind !== 'port') return named
  const taken = present.map((other) => (other.kind === 'port' ? (other.number ?? 1) : 0))
  let number = named.number ?? 1
  while (taken.includes(number)) number += 1
  return { ...named, number }
}

/** A fixture added to a check under a name that is free; a circuit without a check gets one of its operating point. */
export function withFixture(board: Board, circuit: Circuit, check: string | undefined, fixture: Fixture): Board {
  if (check) return withCheck(board, check, (old) => ({ ...old, fixtures: [...old.fixtures, beside(old.fixtures, fixture)] }))
  const first: Check = {
    id: freeCheckId(board, `${circuit.id}-point`), title: 'Operating point', fixtures: [fixture],
    analysis: { kind: 'operating point' }, temperature: '27', measurements: [], overlays: [],
  }
  return { ...board, circuits: board.circuits.map((other) => (other.id === circuit.id ? { ...other, checks: [...other.checks, first] } : other)) }
}

/** A check without a fixture; its spreads go with the last fixture of that name. */
export function withoutFixture(board: Board, check: string, name: string): Board {
  return withOwnedSpreads(withCheck(board, check, (old) => ({ ...old, fixtures: old.fixtures.filter((fixture) => fixture.name !== name) })))
}

/** A fixture in another form, under the name that it has. */
export function withFixtureChanged(board: Board, check: string, next: Fixture): Board {
  return withCheck(board, check, (old) => ({ ...old, fixtures: old.fixtures.map((fixture) => (fixture.name === next.name ? next : fixture)) }))
}

/** One field of a fixture or of its waveform, such as `geophone.ac` or `geophone.frequency`. */
export function withFixtureField(board: Board, check: string, what: string, value: string): Board {
  const [name = '', field = ''] = what.split('.')
  return withCheck(board, check, (old) => ({
    ...old,
    fixtures: old.fixtures.map((fixture) => {
      if (fixture.name !== name) return fixture
      const waveform = fixture.kind === 'source' ? fixture.waveform : null
      if (waveform && field in waveform) return { ...fixture, waveform: { ...waveform, [field]: value } as Waveform } as Fixture
      return { ...fixture, [field]: value }
    }),
  }))
}

/** Where a fixture's field stands in the request that saves the board. */
export function fixturePath(board: Board, circuit: string, check: string, what: string): string {
  const [name = '', field = ''] = what.split('.')
  const c = board.circuits.findIndex(({ id }) => id === circuit)
  const k = board.circuits[c]?.checks.findIndex(({ id }) => id === check) ?? -1
  const f = board.circuits[c]?.checks[k]?.fixtures.findIndex((fixture) => fixture.name === name) ?? -1
  return `board.circuits.${c}.checks.${k}.fixtures.${f}.${field}`
}
