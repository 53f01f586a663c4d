import type { Board } from '@/api/client'
import { ownerOf } from './spreads'

/** What goes with parts or fixtures that are removed, and what is left with nothing to speak of; empty where nothing is. */
export function leavingWith(board: Board, names: ReadonlySet<string>): string {
  const spreads = board.spreads.filter((spread) => names.has(ownerOf(spread))).length
  const speaks = (text: string) => [...text.matchAll(/\b[ip]\s*\(\s*([A-Za-z][\w-]*)/gi)].some(([, name = '']) => names.has(name) || names.has(name.toUpperCase()))
  const owned = (what: string | null | undefined) => what !== null && what !== undefined && names.has(what.split('.')[0] ?? '')
  const named = (formula: string) => [...formula.matchAll(/"([^"]+)"|([a-z_][\w.]*)/gi)].map(([, quoted, bare]) => quoted ?? bare)
  const measurements = board.circuits.flatMap(({ checks }) => checks.flatMap((check) => check.measurements.filter(({ of, hand }) => speaks(of) || named(hand?.formula ?? '').some(owned))))
  const studies = board.studies.filter((study) => owned((study as { over?: string | null }).over))
  const loops = board.circuits.flatMap(({ checks }) => checks.filter(({ analysis }) => 'around' in analysis && owned(analysis.around)))
  const titles = [...loops.map(({ title }) => title), ...measurements.map(({ key, of }) => `${key.replaceAll('_', ' ')} of ${of}`), ...studies.map(({ title }) => title)]
  return [
    ...(spreads ? [`${spreads === 1 ? 'its spread goes' : `${spreads} spreads go`} with it`] : []),
    ...(titles.length ? [`${titles.map((title) => `“${title}”`).join(', ')} ${titles.length === 1 ? 'speaks' : 'speak'} of what is gone`] : []),
  ].join('; ')
}
