import type { ModelSymbol, Part } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { holds } from './geometry'
import { pinsOf, shapeOf, type SymbolBook } from './symbols'
import { dual, opAmp, resistor } from './testing'

const side = ['left', 'right', 'top', 'bottom'] as const
const symbolOf = (shape: string, roles: string[]): ModelSymbol => ({
  shape, pins: roles.map((role, k) => ({ role, label: role, side: side[k % 4] ?? 'left' })),
})
const bookOf = (symbol: ModelSymbol | undefined): SymbolBook => ({ model: () => symbol, generic: () => symbol })
const modelled = (roles: string[]): Part => ({
  kind: 'modelled', designator: 'U1', model: { id: 'm', name: 'm' }, units: 1, settings: {}, pins: Object.fromEntries(roles.map((role) => [role, 'n'])),
})
const statement = (designator: string, count: number): Part => ({ kind: 'statement', designator, text: '1', pins: Array.from({ length: count }, (_, k) => `n${k}`) })

const SHAPES: [string, string[]][] = [
  ['amplifier', ['in+', 'in-', 'v+', 'v-', 'out']], ['amplifier', ['in+', 'in-', 'v+', 'v-', 'out', 'enable', 'trim']],
  ['diode', ['anode', 'cathode']], ['clamp', ['anode', 'cathode']], ['bipolar', ['collector', 'base', 'emitter']],
  ['bipolar', ['collector', 'base', 'emitter', 'substrate']], ['jfet', ['drain', 'gate', 'source']], ['mosfet', ['drain', 'gate', 'source']],
  ['switch', ['a', 'b', 'control']], ['transformer', ['primary+', 'primary-', 'secondary+', 'secondary-']],
  ['box', ['a']], ['box', Array.from({ length: 23 }, (_, k) => `pin${k}`)], ['unheard of', ['x', 'y', 'z']],
]

describe.each(SHAPES)('the symbol %s with the pins %j', (shape, roles) => {
  const drawn = shapeOf(modelled(roles), '', bookOf(symbolOf(shape, roles)))

  it('has each pin once, on the grid, at a place of its own outside the body', () => {
    expect(drawn.pins.map(({ pin }) => pin)).toEqual(roles)
    expect(new Set(drawn.pins.map(({ x, y }) => `${x},${y}`)).size).toBe(roles.length)
    for (const { x, y } of drawn.pins) {
      expect([Math.abs(x % 10), Math.abs(y % 10)]).toEqual([0, 0])
      const { left, top, right, bottom } = drawn.body
      expect(holds({ left: left + 1, top: top + 1, right: right - 1, bottom: bottom - 1 }, { x, y })).toBe(false)
    }
  })

  it('lets every pin look away from the body', () => {
    for (const { x, y, way } of drawn.pins) {
      const outwards = { west: x < drawn.body.left + 2, east: x > drawn.body.right - 2, north: y < drawn.body.top + 2, south: y > drawn.body.bottom - 2 }
      expect(outwards[way], `${x},${y} ${way}`).toBe(true)
    }
  })
})

describe('symbols', () => {
  it.each([['E1', 2], ['E1', 4], ['G2', 4], ['F1', 2], ['B3', 2], ['S1', 4], ['W1', 2], ['T1', 4], ['U1', 3], ['K1', 0], ['D1', 2], ['Q1', 3], ['Q1', 4], ['M1', 4], ['X1', 7], ['R1', 2]] as const)(
    'of statement %s has its %i pins', (designator, count) => {
      const part = statement(designator, count)
      const { pins } = shapeOf(part, '', bookOf(undefined))
      expect(pins.map(({ pin }) => pin)).toEqual(pinsOf(part))
      expect(new Set(pins.map(({ x, y }) => `${x},${y}`)).size).toBe(count)
    },
  )

  it('of a package share the supply pins, which the first unit shows', () => {
    expect(pinsOf(dual('U1'), 'A')).toEqual(['A.in+', 'A.in-', 'A.out', 'v+', 'v-'])
    expect(pinsOf(dual('U1'), 'B')).toEqual(['B.in+', 'B.in-', 'B.out'])
    const book = bookOf(symbolOf('amplifier', ['in+', 'in-', 'v+', 'v-', 'out']))
    expect(shapeOf(dual('U1'), 'B', book).pins).toHaveLength(3)
    expect(shapeOf(dual('U1'), 'B', book).strokes).not.toEqual(shapeOf(dual('U1'), 'A', book).strokes)
  })

  it('of a PNP stand with the emitter on top', () => {
    const part = modelled(['collector', 'base', 'emitter'])
    const emitter = (shape: string) =>
      shapeOf(part, '', bookOf(symbolOf(shape, ['collector', 'base', 'emitter']))).pins.find(({ pin }) => pin === 'emitter')?.y
    expect(['bipolar', 'bipolar-p'].map(emitter)).toEqual([40, -40])
  })

  it('are there for a model that is not on the shelf: a box', () => {
    expect(shapeOf(opAmp('U1', 'a', 'b', 'c'), '', bookOf(undefined)).pins).toHaveLength(5)
    expect(shapeOf(resistor('R1', 'a', 'b'), '', bookOf(undefined)).pins).toHaveLength(2)
  })
})
