import { ownerOf } from '@/stores/spreads'
import type { Circuit, Part, Spread } from '@/api/client'
import { emptyDrawing, endOf, isPin, netByEnd, partOf, pinOf, placesOf, symbolsOf, withNets, type Drawing, type Drawn } from './ends'
import { boxOf, mirroredPoint, mirroredPose, onGrid, turnedPoint, turnedPose, type Point } from './geometry'
import { isUnnamed, renet } from './nets'
import { symbolsIn } from './pieces'
import { asPairs, pointsOf, wireKey } from './routing'
import type { SymbolBook } from './symbols'
import { connected, freeId, targetAt } from './wiring'

/** Parts with their drawing, on their way onto a sheet: a single part, a stage, or what was copied. */
export interface Fragment {
  parts: Part[]
  drawing: Drawing
  spreads: Spread[]
  /** Parameters and models that statements among the parts need. */
  definitions: string
}

/** What of a circuit is selected: symbols, marks, joints and notes by name, wires by their key. */
export type Selection = ReadonlySet<string>

/** The selected part of a circuit. A wire comes along when both its ends do; a package comes with all its units. */
export function copied(circuit: Drawn, selection: Selection, spreads: readonly Spread[]): Fragment {
  const parts = circuit.parts.filter((part) => symbolsOf(part).some(({ name }) => selection.has(name)))
  const names = new Set(parts.map((part) => part.designator))
  const symbols = new Set(parts.flatMap((part) => symbolsOf(part).map(({ name }) => name)))
  const { drawing } = circuit
  // Joints that join selected things come along, whether they were selected or not; those that lead nowhere else do not.
  const joined = new Set(drawing.joints.map(({ id }) => id))
  const own = (end: string) => (isPin(end) ? names.has(partOf(end)) : selection.has(end) || joined.has(end))
  const branches = (id: string) => drawing.wires.filter(({ ends }) => ends.includes(id) && ends.every(own)).length
  for (let loose = true; loose; ) {
    const gone = [...joined].filter((id) => branches(id) < 2)
    for (const id of gone) joined.delete(id)
    loose = gone.some((id) => !selection.has(id))
  }
  return {
    parts,
    spreads: spreads.filter((spread) => names.has(ownerOf(spread))),
    definitions: parts.some((part) => part.kind === 'statement') ? circuit.definitions : '',
    drawing: {
      symbols: Object.fromEntries(Object.entries(drawing.symbols).filter(([name]) => symbols.has(name))),
      marks: drawing.marks.filter(({ id }) => selection.has(id)),
      joints: drawing.joints.filter(({ id }) => own(id)),
      notes: drawing.notes.filter(({ id }) => selection.has(id)),
      wires: drawing.wires.filter(({ ends }) => own(ends[0]) && own(ends[1])),
    },
  }
}

/** The points that a fragment's origin is chosen from. */
function anchors(drawing: Drawing): Point[] {
  return [...Object.values(drawing.symbols), ...drawing.marks, ...drawing.joints, ...drawing.notes]
}

/** The middle of a fragment, on the grid. */
export function middleOf(drawing: Drawing): Point {
  const points = anchors(drawing)
  if (!points.length) return { x: 0, y: 0 }
  const { left, top, right, bottom } = boxOf(points)
  return onGrid({ x: (left + right) / 2, y: (top + bottom) / 2 })
}

/** Every place of a drawing sent through `pose` (what has a direction) or `point` (what has none). */
function mapped(
  drawing: Drawing,
  pose: <P extends Drawing['symbols'][string]>(at: P) => P,
  point: <P extends Point>(at: P) => P,
): Drawing {
  return {
    symbols: Object.fromEntries(Object.entries(drawing.symbols).map(([name, at]) => [name, pose(at)])),
    marks: drawing.marks.map((mark) => {
      const { x, y, turn } = pose({ ...mark, mirrored: false })
      return { ...mark, x, y, turn }
    }),
    joints: drawing.joints.map(point),
    notes: drawing.notes.map(point),
    wires: drawing.wires.map((wire) => ({ ...wire, points: asPairs(pointsOf(wire).map((at) => point(at))) })),
  }
}

export function movedDrawing(drawing: Drawing, by: Point): Drawing {
  const shift = <P extends Point>(at: P): P => ({ ...at, x: at.x + by.x, y: at.y + by.y })
  return mapped(drawing, shift, shift)
}

export function turnedDrawing(drawing: Drawing, centre: Point): Drawing {
  return mapped(drawing, (at) => turnedPose(at, centre), (at) => turnedPoint(at, centre))
}

export function mirroredDrawing(drawing: Drawing, centre: Point): Drawing {
  const pose = <P extends Drawing['symbols'][string]>(at: P) => mirroredPose(at, centre)
  return mapped(drawing, pose, (at) => mirroredPoint(at, centre))
}

/** The next free designator with these letters; `taken` grows by it. */
export function freeDesignator(letters: string, taken: Set<string>): string {
  let k = 1
  while (taken.has(`${letters}${k}`)) k += 1
  taken.add(`${letters}${k}`)
  return `${letters}${k}`
}

export interface Placing {
  circuit: Drawn
  spreads: Spread[]
  /** What was placed, as a selection. */
  placed: Set<string>
}

/**
 * A fragment put onto a sheet with its middle at `at`. Designators that are taken give way to free ones; nets keep
 * the names that marks give them. Where a free pin or mark comes to lie on something of the sheet, it is connected.
 */
export function placedFragment(
  circuit: Drawn, fragment: Fragment, at: Point, taken: ReadonlySet<string>, book: SymbolBook,
): Placing {
  const used = new Set(taken)
  const names = new Map<string, string>()
  for (const part of fragment.parts) {
    const wished = part.designator
    if (used.has(wished)) names.set(wished, freeDesignator(wished.replace(/\d+$/, ''), used))
    else {
      used.add(wished)
      names.set(wished, wished)
    }
  }
  const middle = middleOf(fragment.drawing)
  const moved = movedDrawing(fragment.drawing, { x: at.x - middle.x, y: at.y - middle.y })
  const ids = new Map<string, string>()
  let drawing = circuit.drawing
  const renamed = <T extends { id: string }>(items: T[], letter: string, list: 'marks' | 'joints' | 'notes') =>
    items.map((item) => {
      const id = freeId(drawing, letter)
      ids.set(item.id, id)
      drawing = { ...drawing, [list]: [...drawing[list], { ...item, id }] }
      return id
    })
  const marks = renamed(moved.marks, 'm', 'marks')
  const joints = renamed(moved.joints, 'j', 'joints')
  const notes = renamed(moved.notes, 't', 'notes')
  const end = (old: string) => (isPin(old) ? endOf(names.get(partOf(old)) ?? '', pinOf(old)) : (ids.get(old) ?? old))
  const symbolName = (old: string) => old.replace(/^[A-Z]+\d+/, (name) => names.get(name) ?? name)
  const symbols = Object.fromEntries(Object.entries(moved.symbols).map(([name, pose]) => [symbolName(name), pose]))
  const wires = moved.wires.map((wire) => ({ ...wire, ends: [end(wire.ends[0]), end(wire.ends[1])] as [string, string] }))
  drawing = { ...drawing, symbols: { ...drawing.symbols, ...symbols }, wires: [...drawing.wires, ...wires] }
  // Nets inside the fragment are told apart from those of the sheet until the drawing says what they are.
  const parts = fragment.parts.map((part) => {
    const own = new Map([...netByEnd([part])].map(([pin, net]) => [endOf(names.get(part.designator) ?? '', pinOf(pin)), net]))
    return withNets({ ...part, designator: names.get(part.designator) ?? part.designator }, own)
  })
  const present = new Set(netByEnd(circuit.parts).values())
  const apart = parts.map((part) => {
    const nets = new Map([...netByEnd([part])].map(([pin, net]) => [pin, present.has(net) || isUnnamed(net) ? '' : net]))
    return withNets(part, nets)
  })
  const definitions = circuit.definitions.includes(fragment.definitions)
    ? circuit.definitions
    : [circuit.definitions, fragment.definitions].filter(Boolean).join('\n')
  let next: Drawn = renet({ ...circuit, parts: [...circuit.parts, ...apart], drawing, definitions })
  next = snappedOn(next, circuit, new Set([...parts.map((part) => part.designator), ...marks, ...joints]), book)
  const spreads = fragment.spreads.map((spread) => ({ ...spread, of: renamedOf(spread, names) }))
  return { circuit: next, spreads, placed: new Set([...Object.keys(symbols), ...marks, ...joints, ...notes]) }
}

/** The circuit with every pin and mark of `mine` connected that lies on what was there before. */
function snappedOn(circuit: Drawn, before: Drawn, mine: ReadonlySet<string>, book: SymbolBook): Drawn {
  let next = circuit
  for (const [end, place] of placesOf(circuit, book)) {
    if (!mine.has(isPin(end) ? partOf(end) : end)) continue
    const target = targetAt(before, book, place)
    if (!target) continue
    const where = 'wire' in target ? (targetAt(next, book, place, new Set([end])) ?? target) : target
    next = connected(next, { end }, where, [place])
  }
  return next
}

/** The pins and marks of a fragment, seen from its middle. */
export function reachOf(fragment: Fragment, circuit: Drawn, book: SymbolBook): Point[] {
  const middle = middleOf(fragment.drawing)
  const drawing = movedDrawing(fragment.drawing, { x: -middle.x, y: -middle.y })
  return [...placesOf({ ...circuit, parts: fragment.parts, drawing }, book).values()]
}

/** A fragment of one part, standing at the origin. */
export function ofPart(part: Part, spreads: Spread[] = []): Fragment {
  const symbols = Object.fromEntries(
    symbolsOf(part).map(({ name }, k) => [name, { x: 0, y: 140 * k, turn: 0 as const, mirrored: false }]),
  )
  return { parts: [part], spreads, definitions: '', drawing: { ...emptyDrawing(), symbols } }
}

/** A fragment of one mark or note. */
export function ofDrawing(change: Partial<Drawing>): Fragment {
  return { parts: [], spreads: [], definitions: '', drawing: { ...emptyDrawing(), ...change } }
}

/** The whole of a drawn circuit. */
export function ofCircuit(circuit: Circuit): Fragment {
  return { parts: circuit.parts, spreads: [], definitions: circuit.definitions, drawing: circuit.drawing ?? emptyDrawing() }
}

/** What is held, as it would lie on the sheet. */
export function ghostOf(held: Fragment, at: Point, circuit: Drawn, book: SymbolBook) {
  const middle = middleOf(held.drawing)
  const drawing = movedDrawing(held.drawing, { x: at.x - middle.x, y: at.y - middle.y })
  const ghost: Drawn = { ...circuit, parts: held.parts, drawing }
  return {
    symbols: symbolsIn(ghost, book),
    wires: drawing.wires.map((wire) => ({ key: wireKey(wire), net: '', points: pointsOf(wire) })),
    marks: drawing.marks,
  }
}

/** A spread's quantity under the name that its part has now. */
function renamedOf(spread: Spread, names: ReadonlyMap<string, string>): string {
  const owner = ownerOf(spread)
  return (names.get(owner) ?? owner) + spread.of.slice(owner.length)
}
