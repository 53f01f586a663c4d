import type { Board, Check, Circuit, Quantity } from '@/api/client'
import type { Choice } from '@/forms/fields'
import { netsOf } from './checkEdits'

const plain = (names: readonly string[]): Choice[] => names.map((value) => ({ value, title: value }))

/** What a setting of a check can name. */
export function choicesOf(circuit: Circuit, check: Check) {
  return (what: string): Choice[] => {
    if (what === 'net') return plain(netsOf(circuit))
    if (what === 'driver') return plain(check.fixtures.filter(({ kind }) => kind === 'source' || kind === 'port').map(({ name }) => name))
    return plain(sweptAtRest(circuit, check))
  }
}

/** What a setting of a study can name: checks of the board, and the quantities of the first that it covers. */
export function studyChoices(board: Board, quantities: readonly Quantity[]) {
  return (what: string): Choice[] => {
    if (what !== 'check') return quantities.map(({ name, text, unit }) => ({ value: name, title: `${name}, ${text}${unit}` }))
    const all = board.circuits.flatMap((circuit) => circuit.checks.map((check) => ({ circuit, check })))
    return all.map(({ circuit, check }) => ({ value: check.id, title: board.circuits.length > 1 ? `${circuit.title}: ${check.title}` : check.title }))
  }
}

/** What can take one value after the other at rest. */
function sweptAtRest(circuit: Circuit, check: Check): string[] {
  return [
    'temperature', ...check.fixtures.filter(({ kind }) => kind !== 'written source').map(({ name }) => name),
    ...circuit.parts.filter((part) => 'value' in part).map(({ designator }) => designator),
  ]
}
