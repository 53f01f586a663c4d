import type { Circuit, Part } from '@/api/client'
import { posed, type Point } from './geometry'
import { shapeOf, type SymbolBook } from './symbols'

/** The sheet's own pieces of the document. */
export type Drawing = NonNullable<Circuit['drawing']>
export type Wire = Drawing['wires'][number]
export type Mark = Drawing['marks'][number]
export type SheetNote = Drawing['notes'][number]
export type Placed = Drawing['symbols'][string]
/** A circuit that has a drawing. */
export type Drawn = Circuit & { drawing: Drawing }

export const emptyDrawing = (): Drawing => ({ symbols: {}, marks: [], joints: [], wires: [], notes: [] })

/** Symbols by name: a part, or one unit of a package. */
export interface SymbolRef {
  name: string
  part: Part
  unit: string
}

export function symbolsOf(part: Part): SymbolRef[] {
  const units = part.kind === 'modelled' ? (part.units ?? 1) : 1
  if (units === 1) return [{ name: part.designator, part, unit: '' }]
  return [...'ABCD'.slice(0, units)].map((unit) => ({ name: `${part.designator}.${unit}`, part, unit }))
}

/** The end of a wire at a pin. */
export const endOf = (designator: string, pin: string) => `${designator}.${pin}`
/** Whether an end is a pin's; marks and joints have identifiers in lower case. */
export const isPin = (end: string) => /^[A-Z]/.test(end)
export const partOf = (end: string) => end.slice(0, end.indexOf('.'))
export const pinOf = (end: string) => end.slice(end.indexOf('.') + 1)

/** All pins of a circuit's parts as ends, with the net that each is on. */
export function netByEnd(parts: readonly Part[]): Map<string, string> {
  const found = new Map<string, string>()
  for (const part of parts) {
    if (part.kind === 'modelled' || part.kind === 'generic') {
      for (const [pin, net] of Object.entries(part.pins)) found.set(endOf(part.designator, pin), net)
    } else part.pins.forEach((net, k) => found.set(endOf(part.designator, String(k + 1)), net))
  }
  return found
}

/** A part with the nets of its pins given by end. */
export function withNets<P extends Part>(part: P, nets: ReadonlyMap<string, string>): P {
  const net = (pin: string, old: string) => nets.get(endOf(part.designator, pin)) ?? old
  if (part.kind === 'modelled' || part.kind === 'generic') {
    const pins = Object.fromEntries(Object.entries(part.pins).map(([pin, old]) => [pin, net(pin, old)]))
    return { ...part, pins }
  }
  return { ...part, pins: part.pins.map((old, k) => net(String(k + 1), old)) as typeof part.pins }
}

/** Where every pin, mark and joint lies. */
export function placesOf(circuit: Drawn, book: SymbolBook): Map<string, Point> {
  const found = new Map<string, Point>()
  for (const part of circuit.parts) {
    for (const { name, unit } of symbolsOf(part)) {
      const at = circuit.drawing.symbols[name]
      if (!at) continue
      for (const pin of shapeOf(part, unit, book).pins) found.set(endOf(part.designator, pin.pin), posed(at, pin))
    }
  }
  for (const { id, x, y } of [...circuit.drawing.marks, ...circuit.drawing.joints]) found.set(id, { x, y })
  return found
}
