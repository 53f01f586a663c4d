import type { Drawn, Drawing, Wire } from './ends'
import { placesOf } from './ends'
import { isOn, keyOf, piecesOf, same, simplified, type Point } from './geometry'
import { renet } from './nets'
import { asPairs, pointsOf, Surroundings, wireKey, wireNets } from './routing'
import type { SymbolBook } from './symbols'

/** Where a wire can begin or end: a pin, mark or joint, a point on another wire, or a free point of the sheet. */
export type Target = { end: string } | { wire: string; at: Point } | { free: Point }

/** The next free identifier with a letter in front, such as "j4". */
export function freeId(drawing: Drawing, letter: string): string {
  const used = new Set([...drawing.marks, ...drawing.joints, ...drawing.notes].map(({ id }) => id))
  let k = used.size + 1
  while (used.has(`${letter}${k}`)) k += 1
  return `${letter}${k}`
}

/** The end that a target is, after a joint has been made for it where there is none yet. */
export function settled(circuit: Drawn, target: Target): { circuit: Drawn; end: string } {
  if ('end' in target) return { circuit, end: target.end }
  const { drawing } = circuit
  const id = freeId(drawing, 'j')
  if ('free' in target) {
    const joints = [...drawing.joints, { id, ...target.free }]
    return { circuit: { ...circuit, drawing: { ...drawing, joints } }, end: id }
  }
  const wire = drawing.wires.find((other) => wireKey(other) === target.wire)
  if (!wire) return settled(circuit, { free: target.at })
  const [before, after] = cut(pointsOf(wire), target.at)
  const wires = drawing.wires.flatMap((other): Wire[] =>
    other !== wire
      ? [other]
      : [{ ends: [wire.ends[0], id], points: asPairs(before) }, { ends: [id, wire.ends[1]], points: asPairs(after) }],
  )
  return { circuit: { ...circuit, drawing: { ...drawing, wires, joints: [...drawing.joints, { id, ...target.at }] } }, end: id }
}

function cut(points: Point[], at: Point): [Point[], Point[]] {
  const k = piecesOf(points).findIndex(([a, b]) => isOn(at, a, b))
  return [simplified([...points.slice(0, k + 1), at]), simplified([at, ...points.slice(k + 1)])]
}

/** A wire between two targets, along `points`; the nets become one. Refuses what joins two names. */
export function connected(circuit: Drawn, from: Target, to: Target, points?: Point[]): Drawn {
  const first = settled(circuit, from)
  const second = settled(first.circuit, to)
  const ends: [string, string] = [first.end, second.end]
  const next = second.circuit
  if (ends[0] === ends[1]) return circuit
  const key = `${ends[0]}|${ends[1]}`
  if (next.drawing.wires.some((wire) => wireKey(wire) === key || wireKey(wire) === `${ends[1]}|${ends[0]}`)) return circuit
  const wires = [...next.drawing.wires, { ends, points: asPairs(points ?? [{ x: 0, y: 0 }]) }]
  return renet({ ...next, drawing: { ...next.drawing, wires } })
}

/** How many wires end at each joint. */
function counts(drawing: Drawing): Map<string, number> {
  const found = new Map(drawing.joints.map(({ id }) => [id, 0]))
  for (const { ends } of drawing.wires) for (const end of ends) if (found.has(end)) found.set(end, (found.get(end) ?? 0) + 1)
  return found
}

/** The drawing without wires that lead nowhere, and without joints that join nothing any more; `corners` may stay. */
export function tidied(drawing: Drawing, corners: ReadonlySet<string> = new Set()): Drawing {
  let { wires, joints } = drawing
  for (;;) {
    const loose = new Set([...counts({ ...drawing, wires, joints })].filter(([, n]) => n < 2).map(([id]) => id))
    if (!loose.size) break
    wires = wires.filter(({ ends }) => !loose.has(ends[0]) && !loose.has(ends[1]))
    joints = joints.filter(({ id }) => !loose.has(id))
  }
  for (const [id, n] of counts({ ...drawing, wires, joints })) {
    if (n !== 2 || corners.has(id)) continue
    const [one, other] = wires.filter(({ ends }) => ends.includes(id))
    if (!one || !other) continue
    const towards = one.ends[1] === id ? pointsOf(one) : pointsOf(one).reverse()
    const away = other.ends[0] === id ? pointsOf(other) : pointsOf(other).reverse()
    const ends: [string, string] = [one.ends[1] === id ? one.ends[0] : one.ends[1], other.ends[0] === id ? other.ends[1] : other.ends[0]]
    if (ends[0] === ends[1]) continue
    const joined: Wire = { ends, points: asPairs(simplified([...towards, ...away])) }
    wires = [...wires.filter((wire) => wire !== one && wire !== other), joined]
    joints = joints.filter((joint) => joint.id !== id)
  }
  return { ...drawing, wires: distinct(wires), joints }
}

/** Of wires between the same ends, the first one. */
function distinct(wires: Wire[]): Wire[] {
  const seen = new Set<string>()
  return wires.filter((wire) => {
    const key = [...wire.ends].sort().join('|')
    if (seen.has(key)) return false
    seen.add(key)
    return true
  })
}

/** Corners that somebody set: joints with two wires. */
export const cornersOf = (drawing: Drawing) => new Set([...counts(drawing)].filter(([, n]) => n === 2).map(([id]) => id))

/** Where three or more conductors meet, and so a dot is due: ends of wires, pins' leads, and signs that are wired. */
export function dotsOf(ends: readonly Point[], wires: readonly (readonly Point[])[]): Point[] {
  const meeting = new Map<string, { at: Point; count: number }>()
  const add = (at: Point) => {
    const here = meeting.get(keyOf(at)) ?? { at: { x: at.x, y: at.y }, count: 0 }
    here.count += 1
    meeting.set(keyOf(at), here)
  }
  ends.forEach(add)
  const long = wires.filter((points) => points.length > 1)
  for (const points of long) for (const at of [points[0], points.at(-1)]) if (at) add(at)
  return [...meeting.values()].filter(({ count }) => count > 2).map(({ at }) => at)
}

/** What lies at a point of the sheet that a wire can meet; `own` are ends that do not count. */
export function targetAt(circuit: Drawn, book: SymbolBook, at: Point, own: ReadonlySet<string> = new Set()): Target | null {
  for (const [end, place] of placesOf(circuit, book)) if (!own.has(end) && same(place, at)) return { end }
  for (const wire of circuit.drawing.wires) {
    if (own.has(wire.ends[0]) || own.has(wire.ends[1])) continue
    if (piecesOf(pointsOf(wire)).some(([a, b]) => isOn(at, a, b))) return { wire: wireKey(wire), at }
  }
  return null
}

/** A new wire's way around what is on the sheet. */
export function wayOf(circuit: Drawn, book: SymbolBook, from: Target, start: Point, at: Point): Point[] {
  if (start.x === at.x && start.y === at.y) return [start]
  const surroundings = new Surroundings(circuit, book)
  const { circuit: ready, end } = settled(circuit, from)
  const net = netOf(ready, end)
  const nets = wireNets(circuit)
  const lying = circuit.drawing.wires.map((wire) => ({ net: nets.get(wireKey(wire)) ?? '', points: pointsOf(wire) }))
  const leaving = 'end' in from ? surroundings.leaving(from.end) : undefined
  const points = surroundings.gridFor(net, lying).route(start, [at], leaving)
  return points ?? [start, { x: at.x, y: start.y }, at]
}

function netOf(circuit: Drawn, end: string): string {
  const wire = circuit.drawing.wires.find(({ ends }) => ends.includes(end))
  const found = wire && wireNets(circuit).get(wireKey(wire))
  return found ?? ''
}
