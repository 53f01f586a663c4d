import type { Drawn } from './ends'
import { ghostOf, reachOf, type Fragment } from './fragment'
import { around, grown, gridPoints, keyOf, onGrid, overlap, plus, type Point } from './geometry'
import { markBox } from './pieces'
import { pointsOf, Surroundings } from './routing'
import type { SymbolBook } from './symbols'

/** Where something can stand without touching anything. */

/** Between what is placed and what stands there already: room for a name and a wire. */
const APART = 20
const STEPS = [0, 40, 80, 120, 160, 200, 240, 320, 400, 480, 600, 800]

/** Shifts of a place, the nearest first, to the right and below before the others. */
const SHIFTS: Point[] = STEPS.flatMap((x) => STEPS.flatMap((y) => [{ x, y }, { x, y: -y }, { x: -x, y }, { x: -x, y: -y }]))
  .map((shift) => ({ shift, far: Math.hypot(shift.x, 1.2 * shift.y) + (shift.x < 0 ? 15 : 0) + (shift.y < 0 ? 10 : 0) }))
  .sort((a, b) => a.far - b.far)
  .map(({ shift }) => shift)

/** The free place nearest to `near` for the middle of a fragment: nothing lies below it, and none of its pins meets. */
export function freeRoom(circuit: Drawn, fragment: Fragment, near: Point, book: SymbolBook): Point {
  const surroundings = new Surroundings(circuit, book)
  const wires = circuit.drawing.wires.flatMap((wire) => gridPoints(pointsOf(wire)))
  const met = new Set([...surroundings.places.values(), ...wires].map(keyOf))
  const bodies = [
    ...surroundings.symbols.map(({ box, texts }) => around([box, ...texts.map((text) => text.box)])),
    ...circuit.drawing.marks.map(markBox),
    ...wires.map(({ x, y }) => grown({ left: x, right: x, top: y, bottom: y }, 1)),
  ]
  const own = ghostOf(fragment, { x: 0, y: 0 }, circuit, book)
  const mine = grown(around([...own.symbols.map(({ box, texts }) => around([box, ...texts.map((text) => text.box)])), ...own.marks.map(markBox)]), APART)
  const reach = reachOf(fragment, circuit, book)
  const start = onGrid(near)
  const isFree = (at: Point) => {
    const box = { left: mine.left + at.x, right: mine.right + at.x, top: mine.top + at.y, bottom: mine.bottom + at.y }
    return !bodies.some((body) => overlap(body, box)) && !reach.some((end) => met.has(keyOf(plus(at, end))))
  }
  return SHIFTS.map((shift) => plus(start, shift)).find(isFree) ?? { x: Math.max(...bodies.map(({ right }) => right)) - mine.left, y: start.y }
}
