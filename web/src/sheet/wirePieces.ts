import type { Drawn, Wire } from './ends'
import { isOn, overlap, boxOf, grown, piecesOf, plus, simplified, type Point } from './geometry'
import { Refusal } from './nets'
import { symbolsIn } from './pieces'
import { asPairs, pointsOf, wireKey, wireNets } from './routing'
import type { SymbolBook } from './symbols'

/** One level or plumb piece of a wire, counted from the wire's first end. */
export interface Piece {
  wire: string
  index: number
}

/** How far a piece goes that is dragged: across itself only. */
export function across(points: readonly Point[], index: number, by: Point): Point {
  const [a, b] = [points[index], points[index + 1]]
  if (!a || !b) return { x: 0, y: 0 }
  return a.y === b.y ? { x: 0, y: by.y } : { x: by.x, y: 0 }
}

/** A wire's points with one piece shifted across itself; its ends stay, so a piece at an end gets a bend there. */
export function shifted(points: readonly Point[], index: number, by: Point): Point[] {
  const [a, b] = [points[index], points[index + 1]]
  if (!a || !b) return [...points]
  const way = across(points, index, by)
  const before = index === 0 ? [a] : points.slice(0, index)
  const after = index === points.length - 2 ? [b] : points.slice(index + 2)
  return simplified([...before, plus(a, way), plus(b, way), ...after])
}

/** The piece that a key moves: the longest one that lies across its way. */
export function pieceAcross(points: readonly Point[], by: Point): number | undefined {
  const lengths = piecesOf(points).map(([a, b]) => ((a.y === b.y) === (by.y !== 0) ? Math.abs(a.x - b.x) + Math.abs(a.y - b.y) : 0))
  const longest = Math.max(0, ...lengths)
  return longest ? lengths.indexOf(longest) : undefined
}

/** The circuit with a piece of a wire moved. Refuses where the wire would then touch what it is not connected to. */
export function pieceMoved(circuit: Drawn, piece: Piece, by: Point, book: SymbolBook): Drawn {
  const { drawing } = circuit
  const wire = drawing.wires.find((each) => wireKey(each) === piece.wire)
  if (!wire) return circuit
  const points = shifted(pointsOf(wire), piece.index, by)
  const nets = wireNets(circuit)
  const net = nets.get(piece.wire)
  for (const [a, b] of piecesOf(points)) {
    for (const symbol of symbolsIn(circuit, book)) {
      if (overlap(grown(boxOf([a, b]), 1), symbol.body)) throw new Refusal(`${symbol.name} stands there. Lead the wire around it.`)
      const met = symbol.pins.find((pin) => pin.net !== net && isOn(pin, a, b))
      if (met) throw new Refusal(`The wire would touch ${met.end}, which it is not connected to. Lead it around.`)
    }
    if (drawing.wires.some((other) => nets.get(wireKey(other)) !== net && liesOn(other, a, b))) {
      throw new Refusal('Another net’s wire lies there. Lead this one beside it.')
    }
  }
  const wires = drawing.wires.map((each): Wire => (each === wire ? { ...each, points: asPairs(points) } : each))
  return { ...circuit, drawing: { ...drawing, wires } }
}

/** Whether a wire has a piece on the same line as another piece, over some length; or ends on it. */
function liesOn(wire: Wire, a: Point, b: Point): boolean {
  const points = pointsOf(wire)
  const ends = [points[0], points.at(-1)]
  if (ends.some((end) => end && isOn(end, a, b))) return true
  return piecesOf(points).some(([p, q]) => {
    const isLevel = a.y === b.y
    if (isLevel !== (p.y === q.y)) return false
    const [line, other] = isLevel ? [a.y, p.y] : [a.x, p.x]
    const of = (one: Point, two: Point) => (isLevel ? [Math.min(one.x, two.x), Math.max(one.x, two.x)] : [Math.min(one.y, two.y), Math.max(one.y, two.y)]) as [number, number]
    const [[from, to], [start, stop]] = [of(a, b), of(p, q)]
    return line === other && from < stop && start < to
  })
}
