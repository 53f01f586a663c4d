import type { ModelSymbol } from '@/api/client'

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

/** The strokes of each shape in the box from (110, 65) to (210, 165), after IEC 60617; boxes have none. */
export const STROKES: Record<string, string> = {
  amplifier: 'M110 65 L110 165 L210 115 Z',
  diode: 'M110 115 H145 M145 95 V135 L178 115 Z M178 95 V135 M178 115 H210',
  clamp: 'M110 115 H145 M145 95 V135 L178 115 Z M178 95 V135 M178 95 h-8 M178 135 h8 M178 115 H210',
  bipolar: 'M110 115 H145 M145 88 V142 M145 102 L175 82 V65 M145 128 L175 148 V165 M163 147 L175 148 L170 137',
  jfet: 'M110 115 H150 M150 88 V142 M150 98 H175 V65 M150 132 H175 V165 M138 110 L150 115 L138 120',
  mosfet: 'M110 130 H142 M142 95 V135 M150 88 V102 M150 108 V122 M150 128 V142 M150 95 H175 V65 M150 135 H175 V165 M150 115 H175 V135',
  switch: 'M110 115 H140 M140 115 L178 95 M180 115 H210 M160 105 V165',
  transformer: 'M110 85 H130 M130 85 a10 10 0 0 1 0 20 a10 10 0 0 1 0 20 a10 10 0 0 1 0 20 H110 M190 85 H210 M190 85 a10 10 0 0 0 0 20 a10 10 0 0 0 0 20 a10 10 0 0 0 0 20 H210 M156 82 V148 M164 82 V148',
  box: 'M110 65 H210 V165 H110 Z',
}

/** Where the drawn ends of a shape are; pins of other roles stand around it as around a box. */
const ENDS: Record<string, Record<string, [number, number]>> = {
  amplifier: { 'in+': [LEFT, 90], 'in-': [LEFT, 140], out: [RIGHT, 115], 'v+': [150, 85], 'v-': [150, 145] },
  diode: { anode: [LEFT, 115], cathode: [RIGHT, 115] },
  clamp: { anode: [LEFT, 115], cathode: [RIGHT, 115] },
  bipolar: { base: [LEFT, 115], collector: [175, TOP], emitter: [175, BOTTOM] },
  jfet: { gate: [LEFT, 115], drain: [175, TOP], source: [175, BOTTOM] },
  mosfet: { gate: [LEFT, 130], drain: [175, TOP], source: [175, BOTTOM] },
  switch: { a: [LEFT, 115], b: [RIGHT, 115], control: [160, BOTTOM] },
  transformer: { 'primary+': [LEFT, 85], 'primary-': [LEFT, 145], 'secondary+': [RIGHT, 85], 'secondary-': [RIGHT, 145] },
}

/** All pins of a symbol, placed. */
export function placed(symbol: ModelSymbol): PlacedPin[] {
  const ends = ENDS[symbol.shape] ?? {}
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
