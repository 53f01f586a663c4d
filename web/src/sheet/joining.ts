import type { Circuit, Part, Spread } from '@/api/client'
import { endOf, isPin, netByEnd, partOf, pinOf, placesOf, withNets, type Drawn, type Mark } from './ends'
import { ofPart, placedFragment, type Placing } from './fragment'
import { crosses, isOn, onGrid, overlap, piecesOf, plus, same, type Point, type Turn } from './geometry'
import { isUnnamed } from './nets'
import { markBox, markText, symbolsIn } from './pieces'
import { freeRoom } from './room'
import { pointsOf, rerouted } from './routing'
import type { SymbolBook } from './symbols'
import { connected, freeId } from './wiring'

/** A part that is put onto the nets that were typed with it: wired where they are near, joined by name where not. */

/** Longer wires than this are left out; the names on both sides say that they are one net. */
const LONG = 260
const isRail = (net: string) => /^[+-]\d/.test(net)
/** Nets that have a sign of their own at every pin. */
const isSigned = (net: string) => net === 'gnd' || isRail(net)

/** The part beside what is on its nets already, joined to them; `nets` by pin. */
export function placedOnNets(
  circuit: Drawn, part: Part, spreads: Spread[], nets: Readonly<Record<string, string>>, near: Point,
  taken: ReadonlySet<string>, book: SymbolBook,
): Placing {
  const fragment = ofPart(part, spreads)
  const on = Object.values(nets).map((net) => (isSigned(net) ? undefined : endsOn(circuit, net, book).at(-1)?.at))
  const turn = on.length === 2 ? turnFor(Object.values(nets) as [string, string], on as [Point?, Point?]) : 0
  const [name = ''] = Object.keys(fragment.drawing.symbols)
  const pose = { x: 0, y: 0, turn, mirrored: false }
  const turnedSo = { ...fragment, drawing: { ...fragment.drawing, symbols: { ...fragment.drawing.symbols, [name]: pose } } }
  const at = freeRoom(circuit, turnedSo, onGrid(besides(on, turn) ?? near), book)
  const placing = placedFragment(circuit, turnedSo, at, taken, book)
  const [symbol = ''] = placing.placed
  let next = placing.circuit
  for (const [pin, net] of Object.entries(nets)) next = joined(next, endOf(symbol, pin), net, book)
  return { ...placing, circuit: readable(next, new Set(Object.values(nets)), book) }
}

/** A circuit as it is drawn with what another one has besides put onto its nets; null where other pins have moved. */
export function withNewcomers(before: Drawn, after: Circuit, book: SymbolBook): Drawn | null {
  const now = netByEnd(after.parts)
  if ([...netByEnd(before.parts)].some(([end, net]) => now.get(end) !== net)) return null
  const known = new Set(before.parts.map(({ designator }) => designator))
  // What nobody named is called otherwise here, perhaps.
  const here = new Map<string, string>()
  return after.parts.filter(({ designator }) => !known.has(designator)).reduce((circuit, part) => {
    const ends = [...netByEnd([part])]
    const nets = Object.fromEntries(ends.map(([end, net]) => [pinOf(end), here.get(net) ?? net]))
    const taken = new Set(circuit.parts.map(({ designator }) => designator))
    const next = placedOnNets(circuit, withNets(part, new Map(ends.map(([end]) => [end, '']))), [], nets, { x: 0, y: 0 }, taken, book).circuit
    const found = netByEnd(next.parts)
    for (const [end, net] of ends) if (isUnnamed(net)) here.set(net, found.get(end) ?? net)
    return next
  }, before)
}

/** What goes to ground or to a rail stands upright; else a pin looks to what its net has already. */
function turnFor([first, second]: [string, string], [a, b]: [Point?, Point?]): Turn {
  const low = (net: string) => net === 'gnd' || net.startsWith('-')
  if (low(second) || first.startsWith('+')) return 1
  if (low(first) || second.startsWith('+')) return 3
  return b && (!a || b.x < a.x) ? 2 : 0
}

/** Where a part wants to stand, by where its nets are already: above what it bridges, else to the right or below. */
function besides(on: readonly (Point | undefined)[], turn: Turn): Point | undefined {
  const known = on.filter((at) => at !== undefined)
  const [a, b] = known
  if (a && b && on.length === 2) return { x: (a.x + b.x) / 2, y: Math.min(a.y, b.y) - 90 }
  const last = known.at(-1)
  return last && plus(last, turn % 2 ? { x: 60, y: 60 } : { x: 100, y: 0 })
}

/** Pins and marks that are on a net. */
function endsOn(circuit: Drawn, net: string, book: SymbolBook): { end: string; at: Point }[] {
  const places = placesOf(circuit, book)
  const marks = circuit.drawing.marks.filter((mark) => mark.net === net).map(({ id }) => id)
  const pins = [...netByEnd(circuit.parts)].filter(([, on]) => on === net).map(([end]) => end)
  return [...pins, ...marks].flatMap((end) => {
    const at = places.get(end)
    return at ? [{ end, at }] : []
  })
}

/** A pin put onto a net: by a wire to what is near, else by a sign with its name. */
function joined(circuit: Drawn, pin: string, net: string, book: SymbolBook): Drawn {
  const at = placesOf(circuit, book).get(pin)
  if (!at) return circuit
  const away = ({ at: other }: { at: Point }) => Math.abs(other.x - at.x) + Math.abs(other.y - at.y)
  const others = endsOn(circuit, net, book).filter(({ end }) => end !== pin).sort((a, b) => away(a) - away(b))
  if (!others.length && isUnnamed(net)) return circuit
  const elsewhere = others.find(({ end }) => !isPin(end) || partOf(end) !== partOf(pin)) ?? others[0]
  if (elsewhere && !isSigned(net) && (away(elsewhere) <= LONG || isUnnamed(net))) {
    return rerouted(connected(circuit, { end: pin }, { end: elsewhere.end }), book)
  }
  // A net that has no sign yet gets one there too, or the name would stand alone.
  const isNamed = circuit.drawing.marks.some((mark) => mark.net === net)
  const there = elsewhere && !isNamed && isPin(elsewhere.end) ? signed(circuit, elsewhere.end, net, book) : circuit
  return signed(there, pin, net, book)
}

/** A sign with a net's name at a pin, standing away from its part. */
function signed(circuit: Drawn, pin: string, net: string, book: SymbolBook): Drawn {
  const found = symbolsIn(circuit, book).flatMap((symbol) => symbol.pins).find(({ end }) => end === pin)
  if (!found) return circuit
  const { x, y, way } = found
  const id = freeId(circuit.drawing, 'm')
  const kind: Mark['kind'] = net === 'gnd' ? 'ground' : isRail(net) ? 'rail' : 'label'
  const turn = kind === 'label' ? (way === 'west' ? 2 : 0) : kind === 'rail' && net.startsWith('-') ? 2 : 0
  const mark: Mark = { id, kind, net, turn, x, y }
  const marked = { ...circuit, drawing: { ...circuit.drawing, marks: [...circuit.drawing.marks, mark] } }
  return connected(marked, { end: pin }, { end: id }, [{ x, y }])
}

/** Where a name may stand instead, from the pin that it hangs on. */
const ASIDE: Point[] = [[0, 0], [0, -20], [0, 20], [10, -20], [10, 20], [-10, -20], [20, -30], [20, 30], [0, -40], [0, 40]].map(([x = 0, y = 0]) => ({ x, y }))

/** Names of these nets moved off the wires that run through them. */
function readable(circuit: Drawn, nets: ReadonlySet<string>, book: SymbolBook): Drawn {
  let next = circuit
  for (const mark of circuit.drawing.marks) {
    if (mark.kind !== 'label' || !nets.has(mark.net) || clear(next, mark, book)) continue
    const moved = ASIDE.flatMap((by) => ([mark.turn, mark.turn === 2 ? 0 : 2] as Turn[]).map((turn) => ({ ...mark, ...plus(mark, by), turn })))
    const tried = moved.map((other) => withMark(next, other, book)).find((other) => clear(other, other.drawing.marks.find(({ id }) => id === mark.id) ?? mark, book))
    next = tried ?? next
  }
  return next
}

function withMark(circuit: Drawn, mark: Mark, book: SymbolBook): Drawn {
  const marks = circuit.drawing.marks.map((other) => (other.id === mark.id ? mark : other))
  return rerouted({ ...circuit, drawing: { ...circuit.drawing, marks } }, book)
}

/** Whether no wire, part or other word lies on a mark's name, and the mark meets nothing but what it hangs on. */
function clear(circuit: Drawn, mark: Mark, book: SymbolBook): boolean {
  const { box } = markText(mark)
  const { wires, marks } = circuit.drawing
  const symbols = symbolsIn(circuit, book)
  const met = symbols.flatMap(({ pins }) => pins).filter((pin) => same(pin, mark))
  const others = wires.filter(({ ends }) => !ends.includes(mark.id)).flatMap((wire) => piecesOf(pointsOf(wire)))
  const words = [
    ...symbols.flatMap(({ body, texts }) => [body, ...texts.map((text) => text.box)]), ...marks.filter(({ id }) => id !== mark.id).map(markBox),
  ]
  return (
    !wires.flatMap((wire) => piecesOf(pointsOf(wire))).some(([a, b]) => crosses(a, b, box)) &&
    !words.some((other) => overlap(other, box)) &&
    (met.length ? met.every(({ net }) => net === mark.net) : !others.some(([a, b]) => isOn(mark, a, b)))
  )
}
