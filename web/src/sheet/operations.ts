import type { Board, Part } from '@/api/client'
import { withOwnedSpreads } from '@/stores/spreads'
import { isPin, partOf, placesOf, symbolsOf, type Drawn, type Drawing, type Placed } from './ends'
import { boxOf, mirroredPoint, mirroredPose, onGrid, plus, snapped, turnedPoint, turnedPose, type Point } from './geometry'
import type { Selection } from './fragment'
import { renet } from './nets'
import { asPairs, pointsOf, rerouted, wireKey } from './routing'
import type { SymbolBook } from './symbols'
import { cornersOf, tidied } from './wiring'

/** Whether everything that hangs on a joint is selected: it then goes where they go. */
function carried(drawing: Drawing, selection: Selection): Set<string> {
  const found = new Set<string>()
  const of = new Map<string, string[]>()
  for (const { ends } of drawing.wires) {
    for (const [a, b] of [[ends[0], ends[1]], [ends[1], ends[0]]] as const) of.set(a, [...(of.get(a) ?? []), b])
  }
  for (let grew = true; grew; ) {
    grew = false
    for (const { id } of drawing.joints) {
      if (found.has(id) || selection.has(id)) continue
      const others = of.get(id) ?? []
      if (others.length && others.every((end) => found.has(end) || isSelected(end, selection))) {
        found.add(id)
        grew = true
      }
    }
  }
  return found
}

/** Whether an end belongs to something selected; any unit of a package stands for its pins there. */
export function isSelected(end: string, selection: Selection): boolean {
  if (!isPin(end)) return selection.has(end)
  const unit = /^[A-Z]+\d+\.([A-D])\./.exec(end)
  const name = partOf(end)
  return selection.has(name) || (unit ? selection.has(`${name}.${unit[1]}`) : selection.has(`${name}.A`))
}

/** The selection with the joints that come along. */
export function withCarried(drawing: Drawing, selection: Selection): Set<string> {
  return new Set([...selection, ...carried(drawing, selection)])
}

/** Selected things sent through `pose` or `point`; wires between them go along, others are led anew. Nets stay. */
function transformed(
  circuit: Drawn, selection: Selection, book: SymbolBook,
  pose: (at: Placed) => Placed, point: <P extends Point>(at: P) => P,
): Drawn {
  const all = withCarried(circuit.drawing, selection)
  const { drawing } = circuit
  const moved: Drawing = {
    ...drawing,
    symbols: Object.fromEntries(Object.entries(drawing.symbols).map(([name, at]) => [name, all.has(name) ? pose(at) : at])),
    marks: drawing.marks.map((mark) => {
      if (!all.has(mark.id)) return mark
      const { x, y, turn } = pose({ ...mark, mirrored: false })
      return { ...mark, x, y, turn }
    }),
    joints: drawing.joints.map((joint) => (all.has(joint.id) ? point(joint) : joint)),
    notes: drawing.notes.map((note) => (all.has(note.id) ? point(note) : note)),
    wires: drawing.wires.map((wire) =>
      wire.ends.every((end) => isSelected(end, all))
        ? { ...wire, points: asPairs(pointsOf(wire).map((at) => point(at))) }
        : wire,
    ),
  }
  return rerouted({ ...circuit, drawing: moved }, book)
}

export function moved(circuit: Drawn, selection: Selection, by: Point, book: SymbolBook): Drawn {
  if (!by.x && !by.y) return circuit
  const shift = <P extends Point>(at: P): P => ({ ...at, ...plus(at, by) })
  return transformed(circuit, selection, book, shift, shift)
}

/** The middle of what is selected, on the grid. */
export function centreOf(circuit: Drawn, selection: Selection): Point | null {
  const { symbols, marks, joints, notes } = circuit.drawing
  const points = [
    ...Object.entries(symbols).filter(([name]) => selection.has(name)).map(([, at]) => at),
    ...[...marks, ...joints, ...notes].filter(({ id }) => selection.has(id)),
  ]
  if (!points.length) return null
  const { left, top, right, bottom } = boxOf(points)
  return onGrid({ x: (left + right) / 2, y: (top + bottom) / 2 })
}

export function turned(circuit: Drawn, selection: Selection, book: SymbolBook): Drawn {
  const centre = centreOf(circuit, selection)
  if (!centre) return circuit
  return transformed(circuit, selection, book, (at) => turnedPose(at, centre), (at) => turnedPoint(at, centre))
}

export function mirrored(circuit: Drawn, selection: Selection, book: SymbolBook): Drawn {
  const centre = centreOf(circuit, selection)
  if (!centre) return circuit
  return transformed(circuit, selection, book, (at) => mirroredPose(at, centre), (at) => mirroredPoint(at, centre))
}

/** Selected symbols and marks brought onto one line: in a row on their mean height, or in a column. */
export function aligned(circuit: Drawn, selection: Selection, axis: 'row' | 'column', book: SymbolBook): Drawn {
  const { symbols, marks } = circuit.drawing
  const places = [
    ...Object.entries(symbols).filter(([name]) => selection.has(name)),
    ...marks.filter(({ id }) => selection.has(id)).map((mark) => [mark.id, mark] as const),
  ]
  if (places.length < 2) return circuit
  const across = axis === 'row' ? 'y' : 'x'
  const mean = snapped(places.reduce((sum, [, at]) => sum + at[across], 0) / places.length)
  let next = circuit
  for (const [name, at] of places) {
    const by = axis === 'row' ? { x: 0, y: mean - at.y } : { x: mean - at.x, y: 0 }
    next = moved(next, new Set([name]), by, book)
  }
  return next
}

/** The circuit without what is selected; nets fall apart where that is what the drawing then shows. */
export function removed(circuit: Drawn, selection: Selection): Drawn {
  const gone = new Set(circuit.parts.filter((part) => symbolsOf(part).some(({ name }) => selection.has(name))).map((part) => part.designator))
  const { drawing } = circuit
  const isGone = (end: string) => (isPin(end) ? gone.has(partOf(end)) : selection.has(end))
  const corners = cornersOf(drawing)
  const left: Drawing = {
    symbols: Object.fromEntries(Object.entries(drawing.symbols).filter(([name]) => !gone.has(name.split('.')[0] ?? ''))),
    marks: drawing.marks.filter(({ id }) => !selection.has(id)),
    joints: drawing.joints.filter(({ id }) => !selection.has(id)),
    notes: drawing.notes.filter(({ id }) => !selection.has(id)),
    wires: drawing.wires.filter((wire) => !selection.has(wireKey(wire)) && !wire.ends.some(isGone)),
  }
  const parts = circuit.parts.filter((part) => !gone.has(part.designator))
  return renet({ ...circuit, parts, drawing: tidied(left, corners) })
}

/** A board with one of its circuits changed; what spoke of parts that are gone goes with them. */
export function withCircuit(board: Board, id: string, change: (circuit: Drawn) => Drawn): Board {
  const circuits = board.circuits.map((circuit) => (circuit.id === id && circuit.drawing ? change(circuit as Drawn) : circuit))
  return withOwnedSpreads({ ...board, circuits })
}

export const isValued = (part: Part) => part.kind === 'resistor' || part.kind === 'capacitor' || part.kind === 'inductor'

/** Everything on a sheet, as a selection. */
export function everything({ drawing }: Drawn): Set<string> {
  return new Set([
    ...Object.keys(drawing.symbols), ...drawing.marks.map(({ id }) => id), ...drawing.joints.map(({ id }) => id),
    ...drawing.notes.map(({ id }) => id),
  ])
}

/** Pins that touch what they are not connected to: they would be read wrongly. */
export function misleading(circuit: Drawn, book: SymbolBook): Point[] {
  const nets = new Map<string, Set<string>>()
  const found: Point[] = []
  const places = placesOf(circuit, book)
  const groups = new Map<string, string>()
  for (const part of circuit.parts) {
    for (const [pin, net] of Object.entries(pinsWithNets(part))) groups.set(`${part.designator}.${pin}`, net)
  }
  for (const mark of circuit.drawing.marks) groups.set(mark.id, mark.net)
  for (const [end, { x, y }] of places) {
    const net = groups.get(end)
    if (net === undefined) continue
    const here = nets.get(`${x},${y}`) ?? new Set()
    here.add(net)
    nets.set(`${x},${y}`, here)
    if (here.size === 2) found.push({ x, y })
  }
  return found
}

function pinsWithNets(part: Part): Record<string, string> {
  if (part.kind === 'modelled' || part.kind === 'generic') return part.pins
  return Object.fromEntries(part.pins.map((net, k) => [String(k + 1), net]))
}

/** A board whose circuit has a drawing: the one that is shown, where none was stored yet. */
export function withDrawing(board: Board, id: string, drawing: Drawn['drawing']): Board {
  return { ...board, circuits: board.circuits.map((circuit) => (circuit.id === id && !circuit.drawing ? { ...circuit, drawing } : circuit)) }
}

/** Wires that hang on what is selected, or are selected themselves. */
export function wiresOf(circuit: Drawn, names: ReadonlySet<string>): Set<string> {
  const all = withCarried(circuit.drawing, names)
  const belongs = (end: string) => (isPin(end) ? all.has(partOf(end)) : all.has(end))
  return new Set(circuit.drawing.wires.filter((wire) => names.has(wireKey(wire)) || wire.ends.some(belongs)).map(wireKey))
}
