import { netByEnd, type Drawing, type Drawn } from './ends'
import { around, gridPoints, type Point } from './geometry'
import { renet } from './nets'
import { asPairs, Surroundings } from './routing'
import type { SymbolBook } from './symbols'

/** Wires for every net of a drawing that has symbols and marks only; where one finds no way, names join the pieces. */
export function wired(circuit: Drawn, book: SymbolBook): Drawn {
  const drawing: Drawing = { ...circuit.drawing, marks: [...circuit.drawing.marks], joints: [], wires: [] }
  const surroundings = new Surroundings(circuit, book)
  const ends = new Map<string, string[]>()
  const add = (net: string, end: string) => ends.set(net, [...(ends.get(net) ?? []), end])
  for (const [end, net] of netByEnd(circuit.parts)) add(net, end)
  const place = (end: string) => surroundings.places.get(end) as Point
  const lying: { net: string; points: Point[] }[] = []
  // Marks sit on their pins.
  for (const mark of drawing.marks) {
    const pin = (ends.get(mark.net) ?? []).find((end) => place(end).x === mark.x && place(end).y === mark.y)
    if (pin) drawing.wires.push({ ends: [pin, mark.id], points: [[mark.x, mark.y]] })
  }
  const marked = new Set(drawing.marks.map(({ net }) => net))
  const spread = (net: string) => {
    const box = around((ends.get(net) ?? []).map((end) => ({ left: place(end).x, right: place(end).x, top: place(end).y, bottom: place(end).y })))
    return box.right - box.left + box.bottom - box.top
  }
  const nets = [...ends.keys()].filter((net) => !marked.has(net) && (ends.get(net)?.length ?? 0) > 1)
  for (const net of nets.sort((a, b) => spread(a) - spread(b))) {
    const left = [...(ends.get(net) ?? [])].sort((a, b) => place(a).x - place(b).x)
    const first = left.shift() as string
    const tree: { points: Point[]; ends: [string, string] }[] = []
    const reached = [first]
    const failed: string[] = []
    while (left.length) {
      // The nearest pin to what is wired already comes next.
      const near = (end: string) =>
        Math.min(...[...reached.map(place), ...tree.flatMap(({ points }) => points)].map((p) => Math.abs(p.x - place(end).x) + Math.abs(p.y - place(end).y)))
      left.sort((a, b) => near(a) - near(b))
      const end = left.shift() as string
      const goals = [...reached.map(place), ...tree.flatMap(({ points }) => gridPoints(points))]
      const grid = surroundings.gridFor(net, lying)
      const points = grid.route(place(end), goals, surroundings.leaving(end))
      if (!points) {
        failed.push(end)
        continue
      }
      const at = points.at(-1) as Point
      const pin = reached.find((other) => place(other).x === at.x && place(other).y === at.y)
      tree.push({ points, ends: [end, pin ?? joint(drawing, tree, at)] })
      reached.push(end)
    }
    for (const wire of tree) {
      lying.push({ net, points: wire.points })
      drawing.wires.push({ ends: wire.ends, points: asPairs(wire.points) })
    }
    for (const end of failed.length ? [first, ...failed] : []) {
      const id = `m${drawing.marks.length + 1}`
      const { x, y } = place(end)
      drawing.marks.push({ id, kind: 'label', net, x, y, turn: surroundings.leaving(end)[0] === 'west' ? 2 : 0 })
      drawing.wires.push({ ends: [end, id], points: [[x, y]] })
    }
  }
  return renet({ ...circuit, drawing })
}

/** A joint at a point of a tree of wires: the wire that passes there is cut in two. */
function joint(drawing: Drawing, tree: { points: Point[]; ends: [string, string] }[], at: Point): string {
  const present = drawing.joints.find(({ x, y }) => x === at.x && y === at.y)
  if (present) return present.id
  const id = `j${drawing.joints.length + 1}`
  drawing.joints.push({ id, ...at })
  for (const [k, wire] of tree.entries()) {
    const piece = wire.points.slice(1).findIndex((b, n) => {
      const a = wire.points[n] as Point
      return at.x >= Math.min(a.x, b.x) && at.x <= Math.max(a.x, b.x) && at.y >= Math.min(a.y, b.y) && at.y <= Math.max(a.y, b.y)
    })
    if (piece < 0) continue
    const clean = (points: Point[]) => points.filter((p, n) => n === 0 || p.x !== (points[n - 1] as Point).x || p.y !== (points[n - 1] as Point).y)
    const before = clean([...wire.points.slice(0, piece + 1), at])
    const after = clean([at, ...wire.points.slice(piece + 1)])
    tree.splice(k, 1, { points: before, ends: [wire.ends[0], id] }, { points: after, ends: [id, wire.ends[1]] })
    break
  }
  return id
}
