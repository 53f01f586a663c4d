import Elk from 'elkjs/lib/elk.bundled.js'
import { describe, expect, it } from 'vitest'
import { arranged } from './arrange'
import { netByEnd, placesOf } from './ends'
import { crosses, holds, overlap, piecesOf } from './geometry'
import { groupsOf } from './nets'
import { markText } from './pieces'
import { sceneOf } from './scene'
import { book, capacitor, circuit, CIRCUITS, inductor, npn, opAmp, resistor } from './testing'

describe.each(Object.entries(CIRCUITS))('the drawing of %s', (_, source) => {
  const drawn = () => arranged(source, book, new Elk())
  const scene = async () => sceneOf(await drawn(), source.checks[0], book)

  it('connects what the circuit connects, and nothing else', async () => {
    const result = await drawn()
    expect(netByEnd(result.parts)).toEqual(netByEnd(source.parts))
    const nets = netByEnd(result.parts)
    const marks = new Map(result.drawing.marks.map(({ id, net }) => [id, net]))
    for (const group of groupsOf(result)) expect(new Set(group.map((end) => nets.get(end) ?? marks.get(end))).size).toBe(1)
  })

  it('leads every wire from end to end at right angles, on the grid', async () => {
    const result = await drawn()
    const places = placesOf(result, book)
    for (const { ends, points } of result.drawing.wires) {
      expect(points[0]).toEqual(Object.values(places.get(ends[0]) ?? {}).slice(0, 2))
      expect(points.at(-1)).toEqual(Object.values(places.get(ends[1]) ?? {}).slice(0, 2))
      for (const [x, y] of points) expect([x % 10, y % 10].map(Math.abs)).toEqual([0, 0])
      for (const [a, b] of piecesOf(points.map(([x, y]) => ({ x, y })))) expect(a.x === b.x || a.y === b.y).toBe(true)
    }
  })

  it('lets no wire cross a symbol, and no words overlap', async () => {
    const { symbols, wires, fixtureWires, marks, labels } = await scene()
    for (const { points } of [...wires, ...fixtureWires]) {
      for (const [a, b] of piecesOf(points)) {
        for (const { name, body } of symbols) expect(crosses(a, b, body), `wire over ${name}`).toBe(false)
      }
    }
    const words = [
      ...symbols.flatMap(({ texts }) => texts), ...labels.map(({ net, box }) => ({ text: `volts of ${net}`, box })),
      ...marks.filter(({ kind }) => kind !== 'ground').map((mark) => markText(mark)),
    ]
    words.forEach((one, k) => {
      for (const other of words.slice(k + 1)) expect(overlap(one.box, other.box), `${one.text} over ${other.text}`).toBe(false)
      const own = symbols.find(({ texts }) => texts.some((text) => text === one))
      for (const { name, body } of symbols) if (name !== own?.name) expect(overlap(one.box, body), `${one.text} over ${name}`).toBe(false)
    })
  })

  it('keeps symbols apart, the board inside its edge and the fixture outside', async () => {
    const { symbols, edge, fixtures } = await scene()
    symbols.forEach((one, k) => {
      for (const other of symbols.slice(k + 1)) expect(overlap(one.body, other.body), `${one.name} over ${other.name}`).toBe(false)
      expect(holds(edge, { x: one.box.left, y: one.box.top }) && holds(edge, { x: one.box.right, y: one.box.bottom })).toBe(true)
    })
    for (const { box } of fixtures) expect(overlap(box, edge)).toBe(false)
  })
})

it('stands supplies up, ground down and feedback above', async () => {
  const source = CIRCUITS['a non-inverting stage with decoupling']
  if (!source) throw new Error('no such circuit')
  const { drawing } = await arranged(source, book, new Elk())
  const at = (name: string) => drawing.symbols[name] ?? { x: NaN, y: NaN, turn: 0 }
  expect(at('R2').y).toBeLessThan(at('U1').y)
  expect(at('R1').x).toBeLessThan(at('U1').x)
  expect(drawing.marks.filter(({ kind }) => kind === 'ground').every(({ turn }) => turn === 0)).toBe(true)
  expect(drawing.marks.find(({ net }) => net === '+5V')?.turn).toBe(0)
  expect(drawing.marks.find(({ net }) => net === '-5V')?.turn).toBe(2)
})

describe('what belongs above each other', () => {
  const standing = async (parts: Parameters<typeof circuit>[0], output?: string) => (await arranged(circuit(parts, output), book, new Elk())).drawing
  const x = (drawing: Awaited<ReturnType<typeof standing>>, name: string) => drawing.symbols[name]?.x ?? NaN
  const y = (drawing: Awaited<ReturnType<typeof standing>>, name: string) => drawing.symbols[name]?.y ?? NaN

  it('is a divider, from its supply to ground, left of what it feeds, with its capacitor beside', async () => {
    const drawing = await standing([
      resistor('R1', '+5V', 'mid'), resistor('R2', 'mid', 'gnd'), capacitor('C1', 'mid', 'gnd'), resistor('R3', 'mid', 'p'), opAmp('U1', 'p', 'out', 'out'),
    ])
    expect(x(drawing, 'R1')).toBe(x(drawing, 'R2'))
    expect(y(drawing, 'R1')).toBeLessThan(y(drawing, 'R2'))
    expect(y(drawing, 'C1')).toBe(y(drawing, 'R2'))
    expect(x(drawing, 'C1')).toBeGreaterThan(x(drawing, 'R2'))
    expect(x(drawing, 'R1')).toBeLessThan(x(drawing, 'U1'))
  })

  it('is a switch below another one, with the snubber of their node beside', async () => {
    const drawing = await standing([
      npn('Q1', '+5V', 'gh', 'sw'), npn('Q2', 'sw', 'gl', 'gnd'), inductor('L1', 'sw', 'out'), resistor('R1', 'sw', 'sn'),
      capacitor('C1', 'sn', 'gnd'), capacitor('C2', 'out', 'gnd'), resistor('R2', 'out', 'gnd'),
    ])
    expect(x(drawing, 'Q1')).toBe(x(drawing, 'Q2'))
    expect(y(drawing, 'Q1')).toBeLessThan(y(drawing, 'Q2'))
    expect([x(drawing, 'R1'), drawing.symbols['R1']?.turn]).toEqual([x(drawing, 'C1'), 1])
    expect(y(drawing, 'C2')).toBe(y(drawing, 'R2'))
    expect(x(drawing, 'L1')).toBeLessThan(x(drawing, 'C2'))
  })

  it('is a transistor with its collector’s and its emitter’s resistors, but no coupling capacitor', async () => {
    const drawing = await standing([
      capacitor('C1', 'in', 'b'), resistor('R1', '+5V', 'c'), npn('Q1', 'c', 'b', 'e'), resistor('R2', 'e', 'gnd'), capacitor('C2', 'c', 'out'),
      resistor('R3', 'out', 'gnd'),
    ], 'out')
    expect(x(drawing, 'R1')).toBe(x(drawing, 'R2'))
    expect(y(drawing, 'R1')).toBeLessThan(y(drawing, 'Q1'))
    expect(y(drawing, 'Q1')).toBeLessThan(y(drawing, 'R2'))
    expect(['C1', 'C2'].map((name) => drawing.symbols[name]?.turn)).toEqual([0, 0])
  })

  it('is not a filter whose output is looked at', async () => {
    const drawing = await standing([resistor('R1', 'in', 'out'), capacitor('C1', 'out', 'gnd')], 'out')
    expect(drawing.symbols['R1']?.turn).toBe(0)
    expect(drawing.symbols['C1']?.turn).toBe(1)
  })
})
