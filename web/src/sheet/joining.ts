import type { Part, Spread } from '@/api/client'
import { isPin, netByEnd, partOf, placesOf, type Drawn, type Mark } from './ends'
import { ofPart, placedFragment, type Placing } from './fragment'
import { onGrid, plus, type Point, type Turn } from './geometry'
import { isUnnamed } from './nets'
import { symbolsIn } from './pieces'
import { freeRoom } from './room'
import { rerouted } from './routing'
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
  const [first = '', second = ''] = Object.values(nets)
  const known = (net: string) => !isSigned(net) && endsOn(circuit, net, book).length > 0
  const turn = Object.keys(nets).length === 2 ? turnFor(first, second, known) : 0
  const [name = ''] = Object.keys(fragment.drawing.symbols)
  const pose = { x: 0, y: 0, turn, mirrored: false }
  const turnedSo = { ...fragment, drawing: { ...fragment.drawing, symbols: { ...fragment.drawing.symbols, [name]: pose } } }
  const anchor = Object.values(nets).filter(known).flatMap((net) => endsOn(circuit, net, book).map(({ at }) => at)).at(-1)
  const beside = anchor && plus(anchor, turn % 2 ? { x: 60, y: 60 } : { x: 100, y: 0 })
  const at = freeRoom(circuit, turnedSo, onGrid(beside ?? near), book)
  const placing = placedFragment(circuit, turnedSo, at, taken, book)
  const own = new Set([...placing.placed].map((symbol) => symbol.split('.')[0] ?? ''))
  let next = placing.circuit
  for (const [pin, net] of Object.entries(nets)) next = joined(next, `${[...own][0]}.${pin}`, net, book)
  return { ...placing, circuit: next }
}

/** What goes to ground or to a rail stands upright; else the pin on what is there already looks to it. */
function turnFor(first: string, second: string, known: (net: string) => boolean): Turn {
  const low = (net: string) => net === 'gnd' || net.startsWith('-')
  if (low(second) || first.startsWith('+')) return 1
  if (low(first) || second.startsWith('+')) return 3
  return known(second) && !known(first) ? 2 : 0
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
