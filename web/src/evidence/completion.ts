import type { Check, Circuit, FormulaName, Vocabulary } from '@/api/client'
import { netByEnd } from '@/sheet/ends'

/** What can be written at a place of an expression. */
export interface Offer {
  /** What is inserted. */
  text: string
  meaning: string
  /** How many signs before the caret it takes the place of. */
  instead: number
}

const MOST = 8

/** Offers for the word before the caret: nets inside v(...), pins inside i(...), parts inside p(...), functions and the check's own traces elsewhere. */
export function offers(text: string, caret: number, circuit: Circuit, check: Check, vocabulary: Vocabulary | undefined, traces: readonly string[]): Offer[] {
  const head = text.slice(0, caret)
  const probe = /([vip])\s*\(\s*(?:[^\s(),]+\s*,\s*)?([^\s(),]*)$/i.exec(head)
  if (probe) {
    const [, kind = 'v', begun = ''] = probe
    const named = namesFor(kind.toLowerCase(), circuit, check)
    return begins(named, begun).map(([name, meaning]) => ({ text: `${name})`, meaning, instead: begun.length }))
  }
  const [begun = ''] = /[a-z_][\w.]*$/i.exec(head) ?? []
  const functions = (vocabulary?.functions ?? []).map(({ name, meaning }): [string, string] => [`${name}(`, meaning])
  const probes: [string, string][] = [['v(', 'volts of a net, or from one net to another'], ['i(', 'amperes into a pin'], ['p(', 'watts that a part takes']]
  const others = traces.map((name): [string, string] => [name, 'a trace of this check'])
  return begins([...probes, ...others, ...functions], begun).map(([name, meaning]) => ({ text: name, meaning, instead: begun.length }))
}

/** Offers for the word before the caret of a hand formula: what it can name, and functions of numbers. */
export function formulaOffers(text: string, caret: number, names: readonly FormulaName[], vocabulary: Vocabulary | undefined): Offer[] {
  const [begun = ''] = /("[^"]*|[a-z_][\w.]*)$/i.exec(text.slice(0, caret)) ?? []
  if (!begun || names.some(({ written }) => written === begun)) return []
  const known = names.map(({ written, text: value }): [string, string] => [written, value])
  const functions = (vocabulary?.functions ?? []).filter(({ of_numbers }) => of_numbers).map(({ name, meaning }): [string, string] => [`${name}(`, meaning])
  return begins([...known, ...functions], begun).map(([name, meaning]) => ({ text: name, meaning, instead: begun.length }))
}

function namesFor(kind: string, circuit: Circuit, check: Check): [string, string][] {
  const ends = [...netByEnd(circuit.parts)]
  if (kind === 'v') return [...new Set(ends.map(([, net]) => net))].sort().map((net) => [net, 'net'])
  if (kind === 'p') return circuit.parts.map(({ designator }) => [designator, 'part'])
  return [...ends.map(([end, net]): [string, string] => [end, `pin on ${net}`]), ...check.fixtures.map(({ name }): [string, string] => [name, 'fixture'])]
}

function begins(named: readonly [string, string][], begun: string): [string, string][] {
  const wanted = begun.toLowerCase()
  return named.filter(([name]) => name.toLowerCase().startsWith(wanted)).slice(0, MOST)
}
