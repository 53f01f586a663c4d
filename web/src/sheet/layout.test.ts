import type { Check, Circuit } from '@/api/client'
import Elk from 'elkjs/lib/elk.bundled.js'
import { describe, expect, it } from 'vitest'
import { REACH } from './blocks'
import type { Drawing } from './geometry'
import { layOut } from './layout'

const resistor = (designator: string, a: string, b: string) => ({ kind: 'resistor', designator, value: '1k', pins: [a, b] })
const amplifier = (designator: string, plus: string, minus: string, out: string) => ({
  kind: 'modelled', designator, model: { id: 'm', name: 'amp' },
  pins: { 'in+': plus, 'in-': minus, 'v+': '+5V', 'v-': '-5V', out },
})

const check = (output: string) =>
  ({
    id: 'k', title: 'k', output, source: 's', measurements: [],
    analysis: { kind: 'frequency response', start: '1', stop: '1k', points_per_decade: 10 },
    fixtures: [
      { kind: 'source', name: 's', plus: 'in', minus: 'gnd', dc: '0', ac: '1', resistance: '50' },
      { kind: 'supply', name: 'p', plus: '+5V', minus: 'gnd', volts: '5' },
      { kind: 'supply', name: 'n', plus: '-5V', minus: 'gnd', volts: '-5' },
      { kind: 'load', name: 'l', plus: output, minus: 'gnd', resistance: '1k' },
    ],
  }) as unknown as Check

const CIRCUITS: Record<string, { circuit: unknown; output: string }> = {
  'a non-inverting stage with decoupling': {
    output: 'out',
    circuit: {
      parts: [
        resistor('R1', 'in', 'f'),
        { kind: 'capacitor', designator: 'C1', value: '1n', pins: ['f', 'gnd'] },
        amplifier('U1', 'f', 'fb', 'out'),
        resistor('R2', 'out', 'fb'),
        resistor('R3', 'fb', 'gnd'),
        { kind: 'capacitor', designator: 'C2', value: '100n', pins: ['+5V', 'gnd'] },
      ],
    },
  },
  'an inverting stage behind a follower': {
    output: 'o2',
    circuit: {
      parts: [
        amplifier('U1', 'in', 'o1', 'o1'),
        resistor('R1', 'o1', 'm'),
        amplifier('U2', 'gnd', 'm', 'o2'),
        resistor('R2', 'm', 'o2'),
        { kind: 'capacitor', designator: 'C1', value: '10p', pins: ['o2', 'm'] },
      ],
    },
  },
  'a ladder without an amplifier': {
    output: 'c',
    circuit: {
      parts: [
        resistor('R1', 'in', 'a'),
        { kind: 'inductor', designator: 'L1', value: '1m', pins: ['a', 'c'] },
        { kind: 'capacitor', designator: 'C1', value: '1n', pins: ['c', 'gnd'] },
        resistor('R2', 'gnd', 'a'),
      ],
    },
  },
}

const drawn = ({ circuit, output }: { circuit: unknown; output: string }): Promise<Drawing> =>
  layOut({ id: 'c', title: 'c', checks: [], ...(circuit as object) } as unknown as Circuit, check(output), new Elk())

/** Where the pins of two-pin symbols lie. */
const pinsOf = (drawing: Drawing) =>
  drawing.symbols
    .filter(({ kind }) => ['resistor', 'capacitor', 'inductor'].includes(kind))
    .flatMap(({ x, y, turned }) => (turned ? [{ x, y: y - REACH }, { x, y: y + REACH }] : [{ x: x - REACH, y }, { x: x + REACH, y }]))

describe.each(Object.entries(CIRCUITS))('the drawing of %s', (_, source) => {
  it('names every part once and every value of the board can be changed', async () => {
    const drawing = await drawn(source)
    const parts = (source.circuit as Circuit).parts
    const named = drawing.texts.filter(({ role }) => role === 'designator').map(({ text }) => text)
    for (const part of parts) expect(named.filter((name) => name === part.designator)).toHaveLength(1)
    const changeable = drawing.texts.flatMap(({ part }) => part ?? []).sort()
    expect(changeable).toEqual(parts.filter(({ kind }) => kind !== 'modelled').map(({ designator }) => designator).sort())
  })

  it('ends every pin on a wire, a rail or ground', async () => {
    const drawing = await drawn(source)
    const ends = [
      ...drawing.wires.flatMap(({ points }) => points),
      ...drawing.symbols.filter(({ kind }) => kind === 'ground' || kind === 'rail'),
    ]
    for (const pin of pinsOf(drawing)) {
      expect(ends.some(({ x, y }) => Math.abs(x - pin.x) < 0.5 && Math.abs(y - pin.y) < 0.5), JSON.stringify(pin)).toBe(true)
    }
  })

  it('keeps symbols apart and wires at right angles', async () => {
    const drawing = await drawn(source)
    const boxes = drawing.symbols
      .filter(({ kind }) => kind !== 'rail' && kind !== 'ground')
      .map(({ kind, x, y, turned }) => {
        const [w, h] = kind === 'amplifier' ? [85, 100] : turned ? [16, 50] : [50, 16]
        return { left: x - w / 2, right: x + w / 2, top: y - h / 2, bottom: y + h / 2 }
      })
    boxes.forEach((a, k) => {
      for (const b of boxes.slice(k + 1)) {
        expect(a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom).toBe(false)
      }
    })
    for (const { points } of drawing.wires) {
      points.slice(1).forEach((end, k) => {
        const start = points[k]
        expect(Math.min(Math.abs(end.x - (start?.x ?? 0)), Math.abs(end.y - (start?.y ?? 0)))).toBeLessThan(0.01)
      })
    }
  })

  it('puts the board inside its edge and the fixture outside', async () => {
    const { edge, texts } = await drawn(source)
    const inside = ({ x, y }: { x: number; y: number }) =>
      x >= edge.x && x <= edge.x + edge.width && y >= edge.y && y <= edge.y + edge.height
    for (const text of texts.filter(({ part }) => part)) expect(inside(text)).toBe(true)
    for (const text of texts.filter(({ text: words }) => ['s', 'l', 'p', 'n'].includes(words))) expect(inside(text)).toBe(false)
  })
})
