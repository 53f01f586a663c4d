import type { ModelSymbol } from '@/api/client'
import { SHAPES, type Drawn } from '@/sheet/shapes'

/** A pin of a symbol, placed: where its lead meets the shape, where it ends, and which way it points. */
export interface PlacedPin {
  role: string
  label: string
  side: 'left' | 'right' | 'top' | 'bottom'
  inner: [number, number]
  outer: [number, number]
}

export const WIDTH = 320
export const HEIGHT = 230
const LEFT = 110
const RIGHT = 210
const TOP = 65
const BOTTOM = 165
const LEAD = 34

const BOX = { strokes: `M${LEFT} ${TOP} H${RIGHT} V${BOTTOM} H${LEFT} Z`, filled: '', signs: [], transform: '' }

/** A shape as it is on the sheet, enlarged until its ends reach the sides of the box from (110, 65) to (210, 165). */
export function drawingOf(symbol: ModelSymbol) {
  const shape = SHAPES[symbol.shape]
  if (!shape) return BOX
  return { strokes: shape.strokes, filled: shape.filled ?? '', signs: shape.signs ?? [], transform: `translate(${MIDDLE.x} ${MIDDLE.y}) scale(${scaleOf(shape)})` }
}

const MIDDLE = { x: (LEFT + RIGHT) / 2, y: (TOP + BOTTOM) / 2 }
const scaleOf = ({ ends }: Drawn) => 50 / Math.max(...ends.map(([, x, y]) => Math.max(Math.abs(x), Math.abs(y))))

/** Where the drawn ends of a shape are; pins of other roles stand around it as around a box. */
function endsOf(shape: Drawn | undefined): Record<string, [number, number]> {
  return Object.fromEntries((shape?.ends ?? []).map(([role, x, y]) => [role, [MIDDLE.x + scaleOf(shape as Drawn) * x, MIDDLE.y + scaleOf(shape as Drawn) * y]]))
}

/** All pins of a symbol, placed. */
export function placed(symbol: ModelSymbol): PlacedPin[] {
  const ends = endsOf(SHAPES[symbol.shape])
  const loose = symbol.pins.filter((pin) => !(pin.role in ends))
  return symbol.pins.map((pin) => {
    const end = ends[pin.role]
    const inner = end ?? around(pin.side, loose.filter((other) => other.side === pin.side).indexOf(pin), loose.filter((other) => other.side === pin.side).length)
    return { role: pin.role, label: pin.label, side: pin.side, inner, outer: outwards(pin.side, inner) }
  })
}

function around(side: PlacedPin['side'], index: number, count: number): [number, number] {
  const share = (index + 1) / (count + 1)
  const x = LEFT + share * (RIGHT - LEFT)
  const y = TOP + share * (BOTTOM - TOP)
  return { left: [LEFT, y], right: [RIGHT, y], top: [x, TOP], bottom: [x, BOTTOM] }[side] as [number, number]
}

function outwards(side: PlacedPin['side'], [x, y]: [number, number]): [number, number] {
  return {
    left: [LEFT - LEAD, y], right: [RIGHT + LEAD, y], top: [x, TOP - LEAD], bottom: [x, BOTTOM + LEAD],
  }[side] as [number, number]
}
