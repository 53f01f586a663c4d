import type { Board, Check, Circuit, Quantity } from '@/api/client'
import type { Choice } from '@/forms/fields'
import { netByEnd } from '@/sheet/ends'
import { netsOf } from './checkEdits'

const plain = (names: readonly string[]): Choice[] => names.map((value) => ({ value, title: value }))
const told = (quantities: readonly Quantity[]): Choice[] => quantities.map(({ name, text, unit }) => ({ value: name, title: `${name}, ${text}${unit.replace(/^1(?=[/])/, '')}` }))

/** What a setting of a check or of a fixture can name. */
export function choicesOf(circuit: Circuit, check: Check, quantities: readonly Quantity[]) {
  return (what: string): Choice[] => {
    if (what === 'net') return plain(netsOf(circuit))
    if (what === 'terminal') return plain(['gnd', ...netsOf(circuit)])
    if (what === 'pin') return plain([...netByEnd(circuit.parts).keys()])
    if (what === 'driver') return plain(check.fixtures.filter(({ kind }) => kind === 'source' || kind === 'port').map(({ name }) => name))
    return told(what === 'swept' ? quantities.filter(({ swept }) => swept) : quantities)
  }
}

/** What a setting of a study can name: checks of the board, and the quantities of the first that it covers. */
export function studyChoices(board: Board, quantities: readonly Quantity[]) {
  return (what: string): Choice[] => {
    if (what !== 'check') return told(quantities)
    const all = board.circuits.flatMap((circuit) => circuit.checks.map((check) => ({ circuit, check })))
    return all.map(({ circuit, check }) => ({ value: check.id, title: board.circuits.length > 1 ? `${circuit.title}: ${check.title}` : check.title }))
  }
}
