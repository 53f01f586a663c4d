import type { Drawn, Wire } from './ends'
import { netByEnd, placesOf } from './ends'
import { around, piecesOf, same, simplified, type Box, type Point, type Way } from './geometry'
import { clearance, markBox, markText, markWay, symbolsIn, type SceneSymbol } from './pieces'
import { elbow, RoutingGrid } from './router'
import type { SymbolBook } from './symbols'

/** Wires by their ends; two wires between the same ends would be one too many. */
export const wireKey = (wire: Wire) => `${wire.ends[0]}|${wire.ends[1]}`

/** The net of every wire, from the pins and marks it hangs on. */
export function wireNets(circuit: Drawn): Map<string, string> {
  const known = new Map(netByEnd(circuit.parts))
  for (const mark of circuit.drawing.marks) known.set(mark.id, mark.net)
  // Joints have the net of what they are wired to.
  const around = new Map<string, string[]>()
  for (const { ends } of circuit.drawing.wires) {
    for (const [a, b] of [[ends[0], ends[1]], [ends[1], ends[0]]] as const) around.set(a, [...(around.get(a) ?? []), b])
  }
  const pending = [...known.keys()]
  for (let end = pending.pop(); end !== undefined; end = pending.pop()) {
    for (const other of around.get(end) ?? []) {
      if (known.has(other)) continue
      known.set(other, known.get(end) ?? '')
      pending.push(other)
    }
  }
  return new Map(circuit.drawing.wires.map((wire) => [wireKey(wire), known.get(wire.ends[0]) ?? '']))
}

/** What wires have to go around on a sheet. */
export class Surroundings {
  readonly symbols: SceneSymbol[]
  readonly places: Map<string, Point>
  readonly area: Box
  private readonly ways = new Map<string, readonly Way[]>()

  constructor(readonly circuit: Drawn, book: SymbolBook) {
    this.symbols = symbolsIn(circuit, book)
    this.places = placesOf(circuit, book)
    const { marks, joints } = circuit.drawing
    for (const symbol of this.symbols) for (const pin of symbol.pins) this.ways.set(pin.end, [pin.way])
    for (const mark of marks) this.ways.set(mark.id, markWay(mark))
    const points = [...joints, ...circuit.drawing.wires.flatMap((wire) => wire.points.map(([x, y]) => ({ x, y })))]
    this.area = around([
      { left: 0, top: 0, right: 10, bottom: 10 }, ...this.symbols.map((symbol) => symbol.box), ...marks.map(markBox),
      ...points.map(({ x, y }) => ({ left: x, right: x, top: y, bottom: y })),
    ])
  }

  /** A grid for a wire of `net`; `wires` are those that lie already, with their nets. */
  gridFor(net: string, wires: Iterable<{ net: string; points: readonly Point[] }>): RoutingGrid {
    const grid = new RoutingGrid(this.area)
    for (const symbol of this.symbols) {
      grid.addBody(clearance(symbol))
      for (const text of symbol.texts) grid.addText(text.box)
      for (const pin of symbol.pins) if (pin.net !== net) grid.addPoint(pin)
    }
    for (const mark of this.circuit.drawing.marks) {
      if (mark.net !== net) grid.addPoint(mark)
      if (mark.kind === 'ground') grid.addText(markBox(mark))
      else grid.addText(markText(mark).box)
    }
    for (const wire of wires) {
      if (wire.net === net) grid.addOwn(wire.points)
      else grid.addWire(wire.points)
    }
    return grid
  }

  leaving(end: string): readonly Way[] {
    return this.ways.get(end) ?? ['east', 'south', 'west', 'north']
  }
}

export const pointsOf = (wire: Wire): Point[] => wire.points.map(([x, y]) => ({ x, y }))
export const asPairs = (points: readonly Point[]): [number, number][] => points.map(({ x, y }) => [x, y])

/** Whether a wire's points still lead from end to end at right angles. */
export function isSound(wire: Wire, places: ReadonlyMap<string, Point>): boolean {
  const points = pointsOf(wire)
  const [a, b] = [places.get(wire.ends[0]), places.get(wire.ends[1])]
  if (!a || !b || !points[0] || !same(points[0], a) || !same(points.at(-1) as Point, b)) return false
  return piecesOf(points).every(([p, q]) => p.x === q.x || p.y === q.y)
}

/** The circuit with every wire whose ends have moved led anew; `which` names others that shall be led anew too. */
export function rerouted(circuit: Drawn, book: SymbolBook, which: ReadonlySet<string> = new Set()): Drawn {
  const places = placesOf(circuit, book)
  const stale = circuit.drawing.wires.filter((wire) => which.has(wireKey(wire)) || !isSound(wire, places))
  if (!stale.length) return circuit
  const surroundings = new Surroundings(circuit, book)
  const nets = wireNets(circuit)
  const done = new Map<string, Point[]>()
  const lying = new Map(
    circuit.drawing.wires.filter((wire) => !stale.includes(wire)).map((wire) => [wireKey(wire), { net: nets.get(wireKey(wire)) ?? '', points: pointsOf(wire) }]),
  )
  for (const wire of stale) {
    const [a, b] = [places.get(wire.ends[0]), places.get(wire.ends[1])]
    if (!a || !b) continue
    const net = nets.get(wireKey(wire)) ?? ''
    const points = same(a, b) ? [a] : led(surroundings, net, wire.ends, a, b, lying.values())
    done.set(wireKey(wire), points)
    lying.set(wireKey(wire), { net, points })
  }
  const wires = circuit.drawing.wires.map((wire) => {
    const points = done.get(wireKey(wire))
    return points ? { ...wire, points: asPairs(points) } : wire
  })
  return { ...circuit, drawing: { ...circuit.drawing, wires } }
}

function led(
  surroundings: Surroundings, net: string, ends: readonly [string, string], a: Point, b: Point,
  lying: Iterable<{ net: string; points: readonly Point[] }>,
): Point[] {
  const grid = surroundings.gridFor(net, lying)
  const points = grid.route(a, [b], surroundings.leaving(ends[0]))
  return points ? simplified(points) : elbow(a, b, true)
}

/** A wire's way while something is dragged: bends only where it must. */
export function stretched(wire: Wire, a: Point, b: Point, level: boolean): Point[] {
  const points = pointsOf(wire)
  const first = points[0]
  const last = points.at(-1)
  if (!first || !last) return elbow(a, b, level)
  if (points.length < 3) return elbow(a, b, level)
  // The piece at a moved end keeps its direction, and slides along the next one.
  const way = points.map((point) => ({ ...point }))
  const slide = (from: number, to: number, end: Point, old: Point) => {
    const [p, q] = [way[from], way[to]]
    if (!p || !q) return
    const isLevel = old.y === q.y
    way[from] = end
    way[to] = isLevel ? { x: q.x, y: end.y } : { x: end.x, y: q.y }
  }
  if (!same(first, a)) slide(0, 1, a, first)
  if (!same(last, b)) slide(way.length - 1, way.length - 2, b, last)
  const sound = piecesOf(way).every(([p, q]) => p.x === q.x || p.y === q.y)
  return sound ? simplified(way) : elbow(a, b, level)
}
