import type { Board, Check, Circuit, StageComputed } from '@/api/client'
import { studiesWithout } from '@/stores/edits'
import { withOwnedSpreads } from '@/stores/spreads'

/** Edits of checks: what is tried on a circuit, and what stands around it. */

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

export const netsOf = (circuit: Circuit) => [...new Set(circuit.parts.flatMap((part) => Object.values(part.pins) as string[]))].filter((net) => net !== 'gnd').sort()

/** A check that the service has made, added to its circuit or put in place of the one it was made from. */
export function withFreshCheck(board: Board, circuit: string, check: Check): Board {
  const has = board.circuits.some(({ checks }) => checks.some(({ id }) => id === check.id))
  return has ? withCheck(board, check.id, () => check) : withCheckIn(board, circuit, check)
}

/** A copy of a check, for the same circuit or for another one of the board. */
export function withCopiedCheck(board: Board, check: Check, circuit: string): { board: Board; id: string } {
  const home = board.circuits.find(({ id }) => id === circuit)
  if (!home) throw new Error('The circuit is gone.')
  const nets = new Set([...netsOf(home), 'gnd'])
  const output = 'output' in check.analysis ? check.analysis.output : null
  const lost = [...check.fixtures.flatMap(({ plus, minus }) => [plus, minus]), output].find((net) => net && !nets.has(net))
  if (lost) throw new Error(`${home.title} has no net ${lost}, which the check is attached to. Name one so, then copy it again.`)
  const id = freeCheckId(board, `${circuit}-${check.analysis.kind.replaceAll(' ', '-')}`)
  return { board: withCheckIn(board, circuit, { ...check, id, title: freeTitle(home, check.title) }), id }
}

function withCheckIn(board: Board, circuit: string, check: Check): Board {
  return { ...board, circuits: board.circuits.map((each) => (each.id === circuit ? { ...each, checks: [...each.checks, check] } : each)) }
}

/** A board without a check, and without the studies and limits that spoke of it. */
export function withoutCheck(board: Board, check: string): Board {
  return withOwnedSpreads({
    ...board,
    circuits: board.circuits.map((circuit) => ({ ...circuit, checks: circuit.checks.filter(({ id }) => id !== check) })),
    studies: studiesWithout(board.studies, (id) => id === check),
    limits: board.limits.filter((limit) => limit.check !== check),
  })
}

/** What would go with a check, in words; empty for nothing. */
export function goesWith(board: Board, check: string): string {
  const rest = withoutCheck(board, check)
  const [limits, studies, spreads] = [board.limits.length - rest.limits.length, board.studies.length - rest.studies.length, board.spreads.length - rest.spreads.length]
  const words = [[limits, 'limit', 'limits'], [studies, 'study', 'studies'], [spreads, 'spread', 'spreads']].flatMap(([n, one, many]) => (n ? [`${n} ${n === 1 ? one : many}`] : []))
  return words.length ? `${words.join(' and ')} ${limits + studies + spreads === 1 ? 'goes' : 'go'} with it` : ''
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

/** A circuit with the bench of the stage that it holds: its check, and what is held on it, under names that are free. Hand
 * values name the stage's parts as they came to be called.
 */
export function withBench(board: Board, circuit: string, { bench, parts }: StageComputed): Board {
  if (!bench) return board
  const placed = board.circuits.find(({ id }) => id === circuit)?.parts ?? []
  const names = new Map(parts.map(({ designator }, k) => [designator, placed[k]?.designator ?? designator]))
  const renamed = (formula: string) => formula.replace(/[A-Za-z_]\w*/g, (word) => names.get(word) ?? word)
  const measurements = (bench.check as Check).measurements.map((each) => (each.hand ? { ...each, hand: { ...each.hand, formula: renamed(each.hand.formula) } } : each))
  const check = { ...bench.check, measurements, id: freeCheckId(board, `${circuit}-${bench.check.id}`) } as Check
  const next = withFreshCheck(board, circuit, check)
  const limits = bench.limits.map(({ measurement, lower, upper, reason }, k) => ({ id: `${check.id}-${k + 1}`, check: check.id, measurement, lower, upper, reason }))
  return { ...next, limits: [...next.limits, ...limits] }
}
