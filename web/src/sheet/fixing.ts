import type { Analysis, Board, Check, Choice, Circuit, Fixture, Waveform } from '@/api/client'
import { freeCheckId, withCheck } from '@/experiments/checkEdits'
import { freeFixtureName } from '@/experiments/fixtureKinds'

/** Edits of what stands outside the board edge. */

/** A typed supply, source or load as a fixture, with a name that is free. */
function fixtureOf(choice: Choice, present: readonly Fixture[]): Fixture {
  const kind = choice.what as 'supply' | 'source' | 'load'
  const shared = { name: freeFixtureName(present, kind), plus: choice.net, minus: 'gnd' }
  if (kind === 'supply') return { kind, ...shared, volts: choice.text }
  if (kind === 'source') return { kind, ...shared, quantity: 'voltage', dc: '0', ac: '1', phase: '0', resistance: choice.text }
  return { kind, ...shared, resistance: choice.text }
}

/** A fixture added to a check; a circuit without one gets a check of its operating point. */
export function withFixture(board: Board, circuit: Circuit, check: string | undefined, make: (present: readonly Fixture[]) => Fixture): Board {
  if (check) return withCheck(board, check, (old) => ({ ...old, fixtures: [...old.fixtures, make(old.fixtures)] }))
  const first: Check = {
    id: freeCheckId(board, `${circuit.id}-point`), title: 'Operating point', fixtures: [make([])],
    analysis: { kind: 'operating point' }, temperature: '27', measurements: [],
  }
  return { ...board, circuits: board.circuits.map((other) => (other.id === circuit.id ? { ...other, checks: [...other.checks, first] } : other)) }
}

export const withTypedFixture = (board: Board, circuit: Circuit, check: string | undefined, choice: Choice) =>
  withFixture(board, circuit, check, (present) => fixtureOf(choice, present))

export function withoutFixture(board: Board, check: string, name: string): Board {
  return withCheck(board, check, (old) => ({ ...old, fixtures: old.fixtures.filter((fixture) => fixture.name !== name) }))
}

/** A fixture in another form; what refers to it by its name goes along with a new one. */
export function withFixtureChanged(board: Board, check: string, name: string, next: Fixture): Board {
  return withCheck(board, check, (old) => ({
    ...old, fixtures: old.fixtures.map((fixture) => (fixture.name === name ? next : fixture)),
    analysis: analysisRenamed(old.analysis, name, next.name),
    measurements: old.measurements.map((measurement) => (measurement.hand ? { ...measurement, hand: renamedHand(measurement.hand, name, next.name) } : measurement)),
  }))
}

/** What drives a check, or is swept in it, under its new name. */
function analysisRenamed(analysis: Analysis, from: string, to: string): Analysis {
  const called = (what: string | null | undefined) => (what === from ? to : what?.startsWith(`${from}.`) ? to + what.slice(from.length) : what)
  const named = Object.entries(analysis).map(([key, value]) => [key, key === 'source' || key === 'over' ? called(value as string | null) : value])
  return Object.fromEntries(named) as Analysis
}

function renamedHand<Hand extends { inputs: Record<string, string> }>(hand: Hand, from: string, to: string): Hand {
  const inputs = Object.entries(hand.inputs).map(([symbol, what]) => [symbol, what.startsWith(`${from}.`) ? to + what.slice(from.length) : what])
  return { ...hand, inputs: Object.fromEntries(inputs) as Record<string, string> }
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
