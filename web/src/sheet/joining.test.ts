import { describe, expect, it } from 'vitest'
import type { Part } from '@/api/client'
import { emptyDrawing, netByEnd, placesOf, type Drawn } from './ends'
import { ofPart, placedFragment } from './fragment'
import { overlap } from './geometry'
import { placedOnNets, withNewcomers } from './joining'
import { misleading } from './operations'
import { symbolsIn } from './pieces'
import { freeRoom } from './room'
import { book, capacitor, npn, opAmp, resistor } from './testing'

const blank = (): Drawn => ({ id: 'c', title: 'c', parts: [], checks: [], definitions: '', drawing: emptyDrawing() })
const names = (circuit: Drawn) => new Set(circuit.parts.map(({ designator }) => designator))
const put = (circuit: Drawn, part: Part, nets: Record<string, string>) =>
  placedOnNets(circuit, part, [], nets, { x: 300, y: 200 }, names(circuit), book).circuit
const valued = (part: Part, a: string, b: string) => (circuit: Drawn) => put(circuit, part, { 1: a, 2: b })

/** Nothing lies on anything else, and nothing touches that is not connected. */
function expectClear(circuit: Drawn) {
  const bodies = symbolsIn(circuit, book).map(({ box }) => box)
  bodies.forEach((a, k) => expect(bodies.slice(k + 1).some((b) => overlap(a, b))).toBe(false))
  expect(misleading(circuit, book)).toEqual([])
}

describe('parts typed with their nets', () => {
  it('become a filter on a blank sheet', () => {
    const circuit = [valued(resistor('R1', '', ''), 'in', 'out'), valued(capacitor('C1', '', ''), 'out', 'gnd')].reduce((sheet, add) => add(sheet), blank())
    expect(Object.fromEntries(netByEnd(circuit.parts))).toEqual({ 'R1.1': 'in', 'R1.2': 'out', 'C1.1': 'out', 'C1.2': 'gnd' })
    const places = placesOf(circuit, book)
    // What goes to ground stands upright, its ground below; the second pin is wired, not only named.
    expect(places.get('C1.1')?.x).toBe(places.get('C1.2')?.x)
    expect((places.get('C1.1')?.y ?? 0) < (places.get('C1.2')?.y ?? 0)).toBe(true)
    expect(circuit.drawing.wires.some(({ ends }) => ends.includes('C1.1'))).toBe(true)
    expect(circuit.drawing.marks.filter(({ net }) => net === 'out').length).toBe(1)
    expectClear(circuit)
  })

  it('take all pins of a model and of a transistor', () => {
    const amplifier = put(blank(), opAmp('U1', '', '', ''), { 'in+': 'p', 'in-': 'n', 'v+': '+5V', 'v-': '-5V', out: 'out' })
    const circuit = put(amplifier, npn('Q1', '', '', ''), { collector: '+5V', base: 'out', emitter: 'n' })
    const nets = netByEnd(circuit.parts)
    expect([nets.get('U1.in-'), nets.get('U1.v+'), nets.get('Q1.base'), nets.get('Q1.collector'), nets.get('Q1.emitter')]).toEqual(['n', '+5V', 'out', '+5V', 'n'])
    expectClear(circuit)
  })

  it('join far nets by name and both ends of one part to one net', () => {
    let circuit = blank()
    for (let k = 1; k <= 30; k++) circuit = put(circuit, resistor('R1', '', ''), { 1: `a${k}`, 2: `a${k + 1}` })
    circuit = put(circuit, resistor('R1', '', ''), { 1: 'a1', 2: 'a31' })
    circuit = put(circuit, resistor('R1', '', ''), { 1: 'a7', 2: 'a7' })
    const nets = netByEnd(circuit.parts)
    expect([nets.get('R31.1'), nets.get('R31.2'), nets.get('R32.1'), nets.get('R32.2')]).toEqual(['a1', 'a31', 'a7', 'a7'])
    expect(nets.get('R17.2')).toBe('a18')
    expectClear(circuit)
  })
})

it('a part placed on the last one finds room beside it', () => {
  let circuit = blank()
  for (let k = 0; k < 12; k++) {
    const fragment = ofPart(k % 2 ? resistor('R1', '', '') : capacitor('C1', '', ''))
    circuit = placedFragment(circuit, fragment, freeRoom(circuit, fragment, { x: 300, y: 200 }, book), names(circuit), book).circuit
  }
  expect(new Set(netByEnd(circuit.parts).values()).size).toBe(24)
  expectClear(circuit)
})

describe('what the core has put into a circuit', () => {
  const before = [valued(resistor('R1', '', ''), 'in', 'out'), valued(resistor('R2', '', ''), 'out', 'gnd')].reduce((sheet, add) => add(sheet), blank())

  it('is drawn on its nets, a net of its own in between, and the rest stays where it is', () => {
    const snubber = [resistor('R3', 'out', 'n1'), capacitor('C1', 'n1', 'gnd')]
    const drawn = withNewcomers(before, { ...before, parts: [...before.parts, ...snubber] }, book) as Drawn
    const nets = netByEnd(drawn.parts)
    expect([nets.get('R3.1'), nets.get('C1.2')]).toEqual(['out', 'gnd'])
    expect(nets.get('R3.2')).toBe(nets.get('C1.1'))
    expect(drawn.drawing.symbols).toMatchObject(before.drawing.symbols)
    expectClear(drawn)
  })

  it('is left to be laid out anew where a pin that was there has moved', () => {
    const parts = [resistor('R1', 'in', 'n1'), resistor('R2', 'out', 'gnd'), resistor('R3', 'n1', 'out')]
    expect(withNewcomers(before, { ...before, parts }, book)).toBeNull()
  })
})
