import type { Check, Circuit, Fixture, Part } from '@/api/client'
import { emptyBlock, type Block, type Point } from './geometry'

/**
 * A circuit and its fixture cut into blocks: an amplifier with its feedback network is one block, each other part is
 * one. Parts to ground or to a supply stand upright; all others lie in the direction of the signal.
 */
export function blocksOf(circuit: Circuit, check: Check): Block[] {
  const rails = railsOf(check)
  const distance = distances(circuit, check, rails)
  const left = new Map(circuit.parts.map((part) => [part.designator, part]))
  const blocks: Block[] = []
  for (const part of circuit.parts) {
    if (part.kind !== 'modelled') continue
    left.delete(part.designator)
    blocks.push(isAmplifier(part) ? amplifierBlock(part, left, rails, netUsers(circuit, check)) : boxBlock(part))
  }
  for (const part of left.values()) blocks.push(partBlock(part as TwoPin, rails, distance))
  for (const fixture of check.fixtures) blocks.push(fixtureBlock(fixture))
  return blocks
}

type TwoPin = Exclude<Part, { kind: 'modelled' }>
type Modelled = Extract<Part, { kind: 'modelled' }>

const GROUND = 'gnd'

/** Nets that are ground or fed by a supply: drawn as symbols at each pin, not as wires. */
export function railsOf(check: Check): Set<string> {
  return new Set([GROUND, ...check.fixtures.filter((f) => f.kind === 'supply').map((f) => f.plus)])
}

function isAmplifier(part: Modelled): boolean {
  return ['in+', 'in-', 'out'].every((pin) => pin in part.pins)
}

/** The two nets of a two-pin part. */
function endsOf(part: TwoPin): [string, string] {
  const [first = '', second = ''] = part.pins
  return [first, second]
}

function netsOf(part: Part): string[] {
  return part.kind === 'modelled' ? Object.values(part.pins) : part.pins
}

function netUsers(circuit: Circuit, check: Check): (net: string) => number {
  const all = [...circuit.parts.flatMap(netsOf), ...check.fixtures.map((fixture) => fixture.plus)]
  return (net) => all.filter((other) => other === net).length
}

/** How many parts lie between a source and each net: the direction in which the drawing runs. */
function distances(circuit: Circuit, check: Check, rails: Set<string>): Map<string, number> {
  const found = new Map(check.fixtures.filter((f) => f.kind === 'source').map((f) => [f.plus, 0]))
  const queue = [...found.keys()]
  for (let net = queue.shift(); net !== undefined; net = queue.shift()) {
    for (const part of circuit.parts) {
      const nets = netsOf(part)
      if (!nets.includes(net)) continue
      for (const next of part.kind === 'modelled' ? [part.pins['out'] ?? net] : nets) {
        if (found.has(next) || rails.has(next)) continue
        found.set(next, (found.get(net) ?? 0) + 1)
        queue.push(next)
      }
    }
  }
  return found
}

/** A symbol for a rail below (ground, negative) or above (positive) the point where a pin ends. */
function addRail(block: Block, net: string, at: Point, upwards = false) {
  if (net === GROUND) block.symbols.push({ kind: 'ground', turned: false, ...at })
  else {
    block.symbols.push({ kind: 'rail', turned: upwards, ...at })
    block.texts.push({ text: net, role: 'note', anchor: 'middle', x: at.x, y: upwards ? at.y - 6 : at.y + 15 })
  }
}

/** Half the length of a two-pin symbol with its leads. */
export const REACH = 30

function partBlock(part: TwoPin, rails: Set<string>, distance: Map<string, number>): Block {
  const [first, second] = endsOf(part)
  if (rails.has(first) || rails.has(second)) return uprightBlock(part, rails)
  const forward = (distance.get(first) ?? Infinity) <= (distance.get(second) ?? Infinity)
  const [west, east] = forward ? [first, second] : [second, first]
  const block = emptyBlock(part.designator, 'board', 2 * REACH, 56)
  const y = 40
  block.symbols.push({ kind: part.kind, turned: false, x: REACH, y })
  block.texts.push({ text: part.designator, role: 'designator', anchor: 'middle', x: REACH, y: 9 })
  block.texts.push({ text: part.value, role: 'value', anchor: 'middle', x: REACH, y: 25, part: part.designator })
  block.ports.push({ id: `${part.designator}:west`, net: west, side: 'WEST', x: 0, y })
  block.ports.push({ id: `${part.designator}:east`, net: east, side: 'EAST', x: 2 * REACH, y })
  return block
}

function uprightBlock(part: TwoPin, rails: Set<string>): Block {
  const [first, second] = endsOf(part)
  const [top, bottom] = second === GROUND || !rails.has(first) ? [first, second] : [second, first]
  const onRails = rails.has(top)
  const lift = onRails ? 20 : 0
  const block = emptyBlock(part.designator, 'board', 84, lift + 2 * REACH + 24)
  const x = 20
  block.symbols.push({ kind: part.kind, turned: true, x, y: lift + REACH })
  addRail(block, bottom, { x, y: lift + 2 * REACH })
  if (onRails) addRail(block, top, { x, y: lift }, true)
  else block.ports.push({ id: `${part.designator}:north`, net: top, side: 'NORTH', x, y: 0 })
  block.texts.push({ text: part.designator, role: 'designator', anchor: 'start', x: x + 17, y: lift + REACH - 4 })
  block.texts.push({
    text: part.value, role: 'value', anchor: 'start', x: x + 17, y: lift + REACH + 13, part: part.designator,
  })
  return block
}

/** An amplifier with the parts from output to inverting input below it, and those from there to a rail below these. */
function amplifierBlock(
  part: Modelled, left: Map<string, Part>, rails: Set<string>, users: (net: string) => number,
): Block {
  const plus = part.pins['in+'] as string
  const minus = part.pins['in-'] as string
  const out = part.pins['out'] as string
  const between = (a: (net: string) => boolean, b: (net: string) => boolean): TwoPin[] =>
    [...left.values()].filter((other): other is TwoPin => {
      if (other.kind === 'modelled') return false
      const [p, q] = endsOf(other)
      return (a(p) && b(q)) || (a(q) && b(p))
    })
  const isMinus = (net: string) => net === minus
  const isRail = (net: string) => rails.has(net)
  const feedback = between(isMinus, (net) => net === out && net !== minus)
  const shunts = rails.has(minus) ? [] : between(isMinus, isRail)
  for (const taken of [...feedback, ...shunts]) left.delete(taken.designator)

  const block = emptyBlock(part.designator, 'board', 190, 0)
  const node = 14
  const join = 172
  const outY = 75
  const plusY = 52
  const minusY = 98
  block.symbols.push({ kind: 'amplifier', turned: false, x: 95, y: outY })
  block.texts.push({ text: part.designator, role: 'designator', anchor: 'middle', x: 90, y: outY + 4 })
  block.texts.push({ text: part.model.name.toUpperCase(), role: 'note', anchor: 'start', x: 122, y: 34 })
  for (const [pin, upwards] of [['v+', true], ['v-', false]] as const) {
    const net = part.pins[pin]
    if (net) addRail(block, net, { x: 92, y: upwards ? 22 : 128 }, upwards)
  }
  if (rails.has(plus)) addRail(block, plus, { x: 30, y: plusY })
  else {
    block.ports.push({ id: `${part.designator}:in+`, net: plus, side: 'WEST', x: 0, y: plusY })
    block.wires.push({ net: plus, points: [{ x: 0, y: plusY }, { x: 40, y: plusY }] })
  }
  block.ports.push({ id: `${part.designator}:out`, net: out, side: 'EAST', x: block.width, y: outY })
  block.wires.push({ net: out, points: [{ x: 150, y: outY }, { x: block.width, y: outY }] })

  let row = 196
  const bends: Point[] = [{ x: 40, y: minusY }, { x: node, y: minusY }]
  if (minus === out) {
    block.wires.push({ net: out, points: [...bends, { x: node, y: row }, { x: join, y: row }, { x: join, y: outY }] })
    block.dots.push({ x: join, y: outY })
    row += 10
  } else if (rails.has(minus)) {
    addRail(block, minus, { x: 30, y: minusY })
  } else {
    let last = minusY
    for (const [k, other] of feedback.entries()) {
      const middle = (node + join) / 2
      block.symbols.push({ kind: other.kind, turned: false, x: middle, y: row })
      block.texts.push({ text: other.designator, role: 'designator', anchor: 'end', x: middle - 4, y: row - 14 })
      block.texts.push({ text: other.value, role: 'value', anchor: 'start', x: middle + 4, y: row - 14, part: other.designator })
      block.wires.push({ net: minus, points: [{ x: node, y: row }, { x: middle - REACH, y: row }] })
      block.wires.push({ net: out, points: [{ x: middle + REACH, y: row }, { x: join, y: row }] })
      if (k < feedback.length - 1 || shunts.length) block.dots.push({ x: node, y: row })
      if (k < feedback.length - 1) block.dots.push({ x: join, y: row })
      last = row
      row += 48
    }
    if (feedback.length) {
      block.wires.push({ net: out, points: [{ x: join, y: outY }, { x: join, y: last }] })
      block.dots.push({ x: join, y: outY })
    }
    const top = feedback.length ? last : minusY + 20
    block.wires.push({ net: minus, points: [...bends, { x: node, y: top }] })
    const outside = users(minus) - 1 - feedback.length - shunts.length
    if (outside > 0) {
      block.ports.push({ id: `${part.designator}:in-`, net: minus, side: 'WEST', x: 0, y: minusY })
      block.wires.push({ net: minus, points: [{ x: 0, y: minusY }, { x: node, y: minusY }] })
      block.dots.push({ x: node, y: minusY })
    }
    for (const [k, other] of shunts.entries()) {
      const x = node + 84 * k
      const rail = other.pins.find((net) => rails.has(net)) ?? GROUND
      if (k > 0) block.wires.push({ net: minus, points: [{ x: node, y: top + 12 }, { x, y: top + 12 }] })
      const y = top + 12 + REACH
      block.wires.push({ net: minus, points: [{ x, y: top }, { x, y: y - REACH }] })
      block.symbols.push({ kind: other.kind, turned: true, x, y })
      addRail(block, rail, { x, y: y + REACH })
      block.texts.push({ text: other.designator, role: 'designator', anchor: 'start', x: x + 17, y: y - 4 })
      block.texts.push({ text: other.value, role: 'value', anchor: 'start', x: x + 17, y: y + 13, part: other.designator })
      row = Math.max(row, y + REACH + 24)
    }
    block.labels.push({ net: minus, anchor: 'start', x: node + 6, y: 166 })
  }
  block.height = Math.max(row, 156)
  return block
}

/** A modelled part without a symbol of its own: a box with its pins named. */
function boxBlock(part: Modelled): Block {
  const pins = Object.entries(part.pins)
  const half = Math.ceil(pins.length / 2)
  const block = emptyBlock(part.designator, 'board', 120, 30 + 24 * half)
  block.texts.push({ text: part.designator, role: 'designator', anchor: 'middle', x: 60, y: 14 })
  const corners = [[10, 20], [110, 20], [110, block.height], [10, block.height], [10, 20]] as const
  block.wires.push({ net: '', points: corners.map(([x, y]) => ({ x, y })) })
  pins.forEach(([pin, net], k) => {
    const west = k < half
    const y = 34 + 24 * (west ? k : k - half)
    const x = west ? 0 : block.width
    block.ports.push({ id: `${part.designator}:${pin}`, net, side: west ? 'WEST' : 'EAST', x, y })
    block.wires.push({ net, points: [{ x, y }, { x: west ? 10 : 110, y }] })
    block.texts.push({ text: pin, role: 'note', anchor: west ? 'start' : 'end', x: west ? 15 : 105, y: y + 4 })
  })
  return block
}

function fixtureBlock(fixture: Fixture): Block {
  const name = fixture.name.replaceAll('-', ' ')
  if (fixture.kind === 'supply') {
    const block = emptyBlock(fixture.name, 'supply', 150, 40)
    block.symbols.push({ kind: 'rail', turned: true, x: 14, y: 24 })
    block.texts.push({ text: fixture.plus, role: 'note', anchor: 'middle', x: 14, y: 18 })
    block.texts.push({ text: name, role: 'note', anchor: 'start', x: 34, y: 15 })
    block.texts.push({ text: withUnit(fixture.volts, 'V'), role: 'value', anchor: 'start', x: 34, y: 32 })
    return block
  }
  const ground = (block: Block, x: number, y: number) => addRail(block, fixture.minus, { x, y })
  if (fixture.kind === 'source') {
    const block = emptyBlock(fixture.name, 'source', 120, 150)
    block.symbols.push({ kind: 'source', turned: true, x: 24, y: 78 })
    block.symbols.push({ kind: 'resistor', turned: false, x: 84, y: 36 })
    block.wires.push({ net: '', points: [{ x: 24, y: 48 }, { x: 24, y: 36 }, { x: 54, y: 36 }] })
    ground(block, 24, 108)
    block.texts.push({ text: name, role: 'designator', anchor: 'start', x: 48, y: 76 })
    block.texts.push({ text: `AC ${withUnit(fixture.ac, 'V')}`, role: 'value', anchor: 'start', x: 48, y: 93 })
    block.texts.push({ text: withUnit(fixture.resistance, 'Ω'), role: 'value', anchor: 'middle', x: 84, y: 20 })
    block.ports.push({ id: `${fixture.name}:east`, net: fixture.plus, side: 'EAST', x: 114, y: 36 })
    block.width = 114
    return block
  }
  const block = emptyBlock(fixture.name, 'load', 100, 2 * REACH + 24)
  block.symbols.push({ kind: 'resistor', turned: true, x: 20, y: REACH })
  ground(block, 20, 2 * REACH)
  block.texts.push({ text: name, role: 'designator', anchor: 'start', x: 37, y: REACH - 4 })
  block.texts.push({ text: withUnit(fixture.resistance, 'Ω'), role: 'value', anchor: 'start', x: 37, y: REACH + 13 })
  block.ports.push({ id: `${fixture.name}:north`, net: fixture.plus, side: 'NORTH', x: 20, y: 0 })
  return block
}

/** The typed quantity with its unit, unless it was typed with one. */
function withUnit(text: string, unit: string): string {
  return /[ΩVΩ]$|ohm$/i.test(text) ? text : `${text} ${unit}`
}
