import type { ModelSymbol, Part } from '@/api/client'
import { GRID, type Box, type Point, type Way } from './geometry'
import { box, SHAPES, type Drawn } from './shapes'

/** A pin of a symbol about its origin; every pin lies on the grid. */
export interface ShapePin extends Point {
  pin: string
  way: Way
  /** Words beside it, where the shape does not say what it is. */
  label: string
}

/** What a symbol looks like: strokes, filled outlines, its body, and its pins in the order of their part. */
export interface Shape {
  strokes: string
  filled: string
  body: Box
  pins: ShapePin[]
  /** Signs inside the body that stay upright. */
  signs: { text: string; x: number; y: number }[]
}

/** The pins of an element statement whose letter has a shape, in the order of its nodes. */
const WRITTEN: Record<string, [shape: string, roles: string[]]> = {
  R: ['resistor', ['1', '2']], C: ['capacitor', ['1', '2']], L: ['inductor', ['1', '2']],
  D: ['diode', ['anode', 'cathode']], Q: ['bipolar', ['collector', 'base', 'emitter']],
  J: ['jfet', ['drain', 'gate', 'source']], M: ['mosfet', ['drain', 'gate', 'source']],
  S: ['switch-written', ['1', '2', '3', '4']], W: ['switch-current', ['1', '2']],
}

const SIDES: Record<string, Way> = { left: 'west', right: 'east', top: 'north', bottom: 'south' }

/** How symbols of models and generic parts are looked up. */
export interface SymbolBook {
  model: (id: string) => ModelSymbol | undefined
  generic: (key: string) => ModelSymbol | undefined
}

const cache = new Map<string, Shape>()

/** The shape of one symbol of a part; `unit` is "" or the letter of a unit in a package. */
export function shapeOf(part: Part, unit: string, book: SymbolBook): Shape {
  const pins = pinsOf(part, unit)
  const known = (name: string, roles: readonly string[]) => {
    const key = [name, ...pins, ...roles].join('|')
    let shape = cache.get(key)
    if (!shape) cache.set(key, (shape = named(name, pins, roles, unit)))
    return shape
  }
  switch (part.kind) {
    case 'resistor':
    case 'capacitor':
    case 'inductor':
      return known(part.kind, ['1', '2'])
    case 'statement': {
      const letter = part.designator[0] ?? ''
      const [name, roles] = WRITTEN[letter] ?? []
      if (name && roles && pins.length >= roles.length) return known(name, roles)
      if ('EGFHB'.includes(letter)) return pins.length === 4 ? known('source-controlled', pins) : known('source-written', pins)
      return boxShape(pins.map((pin, k) => ({ pin, label: pin, side: k < Math.ceil(pins.length / 2) ? 'left' : 'right' })))
    }
    default: {
      const symbol = part.kind === 'modelled' ? book.model(part.model.id) : book.generic(part.part)
      const roles = pins.map((pin) => (unit ? pin.replace(`${unit}.`, '') : pin))
      const shape = symbol?.shape ?? 'box'
      const name = unit && unit !== 'A' && shape === 'amplifier' ? 'amplifier-unit' : shape
      const drawn = SHAPES[name]
      if (drawn && drawn.ends.every(([role]) => roles.includes(role) || role.startsWith('v'))) return known(name, roles)
      const sides = new Map(symbol?.pins.map((pin) => [pin.role, pin]))
      return boxShape(
        pins.map((pin, k) => {
          const said = sides.get(roles[k] ?? '')
          return { pin, label: said?.label || (roles[k] ?? pin), side: said?.side ?? (k < pins.length / 2 ? 'left' : 'right') }
        }),
      )
    }
  }
}

/** The pins of a part, or of one unit in a package: supply pins that all units share belong to the first. */
export function pinsOf(part: Part, unit = ''): string[] {
  if (part.kind !== 'modelled' && part.kind !== 'generic') return part.pins.map((_, k) => String(k + 1))
  const all = Object.keys(part.pins)
  if (!unit) return all
  return all.filter((pin) => pin.startsWith(`${unit}.`) || (unit === 'A' && !/^[A-D]\./.test(pin)))
}

function named(name: string, pins: readonly string[], roles: readonly string[], unit: string): Shape {
  const drawn = SHAPES[name] as Drawn
  const ends = new Map(drawn.ends.map(([role, x, y, way]) => [role, { x, y, way }]))
  let loose = 0
  const placed = pins.map((pin, k): ShapePin => {
    const role = roles[k] ?? (unit ? pin.replace(`${unit}.`, '') : pin)
    const end = ends.get(role)
    if (end) return { pin, ...end, label: '' }
    // A pin that the shape does not know hangs below it.
    const x = -20 + 10 * (loose % 2 ? 1 + loose : -loose)
    loose += 1
    return { pin, x, y: Math.ceil(drawn.body.bottom / GRID) * GRID + 10, way: 'south', label: role }
  })
  const leads = placed.filter((pin) => pin.label).map(({ x, y }) => `M${x} ${y}V${y - 20}`).join('')
  return { strokes: drawn.strokes + leads, filled: drawn.filled ?? '', body: drawn.body, pins: placed, signs: drawn.signs ?? [] }
}

type BoxPin = { pin: string; label: string; side: string }

/** A box with its pins around it, named inside. */
function boxShape(pins: readonly BoxPin[]): Shape {
  const of = (side: string) => pins.filter((pin) => pin.side === side)
  const rows = Math.max(of('left').length, of('right').length, 1)
  const widest = (side: string) => Math.max(0, ...of(side).map(({ label }) => label.length))
  const columns = Math.max(of('top').length, of('bottom').length)
  const level = of('top').length || of('bottom').length ? 20 : 0
  const half = Math.max(30, 20 * Math.ceil((7 * (widest('left') + widest('right')) + 24) / 40), 10 + 20 * columns)
  const high = 10 * Math.ceil(rows) + level
  const top = -Math.ceil(high / GRID) * GRID
  const places: Record<string, (k: number, n: number) => Point> = {
    left: (k) => ({ x: -half - 20, y: -10 * (rows - 1) + 20 * k - ((10 * (rows - 1)) % 10) }),
    right: (k) => ({ x: half + 20, y: -10 * (rows - 1) + 20 * k }),
    top: (k, n) => ({ x: 40 * k - 20 * (n - 1), y: top - 20 }),
    bottom: (k, n) => ({ x: 40 * k - 20 * (n - 1), y: -top + 20 }),
  }
  const placed: ShapePin[] = pins.map((pin) => {
    const side = of(pin.side)
    const at = (places[pin.side] ?? places['left'])?.(side.indexOf(pin), side.length) ?? { x: 0, y: 0 }
    return { pin: pin.pin, label: pin.label, way: SIDES[pin.side] ?? 'west', ...at }
  })
  const leads = placed.map(({ x, y, way }) => `M${x} ${y}${{ west: 'h20', east: 'h-20', north: 'v20', south: 'v-20' }[way]}`).join('')
  return {
    strokes: leads, filled: `M${-half} ${top}H${half}V${-top}H${-half}Z`, body: box(-half, top, half, -top), pins: placed, signs: [],
  }
}
