import type { Analysis, Board, Check, Circuit, Fixture } from '@/api/client'

/** Edits of checks: what is tried on a circuit, and what stands around it. */

export type Kind = Analysis['kind']

export const KIND_TITLES: Record<Kind, string> = {
  'operating point': 'Operating point', 'dc sweep': 'DC sweep', 'frequency response': 'Frequency response', transient: 'Transient',
}

export function withCheck(board: Board, check: string, change: (check: Check) => Check): Board {
  return {
    ...board,
    circuits: board.circuits.map((circuit) => ({ ...circuit, checks: circuit.checks.map((each) => (each.id === check ? change(each) : each)) })),
  }
}

/** A check's identifier that no other check of the board has. */
export function freeCheckId(board: Board, wished: string): string {
  const used = new Set(board.circuits.flatMap((circuit) => circuit.checks.map(({ id }) => id)))
  const base = wished.slice(0, 58)
  let k = 1
  let id = base
  while (used.has(id)) id = `${base}-${(k += 1)}`
  return id
}

/** A title that no other check of the circuit has. */
function freeTitle(circuit: Circuit, wished: string): string {
  const used = new Set(circuit.checks.map(({ title }) => title))
  let k = 1
  let title = wished
  while (used.has(title)) title = `${wished} ${(k += 1)}`
  return title.slice(0, 120)
}

const ANALYSES: Record<Kind, Analysis> = {
  'operating point': { kind: 'operating point' },
  'dc sweep': { kind: 'dc sweep', points: 201, and_back: false },
  'frequency response': { kind: 'frequency response', points_per_decade: 50 },
  transient: { kind: 'transient', since: '0', begin: 'operating point' },
}

/** What can drive a frequency response. */
export const drivers = (fixtures: readonly Fixture[]) => fixtures.filter(({ kind }) => kind === 'source' || kind === 'port').map(({ name }) => name)

export const netsOf = (circuit: Circuit) => [...new Set(circuit.parts.flatMap((part) => Object.values(part.pins) as string[]))].filter((net) => net !== 'gnd').sort()

/** The net that is most likely looked at: one that is called an output, that of a load, or the last. */
function likelyOutput(circuit: Circuit, fixtures: readonly Fixture[]): string | null {
  const nets = netsOf(circuit)
  const loaded = fixtures.find(({ kind }) => kind === 'load')?.plus
  return nets.find((net) => /out/i.test(net)) ?? loaded ?? nets.at(-1) ?? null
}

/** A check given another analysis; what only the former one could measure goes. */
export function withAnalysis(circuit: Circuit, check: Check, kind: Kind): Check {
  const next: Check = { ...check, analysis: ANALYSES[kind], cards: null }
  if (kind !== 'frequency response') return { ...next, measurements: check.measurements.filter(({ of }) => of !== 'response') }
  const [source] = drivers(check.fixtures)
  const output = check.output ?? likelyOutput(circuit, check.fixtures)
  if (!check.source && !source) throw new Error('A frequency response needs a source: type source in 50, or draw from a net across the board edge.')
  if (!output) throw new Error('The circuit has no net to look at yet.')
  return {
    ...next, source: check.source ?? source ?? null, output,
    measurements: [...check.measurements, { id: 'gain', key: 'passband_gain', of: 'response' }, { id: 'cutoff', key: 'upper_cutoff', of: 'response' }]
      .filter(({ id }, k, all) => all.findIndex((other) => other.id === id) === k),
  }
}

/** A new check, with the fixture of another one where there is one. */
export function withNewCheck(board: Board, circuit: string, kind: Kind, from: Check | undefined): { board: Board; id: string } {
  const home = board.circuits.find(({ id }) => id === circuit)
  if (!home) throw new Error('The circuit is gone.')
  const id = freeCheckId(board, `${circuit}-${kind.replaceAll(' ', '-')}`)
  const blank: Check = {
    id, title: freeTitle(home, KIND_TITLES[kind]), fixtures: from?.fixtures ?? [], temperature: from?.temperature ?? '27',
    analysis: { kind: 'operating point' }, measurements: [], output: from?.output ?? null, source: from?.source ?? null,
  }
  return { board: withCheckIn(board, circuit, withAnalysis(home, blank, kind)), id }
}

/** A copy of a check, for the same circuit or for another one of the board. */
export function withCopiedCheck(board: Board, check: Check, circuit: string): { board: Board; id: string } {
  const home = board.circuits.find(({ id }) => id === circuit)
  if (!home) throw new Error('The circuit is gone.')
  const nets = new Set([...netsOf(home), 'gnd'])
  const lost = [...check.fixtures.flatMap(({ plus, minus }) => [plus, minus]), check.output].find((net) => net && !nets.has(net))
  if (lost) throw new Error(`${home.title} has no net ${lost}, which the check is attached to. Name one so, then copy it again.`)
  const id = freeCheckId(board, `${circuit}-${check.analysis.kind.replaceAll(' ', '-')}`)
  return { board: withCheckIn(board, circuit, { ...check, id, title: freeTitle(home, check.title) }), id }
}

function withCheckIn(board: Board, circuit: string, check: Check): Board {
  return { ...board, circuits: board.circuits.map((each) => (each.id === circuit ? { ...each, checks: [...each.checks, check] } : each)) }
}

/** A board without a check, and without the studies and limits that spoke of it. */
export function withoutCheck(board: Board, check: string): Board {
  return {
    ...board,
    circuits: board.circuits.map((circuit) => ({ ...circuit, checks: circuit.checks.filter(({ id }) => id !== check) })),
    studies: board.studies.filter((study) => study.check !== check),
    limits: board.limits.filter((limit) => limit.check !== check),
  }
}

/** A check without one of its measurements; limits on it go too. */
export function withoutMeasurement(board: Board, check: string, measurement: string): Board {
  const next = withCheck(board, check, (old) => ({ ...old, measurements: old.measurements.filter(({ id }) => id !== measurement) }))
  return { ...next, limits: next.limits.filter((limit) => limit.check !== check || limit.measurement !== measurement) }
}

/** A measurement's identifier that no other one of the check has. */
export function freeMeasurementId(check: Check, key: string): string {
  const base = key.replaceAll('_', '-')
  let k = 1
  let id = base
  while (check.measurements.some((other) => other.id === id)) id = `${base}-${(k += 1)}`
  return id
}
