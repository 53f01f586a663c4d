import { boxOf, grown, holds, piecesOf, type Box, type Point } from './geometry'
import { markBox } from './pieces'
import type { Scene } from './scene'

/** What lies under the pointer. */
export type Hit =
  | { kind: 'end'; end: string; at: Point; net: string }
  | { kind: 'wire'; key: string; piece: number; at: Point; net: string }
  | { kind: 'item'; name: string }

const NEAR = 8

/** What a fixture is called in a selection. */
export const fixtureKey = (name: string) => `fixture:${name}`

/** The thing at a point of the sheet: a pin, mark or joint before a wire, a wire before a body. */
export function hitAt(scene: Scene, joints: readonly { id: string; x: number; y: number }[], at: Point): Hit | null {
  const near = (point: Point) => Math.hypot(point.x - at.x, point.y - at.y) <= NEAR
  for (const symbol of scene.symbols) {
    for (const pin of symbol.pins) if (near(pin)) return { kind: 'end', end: pin.end, at: { x: pin.x, y: pin.y }, net: pin.net }
  }
  for (const joint of joints) if (near(joint)) return { kind: 'end', end: joint.id, at: { x: joint.x, y: joint.y }, net: netAt(scene, joint) }
  for (const mark of scene.marks) if (near(mark)) return { kind: 'end', end: mark.id, at: { x: mark.x, y: mark.y }, net: mark.net }
  for (const wire of scene.wires) {
    for (const [piece, [a, b]] of piecesOf(wire.points).entries()) {
      if (holds(grown(boxOf([a, b]), 5), at)) return { kind: 'wire', key: wire.key, piece, net: wire.net, at: onPiece(a, b, at) }
    }
  }
  for (const mark of scene.marks) if (holds(markBox(mark), at)) return { kind: 'item', name: mark.id }
  for (const note of scene.notes) if (holds(note.box, at)) return { kind: 'item', name: note.id }
  for (const symbol of scene.symbols) {
    if (holds(grown(symbol.body, 3), at) || symbol.texts.some(({ box }) => holds(box, at))) return { kind: 'item', name: symbol.name }
  }
  const fixture = scene.fixtures.find(({ box }) => holds(box, at))
  if (fixture) return { kind: 'item', name: fixtureKey(fixture.fixture.name) }
  return null
}

const netAt = (scene: Scene, { id }: { id: string }) => scene.wires.find(({ ends }) => ends.includes(id))?.net ?? ''

/** The grid point of a level or plumb piece that is nearest to a point. */
function onPiece(a: Point, b: Point, at: Point): Point {
  const between = (value: number, p: number, q: number) => Math.min(Math.max(Math.round(value / 10) * 10, Math.min(p, q)), Math.max(p, q))
  return a.y === b.y ? { x: between(at.x, a.x, b.x), y: a.y } : { x: a.x, y: between(at.y, a.y, b.y) }
}

/** All that lies inside a box: symbols, marks, notes and joints whole, wires with every point. */
export function inBox(scene: Scene, joints: readonly { id: string; x: number; y: number }[], box: Box): Set<string> {
  const whole = (inner: Box) => inner.left >= box.left && inner.right <= box.right && inner.top >= box.top && inner.bottom <= box.bottom
  return new Set([
    ...scene.symbols.filter((symbol) => whole(symbol.body)).map(({ name }) => name),
    ...scene.marks.filter((mark) => holds(box, mark)).map(({ id }) => id),
    ...joints.filter((joint) => holds(box, joint)).map(({ id }) => id),
    ...scene.notes.filter((note) => whole(note.box)).map(({ id }) => id),
    ...scene.wires.filter(({ points }) => points.length > 1 && whole(boxOf(points))).map(({ key }) => key),
  ])
}
