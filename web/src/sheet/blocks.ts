import type { Circuit, Part } from '@/api/client'
import { columnBlock } from './columnBlock'
import { columnsOf } from './columns'
import { netByEnd, symbolsOf, type Mark, type Placed } from './ends'
import { around, type Box, type Point, type Turn, type Way } from './geometry'
import { markBox, sceneSymbol, type SceneSymbol } from './pieces'
import type { SymbolBook } from './symbols'

export interface Port extends Point {
  id: string
  net: string
  side: 'WEST' | 'EAST' | 'NORTH' | 'SOUTH'
}

/** Symbols that keep their places relative to each other, marks at their pins, and the ports to everything else. */
export interface Block {
  id: string
  symbols: SceneSymbol[]
  marks: Omit<Mark, 'id'>[]
  ports: Port[]
  box: Box
}

/** Nets that are drawn as marks at every pin: ground and supplies. */
export function railsOf(circuit: Circuit): Set<string> {
  const supplies = circuit.checks.flatMap((check) => check.fixtures.filter((fixture) => fixture.kind === 'supply'))
  const named = [...netByEnd(circuit.parts).values()].filter((net) => /^([+-]\d|v(cc|dd|ee|ss)$)/i.test(net))
  return new Set(['gnd', ...supplies.flatMap(({ plus, minus }) => [plus, minus]), ...named])
}

const isUpper = (net: string) => net !== 'gnd' && !/^(-|v(ee|ss)$)/i.test(net)

/** A circuit cut into blocks: an amplifier with its feedback is one, what stands above each other is, each other symbol is. */
export function blocksOf(circuit: Circuit, book: SymbolBook): Block[] {
  const rails = railsOf(circuit)
  const nets = netByEnd(circuit.parts)
  const users = (net: string) => [...nets.values()].filter((other) => other === net).length
  const order = distances(circuit, rails)
  const left = new Map(circuit.parts.map((part) => [part.designator, part]))
  const make = (part: Part, unit: string, at: Placed) => sceneSymbol(unit ? `${part.designator}.${unit}` : part.designator, part, unit, at, book, nets)
  const blocks: Block[] = []
  for (const part of circuit.parts) {
    for (const { unit } of symbolsOf(part)) {
      const symbol = make(part, unit, { x: 0, y: 0, turn: 0, mirrored: false })
      if (!symbol.pins.some(({ end }) => end.endsWith('in+')) || !symbol.pins.some(({ end }) => end.endsWith('out'))) continue
      left.delete(part.designator)
      blocks.push(amplifierBlock(symbol, left, rails, users, make))
    }
  }
  const draw = (part: Part, at: Placed) => make(part, symbolsOf(part)[0]?.unit ?? '', at)
  const columns = columnsOf(circuit, left, { has: (net) => rails.has(net), isUpper }, (part) => draw(part, standing(0, 0)))
  for (const column of columns) {
    const { id, symbols, marks, ports } = columnBlock(column, draw, (net) => rails.has(net), (net, pin) => railMark(net, pin, pin.way))
    const room = ports.map(({ x, y }) => ({ left: x, right: x, top: y, bottom: y }))
    blocks.push(finished(id, symbols, marks, ports, room))
  }
  for (const part of left.values()) {
    for (const { unit } of symbolsOf(part)) blocks.push(partBlock(part, unit, rails, order, make))
  }
  return blocks
}

type Make = (part: Part, unit: string, at: Placed) => SceneSymbol

const standing = (x: number, y: number, turn: Turn = 0, mirrored = false): Placed => ({ x, y, turn, mirrored })

/** How many parts lie between a source, or the leftmost input, and each net: the direction in which the drawing runs. */
function distances(circuit: Circuit, rails: Set<string>): Map<string, number> {
  const sources = circuit.checks.flatMap((check) => check.fixtures.filter(({ kind }) => kind === 'source' || kind === 'written source'))
  const starts = sources.map(({ plus, minus }) => (rails.has(plus) ? minus : plus)).filter((net) => !rails.has(net))
  const all = [...netByEnd(circuit.parts).values()].filter((net) => !rails.has(net))
  if (!starts.length) starts.push(...all.filter((net) => /^in/i.test(net)), ...all.slice(0, 1))
  const found = new Map<string, number>(starts.map((net) => [net, 0]))
  const queue = [...found.keys()]
  for (let net = queue.shift(); net !== undefined; net = queue.shift()) {
    for (const part of circuit.parts) {
      const pins = [...netByEnd([part])]
      if (!pins.some(([, other]) => other === net)) continue
      const outs = pins.filter(([end]) => end.endsWith('out'))
      for (const [, next] of outs.length ? outs : pins) {
        if (found.has(next) || rails.has(next)) continue
        found.set(next, (found.get(net) ?? 0) + 1)
        queue.push(next)
      }
    }
  }
  return found
}

/** A mark for a rail at a pin, looking the way the pin looks where that suits the rail, else up or down. */
function railMark(net: string, pin: Point, way: Way): Omit<Mark, 'id'> {
  const kind = net === 'gnd' ? 'ground' : 'rail'
  const up: Turn = isUpper(net) ? 0 : 2
  const turn: Record<Way, Turn> = kind === 'ground' ? { south: 0, north: 2, west: 0, east: 0 } : { north: 0, south: 2, west: up, east: up }
  return { kind, net, x: pin.x, y: pin.y, turn: turn[way] }
}

const SIDE: Record<Way, Port['side']> = { west: 'WEST', east: 'EAST', north: 'NORTH', south: 'SOUTH' }

function finished(id: string, symbols: SceneSymbol[], marks: Omit<Mark, 'id'>[], ports: Port[], room: Box[] = []): Block {
  const boxes = [
    ...symbols.flatMap((symbol) => [symbol.box, ...symbol.texts.map(({ box }) => box)]),
    ...marks.map((mark) => markBox({ ...mark, id: 'm' })), ...room,
  ]
  return { id, symbols, marks, ports, box: around(boxes) }
}

/** An amplifier with the parts from output to inverting input above it, and those from there to a rail to its left. */
function amplifierBlock(symbol: SceneSymbol, left: Map<string, Part>, rails: Set<string>, users: (net: string) => number, make: Make): Block {
  const pin = (role: string) => symbol.pins.find(({ end }) => end.endsWith(role))
  const [minus, out] = [pin('in-')?.net ?? '', pin('out')?.net ?? '']
  const two = (part: Part): [string, string] | null =>
    part.kind !== 'modelled' && part.kind !== 'generic' && part.pins.length === 2 ? [part.pins[0] as string, part.pins[1] as string] : null
  const between = (test: (a: string, b: string) => boolean) =>
    [...left.values()].filter((part) => {
      const nets = two(part)
      return nets && (test(nets[0], nets[1]) || test(nets[1], nets[0]))
    })
  const feedback = rails.has(minus) || minus === out ? [] : between((a, b) => a === minus && b === out)
  const shunts = rails.has(minus) || minus === out ? [] : between((a, b) => a === minus && rails.has(b) && !isUpper(b))
  for (const part of [...feedback, ...shunts]) left.delete(part.designator)
  const symbols = [symbol]
  const marks: Omit<Mark, 'id'>[] = []
  const ports: Port[] = []
  const id = symbol.name
  for (const each of symbol.pins) {
    if (rails.has(each.net)) marks.push(railMark(each.net, each, each.way))
  }
  feedback.forEach((part, k) => {
    const flip = two(part)?.[0] === out
    symbols.push(make(part, '', standing(0, -100 - 60 * k, flip ? 2 : 0)))
  })
  shunts.forEach((part, k) => {
    const first = two(part)?.[0] === minus
    const shunt = make(part, '', standing(-130, -20 - 60 * k, first ? 2 : 0))
    symbols.push(shunt)
    for (const each of shunt.pins) if (rails.has(each.net)) marks.push(railMark(each.net, each, isUpper(each.net) ? 'north' : 'south'))
  })
  // Room for the feedback's own wires on both sides.
  const inner: Box = { left: -90, right: 90, top: -60, bottom: 60 }
  const port = (role: string, side: Port['side']) => {
    const at = pin(role)
    if (!at || rails.has(at.net)) return
    const x = side === 'WEST' ? (shunts.length ? -170 : -90) : 90
    ports.push({ id: `${id}:${role}`, net: at.net, side, x, y: at.y })
  }
  port('in+', 'WEST')
  port('out', 'EAST')
  if (minus !== out && users(minus) > 1 + feedback.length + shunts.length) port('in-', 'WEST')
  for (const each of symbol.pins) {
    if (/(in[+-]|out)$/.test(each.end) || rails.has(each.net)) continue
    ports.push({ id: `${id}:${each.end}`, net: each.net, side: SIDE[each.way], x: each.x, y: each.y })
  }
  return finished(id, symbols, marks, ports, [inner])
}

/** One part: lying in the signal's direction, or standing where one of its pins is on a rail. */
function partBlock(part: Part, unit: string, rails: Set<string>, order: Map<string, number>, make: Make): Block {
  const flat = make(part, unit, standing(0, 0))
  const level = flat.pins.length === 2 && flat.pins.every(({ way }) => way === 'west' || way === 'east')
  const upright = flat.pins.length === 2 && flat.pins.every(({ way }) => way === 'north' || way === 'south')
  let symbol = flat
  if (level) {
    const [a, b] = flat.pins as [SceneSymbol['pins'][0], SceneSymbol['pins'][0]]
    if (rails.has(a.net) || rails.has(b.net)) {
      // The first pin on top, unless it belongs below.
      const height = (net: string) => (rails.has(net) ? (isUpper(net) ? 1 : -1) : 0)
      symbol = make(part, unit, standing(0, 0, height(a.net) >= height(b.net) ? 1 : 3))
    } else if ((order.get(a.net) ?? Infinity) > (order.get(b.net) ?? Infinity)) symbol = make(part, unit, standing(0, 0, 2))
  } else if (upright) {
    const [a, b] = flat.pins as [SceneSymbol['pins'][0], SceneSymbol['pins'][0]]
    const low = (net: string) => rails.has(net) && !isUpper(net)
    if (low(a.net) && !low(b.net)) symbol = make(part, unit, standing(0, 0, 2))
  }
  const marks = symbol.pins.filter(({ net }) => rails.has(net)).map((pin) => railMark(pin.net, pin, pin.way))
  const ports = symbol.pins
    .filter(({ net }) => !rails.has(net))
    .map((pin): Port => ({ id: pin.end, net: pin.net, side: SIDE[pin.way], x: pin.x, y: pin.y }))
  return finished(symbol.name, [symbol], marks, ports)
}
