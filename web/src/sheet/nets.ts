import type { Analysis, Check, Part } from '@/api/client'
import { isPin, netByEnd, withNets, type Drawn } from './ends'
import { outputOf } from '@/cards/cardEdits'
import { netsOfText, withNetsOfText } from './statementText'

/** Something that is not done, with the reason in words for the designer. */
export class Refusal extends Error {}

const UNNAMED = /^n(\d+)$/
/** Whether a net has the name that it was given by itself. */
export const isUnnamed = (net: string) => UNNAMED.test(net)

/** The ends that wires and equal names connect, group by group: pins and marks, joints left out. */
export function groupsOf(circuit: Drawn): string[][] {
  const leader = new Map<string, string>()
  const find = (end: string): string => {
    let at = end
    for (let up = leader.get(at); up !== undefined && up !== at; up = leader.get(at)) at = up
    let from = end
    for (let up = leader.get(from); up !== undefined && up !== at; up = leader.get(from)) {
      leader.set(from, at)
      from = up
    }
    return at
  }
  const join = (a: string, b: string) => leader.set(find(a), find(b))
  const ends = [...netByEnd(circuit.parts).keys(), ...circuit.drawing.marks.map(({ id }) => id)]
  for (const end of [...ends, ...circuit.drawing.joints.map(({ id }) => id)]) leader.set(end, end)
  for (const wire of circuit.drawing.wires) join(wire.ends[0], wire.ends[1])
  const first = new Map<string, string>()
  for (const { id, net } of circuit.drawing.marks) {
    const other = first.get(net)
    if (other) join(id, other)
    else first.set(net, id)
  }
  const groups = new Map<string, string[]>()
  for (const end of ends) {
    const at = find(end)
    const group = groups.get(at)
    if (group) group.push(end)
    else groups.set(at, [end])
  }
  return [...groups.values()]
}

/** Names that something besides pins knows a net by: checks, and statements that name it in their text. */
function keptNames(circuit: Drawn): Set<string> {
  const kept = new Set<string>()
  const spelled = new Map([...netByEnd(circuit.parts).values()].map((net) => [net.toLowerCase(), net]))
  for (const check of circuit.checks) {
    for (const fixture of check.fixtures) kept.add(fixture.plus).add(fixture.minus)
    const output = outputOf(check)
    if (output) kept.add(output)
  }
  for (const part of circuit.parts) {
    if (part.kind === 'statement') for (const net of netsOfText(part.designator, part.text)) kept.add(spelled.get(net.toLowerCase()) ?? net)
  }
  return kept
}

/**
 * The nets that the drawing shows, written into the parts. A net keeps its name as long as a piece of it is left, the
 * largest one where it falls apart; what is new is numbered. Refuses to connect two nets that both have a name.
 */
export function renet(circuit: Drawn): Drawn {
  const before = netByEnd(circuit.parts)
  const marks = new Map(circuit.drawing.marks.map((mark) => [mark.id, mark.net]))
  const kept = keptNames(circuit)
  const used = new Set<string>()
  const nets = new Map<string, string>()
  const give = (group: string[], net: string) => {
    used.add(net)
    for (const end of group) if (isPin(end)) nets.set(end, net)
  }
  const groups = groupsOf(circuit)
  const unmarked: string[][] = []
  for (const group of groups) {
    const names = new Set(group.flatMap((end) => marks.get(end) ?? []))
    if (names.size > 1) {
      const [one, other] = [...names].sort((a, b) => Number(b === 'gnd') - Number(a === 'gnd'))
      throw new Refusal(`${one} and ${other} are two nets by name. Remove one of the names first to make them one.`)
    }
    const [net] = names
    if (net !== undefined) give(group, net)
    else unmarked.push(group)
  }
  const fresh: string[][] = []
  for (const group of unmarked.sort((a, b) => b.length - a.length)) {
    const counts = new Map<string, number>()
    for (const end of group) {
      const net = before.get(end)
      if (net && net !== 'gnd' && !used.has(net)) counts.set(net, (counts.get(net) ?? 0) + 1)
    }
    const rank = (net: string) => (kept.has(net) ? 2 : 0) + (isUnnamed(net) ? 0 : 1)
    const [best] = [...counts].sort(([a, n], [b, m]) => rank(b) - rank(a) || m - n || number(a) - number(b))
    if (best) give(group, best[0])
    else fresh.push(group)
  }
  let next = 1
  for (const group of fresh) {
    while (used.has(`n${next}`) || kept.has(`n${next}`)) next += 1
    give(group, `n${next}`)
  }
  const renamed = new Map<string, string>()
  for (const [end, net] of before) {
    const now = nets.get(end)
    // Ground is where its sign stands: what returns to it does not go along with a net that has lost the sign.
    if (now !== undefined && now !== net && net !== 'gnd' && !used.has(net) && kept.has(net)) renamed.set(net, now)
  }
  const changed = [...nets].some(([end, net]) => before.get(end) !== net)
  const parts = changed ? circuit.parts.map((part) => renettedPart(part, nets, before)) : circuit.parts
  return withReferences({ ...circuit, parts }, renamed)
}

const number = (net: string) => Number(UNNAMED.exec(net)?.[1] ?? 0)

function renettedPart(part: Part, nets: ReadonlyMap<string, string>, before: ReadonlyMap<string, string>): Part {
  const next = withNets(part, nets)
  const [was, is] = [netByEnd([part]), netByEnd([next])]
  return [...is].some(([end, net]) => was.get(end) !== net || before.get(end) !== net) ? next : part
}

/** What names nets besides pins, with some of the nets called otherwise. */
export function withReferences(circuit: Drawn, names: ReadonlyMap<string, string>): Drawn {
  if (!names.size) return circuit
  const to = (net: string) => names.get(net) ?? net
  const written = new Map([...names].map(([old, net]) => [old.toLowerCase(), net]))
  const check = (old: Check): Check => ({
    ...old,
    analysis: 'output' in old.analysis && old.analysis.output ? ({ ...old.analysis, output: to(old.analysis.output) } as Analysis) : old.analysis,
    fixtures: old.fixtures.map((fixture) => ({ ...fixture, plus: to(fixture.plus), minus: to(fixture.minus) })),
  })
  const parts = circuit.parts.map((part) =>
    part.kind === 'statement'
      ? { ...part, text: withNetsOfText(part.designator, part.text, (net) => written.get(net.toLowerCase()) ?? net) }
      : part,
  )
  return { ...circuit, parts, checks: circuit.checks.map(check) }
}

/** A net given another name, everywhere. */
export function renamedNet(circuit: Drawn, old: string, net: string): Drawn {
  if (old === net) return circuit
  if (!/^[A-Za-z0-9_+/-]{1,32}$/.test(net)) throw new Refusal('A net’s name is one word of letters, digits and _ + / -.')
  const taken = new Set([...netByEnd(circuit.parts).values(), ...circuit.drawing.marks.map((mark) => mark.net)])
  if (taken.has(net)) throw new Refusal(`There is a net ${net} already. Draw a wire to join the two.`)
  if (old === 'gnd') throw new Refusal('Ground is called gnd.')
  const nets = new Map([...netByEnd(circuit.parts)].filter(([, name]) => name === old).map(([end]) => [end, net]))
  const drawing = { ...circuit.drawing, marks: circuit.drawing.marks.map((mark) => (mark.net === old ? { ...mark, net } : mark)) }
  const parts = circuit.parts.map((part) => withNets(part, nets))
  return withReferences({ ...circuit, parts, drawing }, new Map([[old, net]]))
}
