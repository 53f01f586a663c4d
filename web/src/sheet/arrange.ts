import type { Circuit, Part } from '@/api/client'
import type { ELK, ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk-api'
import { emptyDrawing, netByEnd, symbolsOf, type Drawing, type Drawn, type Mark, type Placed } from './ends'
import { around, gridPoints, snapped, type Box, type Point, type Turn, type Way } from './geometry'
import { renet } from './nets'
import { markBox, sceneSymbol, type SceneSymbol } from './pieces'
import { asPairs, Surroundings } from './routing'
import type { SymbolBook } from './symbols'

/**
 * A drawing for a circuit that has none: supplies up, ground down, the signal from left to right, feedback above.
 * Blocks of symbols that belong together are placed by ELK's layered layout; wires are then led around them.
 */

type Elk = Pick<ELK, 'layout'>

interface Port extends Point {
  id: string
  net: string
  side: 'WEST' | 'EAST' | 'NORTH' | 'SOUTH'
}

/** Symbols that keep their places relative to each other, marks at their pins, and the ports to everything else. */
interface Block {
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

export async function arranged(circuit: Circuit, book: SymbolBook, elk: Elk): Promise<Drawn> {
  const blocks = blocksOf(circuit, book)
  const places = await placesOf(blocks, circuit, elk)
  const drawing: Drawing = emptyDrawing()
  for (const block of blocks) {
    const by = places.get(block.id) ?? { x: 0, y: 0 }
    for (const { name, at } of block.symbols) drawing.symbols[name] = { ...at, x: at.x + by.x, y: at.y + by.y }
    for (const mark of block.marks) {
      const id = `m${drawing.marks.length + 1}`
      drawing.marks.push({ ...mark, id, x: mark.x + by.x, y: mark.y + by.y })
    }
  }
  return wired({ ...circuit, drawing }, book)
}

/** Wires for every net of a drawing that has symbols and marks only; where one finds no way, names join the pieces. */
function wired(circuit: Drawn, book: SymbolBook): Drawn {
  const drawing: Drawing = { ...circuit.drawing, marks: [...circuit.drawing.marks], joints: [], wires: [] }
  const surroundings = new Surroundings(circuit, book)
  const ends = new Map<string, string[]>()
  const add = (net: string, end: string) => ends.set(net, [...(ends.get(net) ?? []), end])
  for (const [end, net] of netByEnd(circuit.parts)) add(net, end)
  const place = (end: string) => surroundings.places.get(end) as Point
  const lying: { net: string; points: Point[] }[] = []
  // Marks sit on their pins.
  for (const mark of drawing.marks) {
    const pin = (ends.get(mark.net) ?? []).find((end) => place(end).x === mark.x && place(end).y === mark.y)
    if (pin) drawing.wires.push({ ends: [pin, mark.id], points: [[mark.x, mark.y]] })
  }
  const marked = new Set(drawing.marks.map(({ net }) => net))
  const spread = (net: string) => {
    const box = around((ends.get(net) ?? []).map((end) => ({ left: place(end).x, right: place(end).x, top: place(end).y, bottom: place(end).y })))
    return box.right - box.left + box.bottom - box.top
  }
  const nets = [...ends.keys()].filter((net) => !marked.has(net) && (ends.get(net)?.length ?? 0) > 1)
  for (const net of nets.sort((a, b) => spread(a) - spread(b))) {
    const left = [...(ends.get(net) ?? [])].sort((a, b) => place(a).x - place(b).x)
    const first = left.shift() as string
    const tree: { points: Point[]; ends: [string, string] }[] = []
    const reached = [first]
    const failed: string[] = []
    while (left.length) {
      // The nearest pin to what is wired already comes next.
      const near = (end: string) =>
        Math.min(...[...reached.map(place), ...tree.flatMap(({ points }) => points)].map((p) => Math.abs(p.x - place(end).x) + Math.abs(p.y - place(end).y)))
      left.sort((a, b) => near(a) - near(b))
      const end = left.shift() as string
      const goals = [...reached.map(place), ...tree.flatMap(({ points }) => gridPoints(points).slice(1, -1))]
      const grid = surroundings.gridFor(net, lying)
      const points = grid.route(place(end), goals, surroundings.leaving(end))
      if (!points) {
        failed.push(end)
        continue
      }
      const at = points.at(-1) as Point
      const pin = reached.find((other) => place(other).x === at.x && place(other).y === at.y)
      tree.push({ points, ends: [end, pin ?? joint(drawing, tree, at)] })
      reached.push(end)
    }
    for (const wire of tree) {
      lying.push({ net, points: wire.points })
      drawing.wires.push({ ends: wire.ends, points: asPairs(wire.points) })
    }
    for (const end of failed.length ? [first, ...failed] : []) {
      const id = `m${drawing.marks.length + 1}`
      const { x, y } = place(end)
      drawing.marks.push({ id, kind: 'label', net, x, y, turn: surroundings.leaving(end)[0] === 'west' ? 2 : 0 })
      drawing.wires.push({ ends: [end, id], points: [[x, y]] })
    }
  }
  return renet({ ...circuit, drawing })
}

/** A joint at a point of a tree of wires: the wire that passes there is cut in two. */
function joint(drawing: Drawing, tree: { points: Point[]; ends: [string, string] }[], at: Point): string {
  const present = drawing.joints.find(({ x, y }) => x === at.x && y === at.y)
  if (present) return present.id
  const id = `j${drawing.joints.length + 1}`
  drawing.joints.push({ id, ...at })
  for (const [k, wire] of tree.entries()) {
    const piece = wire.points.slice(1).findIndex((b, n) => {
      const a = wire.points[n] as Point
      return at.x >= Math.min(a.x, b.x) && at.x <= Math.max(a.x, b.x) && at.y >= Math.min(a.y, b.y) && at.y <= Math.max(a.y, b.y)
    })
    if (piece < 0) continue
    const clean = (points: Point[]) => points.filter((p, n) => n === 0 || p.x !== (points[n - 1] as Point).x || p.y !== (points[n - 1] as Point).y)
    const before = clean([...wire.points.slice(0, piece + 1), at])
    const after = clean([at, ...wire.points.slice(piece + 1)])
    tree.splice(k, 1, { points: before, ends: [wire.ends[0], id] }, { points: after, ends: [id, wire.ends[1]] })
    break
  }
  return id
}

// Blocks.

function blocksOf(circuit: Circuit, book: SymbolBook): Block[] {
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
  const shunts = rails.has(minus) || minus === out ? [] : between((a, b) => a === minus && rails.has(b))
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

// Places.

const ROOM = 20
/** Blocks in a drawing that is put into several rows. */
const LONG = 18

/** Where each block goes, as a shift of its own coordinates. */
async function placesOf(blocks: Block[], circuit: Circuit, elk: Elk): Promise<Map<string, Point>> {
  const shifts = new Map<string, Point>()
  const hung = blocks.filter((block) => block.ports.length)
  // Parts between rails, decoupling capacitors for one, have no wires: they stand in a row of their own.
  const row = blocks.filter((block) => !block.ports.length)
  let [bottom, right] = [0, 600]
  if (hung.length) {
    const graph = await elk.layout(graphOf(hung, circuit))
    for (const node of graph.children ?? []) {
      const block = hung.find(({ id }) => id === node.id)
      if (!block) continue
      shifts.set(block.id, { x: snapped((node.x ?? 0) - block.box.left + ROOM), y: snapped((node.y ?? 0) - block.box.top + ROOM) })
    }
    bottom = graph.height ?? 0
    right = Math.max(right, graph.width ?? 0)
  }
  let [x, y, deep] = [0, bottom + 40, 0]
  for (const block of row) {
    const width = block.box.right - block.box.left
    if (x > 0 && x + width > right) [x, y, deep] = [0, y + deep + 30, 0]
    shifts.set(block.id, { x: snapped(x - block.box.left + ROOM), y: snapped(y - block.box.top + ROOM) })
    x += width + 40
    deep = Math.max(deep, block.box.bottom - block.box.top)
  }
  return shifts
}

function graphOf(blocks: Block[], circuit: Circuit): ElkNode {
  const flows = (block: Block) => block.ports.some(({ side }) => side === 'EAST')
  return {
    id: 'sheet',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.edgeRouting': 'ORTHOGONAL',
      'elk.spacing.nodeNode': '40',
      'elk.layered.spacing.nodeNodeBetweenLayers': '60',
      'elk.spacing.edgeNode': '20',
      'elk.spacing.edgeEdge': '20',
      'elk.layered.spacing.edgeNodeBetweenLayers': '20',
      'elk.layered.nodePlacement.strategy': 'BRANDES_KOEPF',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
      'elk.separateConnectedComponents': 'false',
      // A long chain goes on in the next row, like writing.
      ...(blocks.length > LONG && { 'elk.layered.wrapping.strategy': 'MULTI_EDGE', 'elk.aspectRatio': '1.5' }),
    },
    // ELK keeps the order it is given: what lies in the signal's path comes first, and so stands above what hangs from it.
    children: [...blocks.filter(flows), ...blocks.filter((block) => !flows(block))].map((block) => ({
      id: block.id,
      width: block.box.right - block.box.left,
      height: block.box.bottom - block.box.top,
      ports: block.ports.map((port) => ({
        id: port.id, width: 0, height: 0,
        x: { WEST: 0, EAST: block.box.right - block.box.left, NORTH: port.x - block.box.left, SOUTH: port.x - block.box.left }[port.side],
        y: { WEST: port.y - block.box.top, EAST: port.y - block.box.top, NORTH: 0, SOUTH: block.box.bottom - block.box.top }[port.side],
        layoutOptions: { 'elk.port.side': port.side },
      })),
      layoutOptions: { 'elk.portConstraints': 'FIXED_POS' },
    })),
    edges: edgesOf(blocks, circuit),
  }
}

/** Each net as edges from the pins that drive it, which look east, to the pins that take it. */
function edgesOf(blocks: Block[], circuit: Circuit): ElkExtendedEdge[] {
  const byNet = new Map<string, Port[]>()
  for (const port of blocks.flatMap((block) => block.ports)) byNet.set(port.net, [...(byNet.get(port.net) ?? []), port])
  const loads = new Set(circuit.checks.flatMap((check) => check.fixtures.filter(({ kind }) => kind === 'load').map(({ plus }) => plus)))
  return [...byNet].flatMap(([net, ports]) => {
    const drivers = ports.filter((port) => port.side === 'EAST')
    const takers = ports.filter((port) => port.side !== 'EAST')
    if (!drivers.length) drivers.push(...takers.splice(0, 1))
    if (!takers.length) takers.push(...drivers.splice(1))
    const [first, ...others] = drivers
    const pairs = takers.map((taker) => [first, taker] as const)
    const target = takers[0]
    if (target) pairs.push(...others.map((driver) => [driver, target] as const))
    return pairs.flatMap(([a, b], k) =>
      a && b
        ? [{ id: `${net}|${k}`, sources: [a.id], targets: [b.id], layoutOptions: { 'elk.layered.priority.direction': loads.has(net) ? '2' : '1' } }]
        : [],
    )
  })
}

