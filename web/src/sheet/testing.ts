import type { Check, Circuit, ModelSymbol, Part } from '@/api/client'
import type { SymbolBook } from './symbols'

/** Circuits and symbols for tests. */

const amplifier: ModelSymbol = {
  shape: 'amplifier',
  pins: [
    { role: 'in+', label: 'in+', side: 'left' }, { role: 'in-', label: 'in-', side: 'left' }, { role: 'v+', label: 'v+', side: 'top' },
    { role: 'v-', label: 'v-', side: 'bottom' }, { role: 'out', label: 'out', side: 'right' },
  ],
}
const transistor: ModelSymbol = {
  shape: 'bipolar',
  pins: [{ role: 'collector', label: 'c', side: 'top' }, { role: 'base', label: 'b', side: 'left' }, { role: 'emitter', label: 'e', side: 'bottom' }],
}

export const book: SymbolBook = {
  model: () => amplifier,
  generic: (key) => (key === 'npn' ? transistor : amplifier),
}

export const resistor = (designator: string, a: string, b: string, value = '1k'): Part => ({ kind: 'resistor', designator, value, pins: [a, b] })
export const capacitor = (designator: string, a: string, b: string, value = '1n'): Part => ({ kind: 'capacitor', designator, value, pins: [a, b] })
export const inductor = (designator: string, a: string, b: string): Part => ({ kind: 'inductor', designator, value: '1m', pins: [a, b] })
export const opAmp = (designator: string, plus: string, minus: string, out: string): Part => ({
  kind: 'modelled', designator, model: { id: 'm', name: 'amp' }, units: 1, settings: {},
  pins: { 'in+': plus, 'in-': minus, 'v+': '+5V', 'v-': '-5V', out },
})
export const dual = (designator: string): Part => ({
  kind: 'modelled', designator, model: { id: 'm', name: 'amp' }, units: 2, settings: {},
  pins: { 'A.in+': 'a', 'A.in-': 'o1', 'A.out': 'o1', 'B.in+': 'o1', 'B.in-': 'o2', 'B.out': 'o2', 'v+': '+5V', 'v-': '-5V' },
})
export const npn = (designator: string, collector: string, base: string, emitter: string): Part => ({
  kind: 'generic', designator, part: 'npn', pins: { collector, base, emitter }, settings: {},
})

export const check = (output: string): Check => ({
  id: 'k', title: 'k', measurements: [], overlays: [],
  temperature: '27', analysis: { kind: 'frequency response', source: 's', output, start: '1', stop: '1k', points_per_decade: 10 },
  fixtures: [
    { kind: 'source', quantity: 'voltage', name: 's', plus: 'in', minus: 'gnd', dc: '0', ac: '1', phase: '0', resistance: '50' },
    { kind: 'supply', name: 'p', plus: '+5V', minus: 'gnd', volts: '5' },
    { kind: 'supply', name: 'n', plus: '-5V', minus: 'gnd', volts: '-5' },
    { kind: 'load', name: 'l', plus: output, minus: 'gnd', resistance: '1k' },
  ],
})

export const circuit = (parts: Part[], output?: string): Circuit => ({
  id: 'c', title: 'c', parts, checks: output ? [check(output)] : [], definitions: '', drawing: null,
})

/** Circuits of several kinds, by what they are. */
export const CIRCUITS: Record<string, Circuit> = {
  'a non-inverting stage with decoupling': circuit(
    [
      resistor('R1', 'in', 'f'), capacitor('C1', 'f', 'gnd'), opAmp('U1', 'f', 'fb', 'out'), resistor('R2', 'out', 'fb'),
      resistor('R3', 'fb', 'gnd'), capacitor('C2', '+5V', 'gnd'),
    ],
    'out',
  ),
  'an inverting stage behind a follower': circuit(
    [
      opAmp('U1', 'in', 'o1', 'o1'), resistor('R1', 'o1', 'm'), opAmp('U2', 'gnd', 'm', 'o2'), resistor('R2', 'm', 'o2'),
      capacitor('C1', 'o2', 'm'),
    ],
    'o2',
  ),
  'a ladder without an amplifier': circuit(
    [resistor('R1', 'in', 'a'), inductor('L1', 'a', 'c'), capacitor('C1', 'c', 'gnd'), resistor('R2', 'gnd', 'a')],
    'c',
  ),
  'a transistor stage': circuit(
    [
      capacitor('C1', 'in', 'b'), resistor('R1', '+5V', 'b'), resistor('R2', 'b', 'gnd'), npn('Q1', 'c', 'b', 'e'),
      resistor('R3', '+5V', 'c'), resistor('R4', 'e', 'gnd'), capacitor('C2', 'c', 'out'),
    ],
    'out',
  ),
  'a dual op-amp': circuit([resistor('R1', 'in', 'a'), dual('U1'), resistor('R2', 'o2', 'out'), capacitor('C1', 'out', 'gnd')], 'out'),
  'two switches above each other with a snubber': circuit(
    [
      resistor('R3', 'in', 'gh'), npn('Q1', '+5V', 'gh', 'sw'), npn('Q2', 'sw', 'gl', 'gnd'), inductor('L1', 'sw', 'out'), resistor('R1', 'sw', 'sn'),
      capacitor('C1', 'sn', 'gnd'), capacitor('C2', 'out', 'gnd'), resistor('R2', 'out', 'gnd'), resistor('R4', 'gl', 'gnd'), resistor('R5', 'out', 'fb'),
      resistor('R6', 'fb', 'gnd'), opAmp('U1', 'fb', 'ref', 'gl'), resistor('R7', '+5V', 'ref'), resistor('R8', 'ref', 'r2'), resistor('R9', 'r2', 'gnd'),
    ],
    'out',
  ),
}
