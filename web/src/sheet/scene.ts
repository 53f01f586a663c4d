import type { Check } from '@/api/client'
import { netByEnd, type Drawn, type Mark, type SheetNote } from './ends'
import { around, boxOf, GRID, grown, isOn, keyOf, piecesOf, same, type Box, type Point } from './geometry'
import { isUnnamed } from './nets'
import { misleading } from './operations'
import { fixtureDrawings, isFree, type FixtureDrawing } from './outside'
import { markBox, markText, sceneText, textBox, type SceneSymbol, type SceneText } from './pieces'
import { isSound, pointsOf, Surroundings, wireKey, wireNets } from './routing'
import type { SymbolBook } from './symbols'
import { dotsOf } from './wiring'

export interface SceneWire {
  key: string
  net: string
  ends: readonly [string, string]
  points: Point[]
}

/** Where the name and the volts of a net stand. */
export interface NetLabel extends Point {
  net: string
  box: Box
}

/** All that is on a sheet, in its coordinates. */
export interface Scene {
  symbols: SceneSymbol[]
  wires: SceneWire[]
  marks: Mark[]
  dots: Point[]
  notes: (SheetNote & { lines: SceneText[]; box: Box })[]
  edge: Box
  fixtures: FixtureDrawing[]
  fixtureWires: { net: string; points: Point[] }[]
  /** Names where a fixture's wire finds no way to its net. */
  flags: (Point & { net: string; left: boolean })[]
  labels: NetLabel[]
  misleading: Point[]
  bounds: Box
}

/** The smallest board that is drawn. */
const LEAST = { width: 480, height: 300 }

/** How wide a line of volts is. */
const VOLTS = 9

export function sceneOf(circuit: Drawn, check: Check | undefined, book: SymbolBook): Scene {
  const surroundings = new Surroundings(circuit, book)
  const nets = wireNets(circuit)
  const { drawing } = circuit
  const wires = drawing.wires.map((wire): SceneWire => {
    const key = wireKey(wire)
    const [a, b] = [surroundings.places.get(wire.ends[0]), surroundings.places.get(wire.ends[1])]
    const points = isSound(wire, surroundings.places) || !a || !b ? pointsOf(wire) : [a, { x: b.x, y: a.y }, b]
    return { key, net: nets.get(key) ?? '', ends: wire.ends, points }
  })
  const notes = drawing.notes.map((note) => {
    const lines = note.text.split('\n').map((line, k) => sceneText(line, note.x, note.y + 16 * k, 'start', 'note'))
    return { ...note, lines, box: around(lines.map(({ box }) => box)) }
  })
  const inside = [
    ...surroundings.symbols.flatMap((symbol) => [symbol.box, ...symbol.texts.map(({ box }) => box)]),
    ...drawing.marks.map(markBox), ...notes.map(({ box }) => box),
    ...wires.map(({ points }) => boxOf(points)),
  ]
  const content = inside.length ? around(inside) : { left: 200, top: 120, right: 600, bottom: 340 }
  const edge = grown(content, 40)
  edge.right = Math.max(edge.right, edge.left + LEAST.width)
  edge.bottom = Math.max(edge.bottom, edge.top + LEAST.height)
  for (const side of ['left', 'top'] as const) edge[side] = Math.floor(edge[side] / GRID) * GRID
  for (const side of ['right', 'bottom'] as const) edge[side] = Math.ceil(edge[side] / GRID) * GRID
  const outside = check ? outsideOf(circuit, check, edge, surroundings, wires) : { fixtures: [], fixtureWires: [], flags: [] }
  const conductors = [...surroundings.symbols.flatMap(({ pins }) => pins), ...drawing.marks.filter(({ kind }) => kind !== 'label')]
  // A fixture's wire may end in the middle of one of the board's.
  const branches = outside.fixtureWires.flatMap(({ points }) => points.at(-1) ?? []).filter((at) => passes(wires, at))
  const meeting = dotsOf(conductors, [...wires, ...outside.fixtureWires].map(({ points }) => points))
  const dots = [...new Map([...meeting, ...branches].map((at) => [keyOf(at), at])).values()]
  const labels = labelsOf(circuit, surroundings, [...wires, ...outside.fixtureWires], notes)
  const bounds = grown(around([edge, ...outside.fixtures.map(({ box }) => box)]), 20)
  return {
    symbols: surroundings.symbols, wires, marks: drawing.marks, dots, notes, edge, ...outside, labels,
    misleading: misleading(circuit, book), bounds,
  }
}

function outsideOf(circuit: Drawn, check: Check, edge: Box, surroundings: Surroundings, wires: readonly SceneWire[]) {
  // Where a net can be met: at its pins, joints and wires.
  const points = new Map<string, Point[]>()
  const add = (net: string, point: Point) => points.set(net, [...(points.get(net) ?? []), point])
  for (const [end, net] of netByEnd(circuit.parts)) {
    const place = surroundings.places.get(end)
    if (place) add(net, place)
  }
  for (const wire of wires) for (const point of wire.points) add(wire.net, point)
  // A net that has a name on the sheet is attached to by that name.
  const marked = new Set(circuit.drawing.marks.map(({ net }) => net))
  const anchors = (net: string, side: 'left' | 'right') => {
    const found = points.get(net)
    if (!found) return undefined
    const outer = (side === 'left' ? Math.min : Math.max)(...found.map(({ x }) => x))
    // Of several places as far out, the highest: that is where the signal runs.
    return Math.min(...found.filter(({ x }) => x === outer).map(({ y }) => y))
  }
  const fixtures = fixtureDrawings(check, edge, anchors)
  const lying = wires.map(({ net, points: way }) => ({ net, points: way }))
  const fixtureWires: { net: string; points: Point[] }[] = []
  const flags: (Point & { net: string; left: boolean })[] = []
  for (const { port } of fixtures) {
    if (!port) continue
    const goals = marked.has(port.net) ? [] : (points.get(port.net) ?? [])
    const grid = surroundings.gridFor(port.net, [...lying, ...fixtureWires])
    const way = goals.length ? grid.route(port, goals, [port.way]) : null
    if (way) fixtureWires.push({ net: port.net, points: way })
    else flags.push({ net: port.net, x: port.x, y: port.y, left: port.way === 'east' })
  }
  return { fixtures, fixtureWires, flags }
}

/** Whether a wire passes a point without ending there. */
function passes(wires: readonly SceneWire[], at: Point): boolean {
  return wires.some(({ points }) => {
    const isEnd = [points[0], points.at(-1)].some((end) => end && same(end, at))
    return points.length > 1 && !isEnd && piecesOf(points).some(([a, b]) => isOn(at, a, b))
  })
}

/** A place for every net's name and volts: above a level stretch of its wires, clear of all else; none where there is none. */
function labelsOf(circuit: Drawn, surroundings: Surroundings, wires: readonly { net: string; points: Point[] }[], notes: Scene['notes']): NetLabel[] {
  const taken: Box[] = [
    ...surroundings.symbols.flatMap((symbol) => [grown(symbol.body, 2), ...symbol.texts.map(({ box }) => box)]),
    ...circuit.drawing.marks.map((mark) => (mark.kind === 'ground' ? markBox(mark) : markText(mark).box)),
    ...notes.map(({ box }) => box),
    ...wires.flatMap(({ points }) => piecesOf(points).map(([a, b]) => grown(boxOf([a, b]), 1))),
    ...surroundings.symbols.flatMap(({ pins, body }) => pins.map((pin) => grown(boxOf([pin, { x: clamp(pin.x, body.left, body.right), y: clamp(pin.y, body.top, body.bottom) }]), 1))),
  ]
  const named = new Set(circuit.drawing.marks.map(({ net }) => net))
  const found = new Map<string, NetLabel>()
  const stretches = wires
    .flatMap(({ net, points }) => piecesOf(points).map(([a, b]) => ({ net, a, b })))
    .filter(({ net, a, b }) => net && !named.has(net) && a.y === b.y && a.x !== b.x)
    .sort((p, q) => Math.abs(q.a.x - q.b.x) - Math.abs(p.a.x - p.b.x))
  for (const { net, a, b } of stretches) {
    if (found.has(net)) continue
    const text = 'x'.repeat(VOLTS + (isUnnamed(net) ? 0 : net.length + 1))
    const middle = (a.x + b.x) / 2
    for (const [x, y] of [[middle, a.y - 5], [middle, a.y + 14], [Math.min(a.x, b.x) + 36, a.y - 5], [Math.max(a.x, b.x) - 36, a.y - 5]] as const) {
      const box = textBox(text, x, y, 'middle', 'note')
      if (!isFree(box, taken)) continue
      found.set(net, { net, x, y, box })
      taken.push(box)
      break
    }
  }
  return [...found.values()]
}

const clamp = (value: number, least: number, most: number) => Math.min(Math.max(value, least), most)
