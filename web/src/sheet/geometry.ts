/** What a drawing of a circuit consists of. Lengths in CSS pixels, y downwards. */

export interface Point {
  x: number
  y: number
}

export type Side = 'WEST' | 'EAST' | 'NORTH'

/** A place where wires of a net meet a block. */
export interface Port extends Point {
  id: string
  net: string
  side: Side
}

export type SymbolKind = 'resistor' | 'capacitor' | 'inductor' | 'amplifier' | 'source' | 'ground' | 'rail'

/** One symbol. `turned` ones stand upright, with their first pin on top. Its origin is the middle of its body. */
export interface DrawnSymbol extends Point {
  kind: SymbolKind
  turned: boolean
}

/** Words beside a symbol. A text with `part` is the value of that part or fixture, and can be changed by a click. */
export interface DrawnText extends Point {
  text: string
  anchor: 'start' | 'middle' | 'end'
  role: 'designator' | 'value' | 'note'
  part?: string
}

/** Wires of one net. */
export interface Wire {
  net: string
  points: Point[]
}

/** Where the volts of a net are written. */
export interface NetLabel extends Point {
  net: string
  anchor: 'start' | 'middle' | 'end'
}

/** Symbols and wires that keep their places relative to each other, and the ports through which they connect. */
export interface Block {
  id: string
  width: number
  height: number
  /** Part of the board, or fixture outside its edge. */
  place: 'board' | 'source' | 'load' | 'supply'
  ports: Port[]
  symbols: DrawnSymbol[]
  texts: DrawnText[]
  wires: Wire[]
  dots: Point[]
  labels: NetLabel[]
}

/** A finished drawing in absolute coordinates. */
export interface Drawing {
  width: number
  height: number
  edge: { x: number; y: number; width: number; height: number }
  symbols: DrawnSymbol[]
  texts: DrawnText[]
  wires: Wire[]
  dots: Point[]
  labels: NetLabel[]
}

export function emptyBlock(id: string, place: Block['place'], width: number, height: number): Block {
  return { id, place, width, height, ports: [], symbols: [], texts: [], wires: [], dots: [], labels: [] }
}
