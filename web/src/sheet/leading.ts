import { boxOf, piecesOf, type Box, type Point } from './geometry'
import { markText } from './pieces'
import type { Scene } from './scene'

/** A way from the right edge of the sheet to what a card speaks of: level at `y` first, then straight to `end`. */
export interface Lead {
  y: number
  end: Point
}

/** Places on a wire that are tried, from one to the next. */
const STEP = 20

/**
 * The way that crosses the fewest words and symbols: to a net's wires, or to a part. `heights` are where it may leave
 * the card, the best first. Null for what is not drawn.
 */
export function leadTo(scene: Scene, subject: { net?: string; part?: string }, right: number, heights: readonly number[]): Lead | null {
  const obstacles = obstaclesOf(scene)
  const levels = heights.map((y) => obstacles.filter((box) => box.top < y && y < box.bottom))
  let best: (Lead & { cost: number }) | null = null
  for (const end of endsOf(scene, subject)) {
    const column = obstacles.filter((box) => box.left < end.x && end.x < box.right)
    for (const [rank, y] of heights.entries()) {
      const [low, high] = [Math.min(end.x, right), Math.max(end.x, right)]
      const [top, bottom] = span(y, end.y)
      const crossed = count(levels[rank] ?? [], (box) => box.left < high && low < box.right) + count(column, (box) => box.top < bottom && top < box.bottom)
      const cost = 10 * crossed + rank + Math.abs(end.y - y) / 1000
      if (!best || cost < best.cost) best = { y, end, cost }
    }
  }
  return best && { y: best.y, end: best.end }
}

/** The plumb piece from a height to just before the end, so that what it stands on does not count. */
function span(y: number, end: number): [number, number] {
  return y < end ? [y, Math.max(y, end - 4)] : [Math.min(y, end + 4), y]
}

function count(boxes: readonly Box[], test: (box: Box) => boolean): number {
  let found = 0
  for (const box of boxes) if (test(box)) found += 1
  return found
}

function endsOf(scene: Scene, { net, part }: { net?: string; part?: string }): Point[] {
  const symbol = scene.symbols.find(({ name }) => part && (name === part || name.startsWith(`${part}.`)))
  if (symbol) {
    const middle = (symbol.body.left + symbol.body.right) / 2
    const { right, top, bottom } = symbol.body
    return [{ x: middle, y: top }, { x: middle, y: bottom }, { x: right, y: (top + bottom) / 2 }]
  }
  const fixture = scene.fixtures.find((drawing) => drawing.fixture.name === part)
  if (fixture) return [{ x: fixture.box.right, y: fixture.box.top }]
  const wires = [...scene.wires, ...scene.fixtureWires].filter((wire) => wire.net === net && wire.points.length > 1)
  const found = wires.flatMap(({ points }) => piecesOf(points).flatMap(([a, b]) => (a.y === b.y ? between(a, b) : [])))
  if (found.length) return found
  const mark = scene.marks.find((each) => each.net === net)
  if (mark) return [{ x: markText(mark).x, y: mark.y }]
  return scene.symbols.flatMap(({ pins }) => pins).filter((pin) => pin.net === net).slice(0, 1)
}

function between(a: Point, b: Point): Point[] {
  const [left, right] = a.x < b.x ? [a.x, b.x] : [b.x, a.x]
  const count = Math.max(1, Math.floor((right - left) / STEP))
  return Array.from({ length: count }, (_, k) => ({ x: left + (k + 0.5) * ((right - left) / count), y: a.y }))
}

function obstaclesOf(scene: Scene): Box[] {
  return [
    ...scene.symbols.flatMap(({ body, texts }) => [body, ...texts.map(({ box }) => box)]),
    ...scene.fixtures.flatMap(({ box, texts }) => [box, ...texts.map((text) => text.box)]),
    ...scene.labels.map(({ box }) => box), ...scene.notes.map(({ box }) => box),
    ...scene.marks.map((mark) => boxOf([{ x: mark.x, y: mark.y }, { x: markText(mark).box.left, y: markText(mark).box.top }, { x: markText(mark).box.right, y: markText(mark).box.bottom }])),
  ]
}
