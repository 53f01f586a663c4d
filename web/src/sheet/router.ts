import { GRID, STEP, WAYS, boxOf, piecesOf, simplified, type Box, type Point, type Way } from './geometry'

/**
 * Orthogonal wires around symbols, by A* on the grid (Hart, Nilsson and Raphael 1968), where a bend costs more than a
 * step. Wires of other nets may be crossed at right angles, never run along; bodies, pins and joints are in the way.
 */
const BODY = 1
const TEXT = 2
const LEVEL = 4
const PLUMB = 8
const TAKEN = 16
const OWN = 32

const BEND = 6
const CROSSING = 8
const OVER_TEXT = 30
const ALONG_OWN = 4

/** Memory of the search, kept from one to the next: what does not carry the present run's stamp is old. */
const scratch = { cost: new Float64Array(0), from: new Int32Array(0), stamp: new Int32Array(0), run: 0 }

export class RoutingGrid {
  private readonly columns: number
  private readonly rows: number
  private readonly left: number
  private readonly top: number
  private readonly cells: Uint8Array

  /** A grid over `area`, with room for wires around it. */
  constructor(area: Box, room = 120) {
    this.left = Math.floor((area.left - room) / GRID)
    this.top = Math.floor((area.top - room) / GRID)
    this.columns = Math.ceil((area.right + room) / GRID) - this.left + 1
    this.rows = Math.ceil((area.bottom + room) / GRID) - this.top + 1
    const count = this.columns * this.rows
    this.cells = new Uint8Array(count)
    if (scratch.cost.length < count * 4) {
      scratch.cost = new Float64Array(count * 4)
      scratch.from = new Int32Array(count * 4)
      scratch.stamp = new Int32Array(count * 4)
    }
  }

  private index({ x, y }: Point): number {
    const column = Math.round(x / GRID) - this.left
    const row = Math.round(y / GRID) - this.top
    return column < 0 || row < 0 || column >= this.columns || row >= this.rows ? -1 : row * this.columns + column
  }

  private point(index: number): Point {
    return { x: (this.left + (index % this.columns)) * GRID, y: (this.top + Math.floor(index / this.columns)) * GRID }
  }

  /** A symbol's body: nothing leads through it. */
  addBody(box: Box) {
    this.fill(box, BODY)
  }

  /** Words, which wires go over only where there is no other way. */
  addText(box: Box) {
    this.fill(box, TEXT)
  }

  /** A wire of the net that is being routed: better not on top of it. */
  addOwn(points: readonly Point[]) {
    for (const [a, b] of piecesOf(points)) this.fill(boxOf([a, b]), OWN)
  }

  private fill(box: Box, sign: number) {
    for (let y = Math.ceil(box.top / GRID) * GRID; y <= box.bottom; y += GRID) {
      for (let x = Math.ceil(box.left / GRID) * GRID; x <= box.right; x += GRID) {
        const k = this.index({ x, y })
        if (k >= 0) this.cells[k] = (this.cells[k] ?? 0) | sign
      }
    }
  }

  /** A pin, mark or joint: only wires that end there may touch it. */
  addPoint(point: Point) {
    const k = this.index(point)
    if (k >= 0) this.cells[k] = (this.cells[k] ?? 0) | TAKEN
  }

  /** A wire: others cross it at right angles, and not at its bends. */
  addWire(points: readonly Point[]) {
    points.forEach((point) => this.addPoint(point))
    for (const [a, b] of piecesOf(points)) {
      this.fill(boxOf([a, b]), a.y === b.y ? LEVEL : PLUMB)
    }
  }

  /**
   * The cheapest way from `start`, leaving it in one of the ways given, to any of `goals`; null where there is none.
   * Goals and the start may lie on taken points.
   */
  route(start: Point, goals: readonly Point[], leaving: readonly Way[] = WAYS): Point[] | null {
    const first = this.index(start)
    const targets = new Set(goals.map((goal) => this.index(goal)).filter((k) => k >= 0))
    if (first < 0 || !targets.size) return null
    if (targets.has(first)) return [start]
    const { cost: costs, from: origins, stamp } = scratch
    const run = (scratch.run += 1)
    const heap = new Heap()
    const reach = goals.map((goal) => ({ x: Math.round(goal.x / GRID) - this.left, y: Math.round(goal.y / GRID) - this.top }))
    const estimate = (cell: number) => {
      const x = cell % this.columns
      const y = Math.floor(cell / this.columns)
      let least = Infinity
      for (const goal of reach) least = Math.min(least, Math.abs(goal.x - x) + Math.abs(goal.y - y))
      return least
    }
    const offer = (cell: number, way: number, cost: number, from: number) => {
      const state = cell * 4 + way
      if (stamp[state] === run && (costs[state] ?? 0) <= cost) return
      stamp[state] = run
      costs[state] = cost
      origins[state] = from
      heap.push(state, cost + estimate(cell))
    }
    WAYS.forEach((way, k) => offer(first, k, leaving.includes(way) ? 0 : 3 * BEND, -1))
    for (let state = heap.pop(); state >= 0; state = heap.pop()) {
      const cell = state >> 2
      const way = state & 3
      if (targets.has(cell)) return this.trace(state)
      const cost = costs[state] ?? 0
      for (let turn = 0; turn < 4; turn++) {
        if (((turn + 2) & 3) === way && cell !== first) continue
        // Where another wire passes, one can only go straight on.
        if (turn !== way && cell !== first && (this.cells[cell] ?? 0) & (LEVEL | PLUMB)) continue
        const next = this.neighbour(cell, turn)
        if (next < 0) continue
        const sign = this.cells[next] ?? 0
        const goal = targets.has(next)
        const along = turn & 1 ? PLUMB : LEVEL
        if (!goal && sign & (BODY | TAKEN | along)) continue
        const crossing = !goal && sign & (LEVEL | PLUMB) ? CROSSING : 0
        const over = (sign & TEXT ? OVER_TEXT : 0) + (sign & OWN && !goal ? ALONG_OWN : 0)
        offer(next, turn, cost + 1 + crossing + over + (turn !== way && cell !== first ? BEND : turn !== way ? 3 * BEND : 0), state)
      }
    }
    return null
  }

  private neighbour(cell: number, way: number): number {
    const column = cell % this.columns
    const { x, y } = STEP[WAYS[way] as Way]
    if (column + x < 0 || column + x >= this.columns) return -1
    const next = cell + x + y * this.columns
    return next >= 0 && next < this.cells.length ? next : -1
  }

  private trace(last: number): Point[] {
    const points: Point[] = []
    for (let state = last; state >= 0; state = scratch.from[state] ?? -1) points.unshift(this.point(state >> 2))
    return simplified(points)
  }
}

/** A binary heap of states by cost. */
class Heap {
  private readonly states: number[] = []
  private readonly costs: number[] = []

  push(state: number, cost: number) {
    let k = this.states.length
    this.states.push(state)
    this.costs.push(cost)
    while (k > 0) {
      const parent = (k - 1) >> 1
      if ((this.costs[parent] ?? 0) <= cost) break
      this.swap(k, parent)
      k = parent
    }
  }

  pop(): number {
    const top = this.states[0]
    if (top === undefined) return -1
    const state = this.states.pop() as number
    const cost = this.costs.pop() as number
    if (this.states.length) {
      this.states[0] = state
      this.costs[0] = cost
      let k = 0
      for (;;) {
        const child = 2 * k + 1
        if (child >= this.states.length) break
        const least = child + 1 < this.states.length && (this.costs[child + 1] ?? 0) < (this.costs[child] ?? 0) ? child + 1 : child
        if ((this.costs[least] ?? 0) >= (this.costs[k] ?? 0)) break
        this.swap(k, least)
        k = least
      }
    }
    return top
  }

  private swap(a: number, b: number) {
    const [state, cost] = [this.states[a] as number, this.costs[a] as number]
    this.states[a] = this.states[b] as number
    this.costs[a] = this.costs[b] as number
    this.states[b] = state
    this.costs[b] = cost
  }
}

/** A plain way with at most two bends, for while something is being dragged. */
export function elbow(a: Point, b: Point, level: boolean): Point[] {
  if (a.x === b.x || a.y === b.y) return simplified([a, b])
  return simplified([a, level ? { x: b.x, y: a.y } : { x: a.x, y: b.y }, b])
}
