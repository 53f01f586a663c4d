/** Points, boxes and quarter turns. Lengths in units of the sheet, of which the grid has ten; y points down. */

export interface Point {
  x: number
  y: number
}

export interface Box {
  left: number
  top: number
  right: number
  bottom: number
}

export type Turn = 0 | 1 | 2 | 3

/** Where something stands: its origin, quarter turns clockwise, and whether it is mirrored before it is turned. */
export interface Pose extends Point {
  turn: Turn
  mirrored: boolean
}

export const GRID = 10

/** The four ways a pin can look, as unit steps. */
export type Way = 'east' | 'south' | 'west' | 'north'
export const WAYS: readonly Way[] = ['east', 'south', 'west', 'north']
export const STEP: Record<Way, Point> = {
  east: { x: 1, y: 0 }, south: { x: 0, y: 1 }, west: { x: -1, y: 0 }, north: { x: 0, y: -1 },
}

export const snapped = (value: number) => Math.round(value / GRID) * GRID
export const onGrid = ({ x, y }: Point): Point => ({ x: snapped(x), y: snapped(y) })
export const plus = (a: Point, b: Point): Point => ({ x: a.x + b.x, y: a.y + b.y })
export const same = (a: Point, b: Point) => a.x === b.x && a.y === b.y
export const keyOf = ({ x, y }: Point) => `${x},${y}`

/** A point of a symbol, given about its origin, where the pose puts it on the sheet. */
export function posed(pose: Pose, { x, y }: Point): Point {
  let [u, v] = [pose.mirrored ? -x : x, y]
  for (let k = 0; k < pose.turn; k++) [u, v] = [-v, u]
  return { x: pose.x + u, y: pose.y + v }
}

/** Which way a pin looks once its symbol is posed. */
export function posedWay(pose: Pose, way: Way): Way {
  const { x, y } = posed({ ...pose, x: 0, y: 0 }, STEP[way])
  return WAYS.find((other) => STEP[other].x === x && STEP[other].y === y) ?? way
}

export function posedBox(pose: Pose, box: Box): Box {
  return boxOf([posed(pose, { x: box.left, y: box.top }), posed(pose, { x: box.right, y: box.bottom })])
}

/** The pose as an SVG transform. */
export const transformOf = ({ x, y, turn, mirrored }: Pose) =>
  `translate(${x} ${y})${turn ? ` rotate(${90 * turn})` : ''}${mirrored ? ' scale(-1 1)' : ''}`

/** A pose after a quarter turn clockwise about `centre`, or after mirroring left to right about it. */
export function turnedPose<P extends Pose>(pose: P, centre: Point): P {
  return { ...pose, ...turnedPoint(pose, centre), turn: ((pose.turn + 1) % 4) as Turn }
}

export function mirroredPose<P extends Pose>(pose: P, centre: Point): P {
  // Mirroring after turning is turning the other way after mirroring.
  return { ...pose, ...mirroredPoint(pose, centre), turn: ((4 - pose.turn) % 4) as Turn, mirrored: !pose.mirrored }
}

export const turnedPoint = <P extends Point>(point: P, centre: Point): P => ({
  ...point, x: centre.x - (point.y - centre.y), y: centre.y + (point.x - centre.x),
})
export const mirroredPoint = <P extends Point>(point: P, centre: Point): P => ({ ...point, x: 2 * centre.x - point.x })

/** The smallest box around some points. */
export function boxOf(points: readonly Point[]): Box {
  const xs = points.map(({ x }) => x)
  const ys = points.map(({ y }) => y)
  return { left: Math.min(...xs), top: Math.min(...ys), right: Math.max(...xs), bottom: Math.max(...ys) }
}

export const cornersOf = (box: Box): Point[] => [{ x: box.left, y: box.top }, { x: box.right, y: box.bottom }]
export const around = (boxes: readonly Box[]): Box => boxOf(boxes.flatMap(cornersOf))
export const grown = (box: Box, by: number): Box => ({
  left: box.left - by, top: box.top - by, right: box.right + by, bottom: box.bottom + by,
})
export const overlap = (a: Box, b: Box) => a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom
export const holds = (box: Box, { x, y }: Point) => x >= box.left && x <= box.right && y >= box.top && y <= box.bottom

/** Whether a straight piece from a to b, which is level or plumb, passes through the inside of a box. */
export function crosses(a: Point, b: Point, box: Box): boolean {
  const piece = boxOf([a, b])
  return piece.left < box.right && piece.right > box.left && piece.top < box.bottom && piece.bottom > box.top
}

/** Whether a point lies on the piece from a to b. */
export function isOn(point: Point, a: Point, b: Point): boolean {
  const { left, top, right, bottom } = boxOf([a, b])
  return (a.x === b.x || a.y === b.y) && point.x >= left && point.x <= right && point.y >= top && point.y <= bottom
}

/** The pieces of a polyline. */
export function piecesOf(points: readonly Point[]): [Point, Point][] {
  return points.slice(1).map((end, k) => [points[k] as Point, end])
}

/** Every grid point of a polyline. */
export function gridPoints(points: readonly Point[]): Point[] {
  return piecesOf(points).flatMap(([a, b]) => {
    const steps = Math.max(Math.abs(b.x - a.x), Math.abs(b.y - a.y)) / GRID
    return Array.from({ length: Math.floor(steps) + 1 }, (_, n) => ({ x: a.x + ((b.x - a.x) * n) / steps, y: a.y + ((b.y - a.y) * n) / steps }))
  })
}

/** A polyline without points that repeat or lie in the middle of a straight stretch. */
export function simplified(points: readonly Point[]): Point[] {
  const kept: Point[] = []
  for (const point of points) {
    const last = kept.at(-1)
    const before = kept.at(-2)
    if (last && same(last, point)) continue
    const straight = last && before && ((before.x === last.x && last.x === point.x) || (before.y === last.y && last.y === point.y))
    if (straight) kept.pop()
    kept.push(point)
  }
  return kept
}
