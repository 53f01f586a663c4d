import type { Board, Check, Circuit } from '@/api/client'
import type { Choice } from '@/forms/fields'
import { netsOf } from './checkEdits'

const plain = (names: readonly string[]): Choice[] => names.map((value) => ({ value, title: value }))

/** What a setting of a check can name. */
export function choicesOf(circuit: Circuit, check: Check) {
  return (what: string): Choice[] => {
    if (what === 'net') return plain(netsOf(circuit))
    if (what === 'driver') return plain(check.fixtures.filter(({ kind }) => kind === 'source' || kind === 'port').map(({ name }) => name))
    return plain(quantitiesOf(circuit, [check]))
  }
}

/** What a setting of a study can name: checks of the board, and quantities that all of those it covers have. */
export function studyChoices(board: Board, covered: readonly string[]) {
  return (what: string): Choice[] => {
    const all = board.circuits.flatMap((circuit) => circuit.checks.map((check) => ({ circuit, check })))
    if (what === 'check') return all.map(({ circuit, check }) => ({ value: check.id, title: board.circuits.length > 1 ? `${circuit.title}: ${check.title}` : check.title }))
    const own = all.filter(({ check }) => covered.includes(check.id)).map(({ circuit, check }) => quantitiesOf(circuit, [check]))
    const [first = [], ...others] = own
    return plain(first.filter((name) => others.every((names) => names.includes(name))))
  }
}

function quantitiesOf(circuit: Circuit, checks: readonly Check[]): string[] {
  return [
    'temperature', ...checks.flatMap(({ fixtures }) => fixtures.filter(({ kind }) => kind !== 'written source').map(({ name }) => name)),
    ...circuit.parts.filter((part) => 'value' in part).map(({ designator }) => designator),
  ]
}
