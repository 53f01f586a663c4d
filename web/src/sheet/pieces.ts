import type { Part } from '@/api/client'
import { endOf, netByEnd, symbolsOf, type Drawn, type Mark, type Placed } from './ends'
import { around, grown, posed, posedBox, posedWay, type Box, type Point, type Way } from './geometry'
import { shapeOf, type Shape, type SymbolBook } from './symbols'

/** Words on the sheet. One with `part` is the value of that part and can be changed in place. */
export interface SceneText extends Point {
  text: string
  anchor: 'start' | 'middle' | 'end'
  role: 'designator' | 'value' | 'note'
  part?: string
  box: Box
}

export interface ScenePin extends Point {
  end: string
  net: string
  way: Way
  label: string
}

/** A symbol where it stands. */
export interface SceneSymbol {
  name: string
  part: Part
  at: Placed
  shape: Shape
  /** The body, and everything with the pins. */
  body: Box
  box: Box
  pins: ScenePin[]
  texts: SceneText[]
}

/** Units of width that a sign takes, by role: a letter in lower case, and anything larger. */
const WIDTH = { designator: [7.4, 8.6], value: [7.4, 7.4], note: [6.9, 8.5] } as const
const LINE = 14

/** The box that words take. */
export function textBox(text: string, x: number, y: number, anchor: SceneText['anchor'], role: SceneText['role']): Box {
  const [small, large] = WIDTH[role]
  const width = [...(text || 'x')].reduce((sum, sign) => sum + (/[a-z0-9 .,:-]/.test(sign) ? small : large), 0)
  const left = anchor === 'start' ? x : anchor === 'middle' ? x - width / 2 : x - width
  return { left, right: left + width, top: y - LINE + 3, bottom: y + 3 }
}

export function sceneText(
  text: string, x: number, y: number, anchor: SceneText['anchor'], role: SceneText['role'], part?: string,
): SceneText {
  return { text, x, y, anchor, role, box: textBox(text, x, y, anchor, role), ...(part !== undefined && { part }) }
}

/** All symbols of a circuit, placed; `only` asks for some of them. */
export function symbolsIn(circuit: Drawn, book: SymbolBook, only?: ReadonlySet<string>): SceneSymbol[] {
  const found: SceneSymbol[] = []
  const nets = netByEnd(circuit.parts)
  for (const part of circuit.parts) {
    for (const { name, unit } of symbolsOf(part)) {
      const at = circuit.drawing.symbols[name]
      if (!at || (only && !only.has(name))) continue
      found.push(sceneSymbol(name, part, unit, at, book, nets))
    }
  }
  return found
}

export function sceneSymbol(
  name: string, part: Part, unit: string, at: Placed, book: SymbolBook, nets: ReadonlyMap<string, string>,
): SceneSymbol {
  const shape = shapeOf(part, unit, book)
  const pins = shape.pins.map((pin): ScenePin => {
    const end = endOf(part.designator, pin.pin)
    return { end, net: nets.get(end) ?? '', way: posedWay(at, pin.way), label: pin.label, ...posed(at, pin) }
  })
  const body = posedBox(at, shape.body)
  const box = around([body, ...pins.map((pin) => ({ left: pin.x, right: pin.x, top: pin.y, bottom: pin.y }))])
  return { name, part, at, shape, body, box, pins, texts: textsOf(name, part, body, pins, shape) }
}

/** What is written beside a part besides its designator, and whether it is a value that can be typed over. */
function valueOf(part: Part): { text: string; editable: boolean } {
  switch (part.kind) {
    case 'modelled':
      return { text: part.model.name.toUpperCase(), editable: false }
    case 'generic':
      return { text: part.part, editable: false }
    case 'statement':
      return { text: part.text.length > 16 ? `${part.text.slice(0, 15)}…` : part.text, editable: false }
    default:
      return { text: part.value || 'value?', editable: true }
  }
}

function textsOf(name: string, part: Part, body: Box, pins: readonly ScenePin[], shape: Shape): SceneText[] {
  const label = name.replace('.', '')
  const { text, editable } = valueOf(part)
  const role = editable ? 'value' : 'note'
  const changeable = editable ? part.designator : undefined
  const [cx, cy] = [(body.left + body.right) / 2, (body.top + body.bottom) / 2]
  const level = pins.every((pin) => pin.way === 'west' || pin.way === 'east')
  const isAmplifier = shape.signs.length === 2 && shape.pins.some((pin) => pin.pin.endsWith('in+'))
  if (isAmplifier) {
    const texts = [sceneText(label, cx - 2, cy + 5, 'middle', 'designator')]
    // The triangle leaves its upper right corner free.
    return level || pins.some((pin) => pin.way === 'north')
      ? [...texts, sceneText(text, body.left + 53, body.top + 2, 'start', role)]
      : [...texts, sceneText(text, body.right + 8, body.top, 'start', role)]
  }
  if (pins.length === 2 && level) {
    return [
      sceneText(label, cx, body.top - 5, 'middle', 'designator'),
      sceneText(text, cx, body.bottom + LINE, 'middle', role, changeable),
    ]
  }
  const has = (way: Way) => pins.some((pin) => pin.way === way)
  if (pins.length <= 4 && has('west') && has('east') && !shape.filled.includes('H')) {
    // Between leads on both sides, words stand above and, clear of what hangs below, beside.
    return [
      sceneText(label, cx, body.top - 5, 'middle', 'designator'),
      has('south') ? sceneText(text, body.right + 4, body.bottom + LINE, 'start', role) : sceneText(text, cx, body.bottom + LINE, 'middle', role),
    ]
  }
  if (pins.length > 4 || shape.filled.includes('H')) {
    const top = pins.some((pin) => pin.way === 'north')
    return [
      top ? sceneText(label, body.left - 5, body.top - 5, 'end', 'designator') : sceneText(label, cx, body.top - 5, 'middle', 'designator'),
      sceneText(text, cx, body.bottom + LINE, 'middle', role, changeable),
    ]
  }
  return [
    sceneText(label, body.right + 6, cy - 3, 'start', 'designator'),
    sceneText(text, body.right + 6, cy + 12, 'start', role, changeable),
  ]
}

/** The space that a mark takes, and where its name is written. */
export function markBox(mark: Mark): Box {
  const { x, y } = mark
  if (mark.kind === 'ground') return grownTowards(mark, 10, 15)
  if (mark.kind === 'rail') {
    const text = markText(mark)
    return around([grownTowards({ ...mark, turn: ((mark.turn + 2) % 4) as Placed['turn'] }, 10, 4), text.box])
  }
  return around([{ left: x, right: x, top: y, bottom: y }, markText(mark).box])
}

function grownTowards(mark: { x: number; y: number; turn: Placed['turn'] }, wide: number, deep: number): Box {
  return posedBox({ ...mark, mirrored: false }, { left: -wide, right: wide, top: 0, bottom: deep })
}

export function markText(mark: Mark): SceneText {
  const { x, y, net } = mark
  if (mark.kind === 'rail') {
    const below = mark.turn === 2
    if (mark.turn === 1) return sceneText(net, x + 7, y + 4, 'start', 'note')
    if (mark.turn === 3) return sceneText(net, x - 7, y + 4, 'end', 'note')
    return sceneText(net, x, below ? y + 16 : y - 6, 'middle', 'note')
  }
  return mark.turn === 2 ? sceneText(net, x - 12, y + 4, 'end', 'note') : sceneText(net, x + 12, y + 4, 'start', 'note')
}

/** Which way a wire leaves a mark. */
export function markWay(mark: Mark): Way[] {
  const ways: Record<Mark['kind'], Way[]> = {
    ground: [posedWay({ ...mark, mirrored: false }, 'north')], rail: [posedWay({ ...mark, mirrored: false }, 'south')],
    label: ['west', 'east', 'north', 'south'],
  }
  return ways[mark.kind]
}

/** Everything that a wire of a circuit should keep away from. */
export const clearance = (symbol: SceneSymbol): Box => grown(symbol.body, 2)
