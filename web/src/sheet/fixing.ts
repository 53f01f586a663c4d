import type { Board, Check, Choice, Circuit, Fixture } from '@/api/client'

/** Edits of what stands outside the board edge. */

function withCheck(board: Board, circuit: string, check: string, change: (check: Check) => Check): Board {
  return {
    ...board,
    circuits: board.circuits.map((other) =>
      other.id === circuit ? { ...other, checks: other.checks.map((each) => (each.id === check ? change(each) : each)) } : other,
    ),
  }
}

/** A check's identifier that no other check of the board has. */
function freeCheckId(board: Board, wished: string): string {
  const used = new Set(board.circuits.flatMap((circuit) => circuit.checks.map(({ id }) => id)))
  let k = 1
  let id = wished
  while (used.has(id)) id = `${wished}-${(k += 1)}`
  return id
}

const NAMES = { supply: 'supply', source: 'source', load: 'load' } as const

/** A typed supply, source or load as a fixture, with a name that is free. */
function fixtureOf(choice: Choice, present: readonly Fixture[]): Fixture {
  const kind = choice.what as keyof typeof NAMES
  let name: string = NAMES[kind]
  for (let k = 2; present.some((other) => other.name === name); k++) name = `${NAMES[kind]}-${k}`
  const shared = { name, plus: choice.net, minus: 'gnd' }
  if (kind === 'supply') return { kind, ...shared, volts: choice.text }
  if (kind === 'source') return { kind, ...shared, dc: '0', ac: '1', resistance: choice.text }
  return { kind, ...shared, resistance: choice.text }
}

/** A fixture added to a check; a circuit without one gets a check of its operating point. */
export function withFixture(board: Board, circuit: Circuit, check: string | undefined, choice: Choice): Board {
  if (check) return withCheck(board, circuit.id, check, (old) => ({ ...old, fixtures: [...old.fixtures, fixtureOf(choice, old.fixtures)] }))
  const first: Check = {
    id: freeCheckId(board, `${circuit.id}-point`), title: 'Operating point', fixtures: [fixtureOf(choice, [])],
    analysis: { kind: 'operating point' }, measurements: [],
  }
  return { ...board, circuits: board.circuits.map((other) => (other.id === circuit.id ? { ...other, checks: [...other.checks, first] } : other)) }
}

export function withoutFixture(board: Board, circuit: string, check: string, name: string): Board {
  return withCheck(board, circuit, check, (old) => ({ ...old, fixtures: old.fixtures.filter((fixture) => fixture.name !== name) }))
}

/** One field of a fixture, such as `geophone.ac`. */
export function withFixtureField(board: Board, circuit: string, check: string, what: string, value: string): Board {
  const [name = '', field = ''] = what.split('.')
  return withCheck(board, circuit, check, (old) => ({
    ...old, fixtures: old.fixtures.map((fixture) => (fixture.name === name ? { ...fixture, [field]: value } : fixture)),
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

/** A frequency response with the same fixture as another check: what comes out at `output`, over the source's volts. */
export function withResponse(board: Board, circuit: string, from: Check, source: string, output: string): Board {
  const check: Check = {
    id: freeCheckId(board, `${circuit}-response`), title: 'Frequency response', fixtures: from.fixtures, source, output,
    analysis: { kind: 'frequency response', start: '1', stop: '1M', points_per_decade: 50 },
    measurements: [{ id: 'gain', key: 'passband_gain', hand: null }, { id: 'cutoff', key: 'upper_cutoff', hand: null }],
  }
  return { ...board, circuits: board.circuits.map((other) => (other.id === circuit ? { ...other, checks: [...other.checks, check] } : other)) }
}
