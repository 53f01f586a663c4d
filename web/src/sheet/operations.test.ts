import { bought } from '@/stores/spreads'
import Elk from 'elkjs/lib/elk.bundled.js'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { arranged } from './arrange'
import { emptyDrawing, netByEnd, placesOf, type Drawn } from './ends'
import { copied, ofDrawing, ofPart, placedFragment } from './fragment'
import { groupsOf, Refusal, renamedNet, renet } from './nets'
import { aligned, everything, mirrored, moved, removed, turned } from './operations'
import { isSound, rerouted, wireKey } from './routing'
import { book, CIRCUITS, circuit as circuitOf, resistor } from './testing'
import { connected, targetAt } from './wiring'

let drawn: Drawn[] = []
beforeAll(async () => {
  drawn = await Promise.all(Object.values(CIRCUITS).map((source) => arranged(source, book, new Elk())))
})

/** Which pins are connected, whatever the nets are called. */
const connectivity = (circuit: Drawn) => groupsOf(circuit).map((group) => group.filter((end) => /^[A-Z]/.test(end)).sort().join(' ')).sort()
/** The nets in the parts are exactly what the drawing shows. */
function expectTrue(circuit: Drawn) {
  const nets = netByEnd(circuit.parts)
  for (const mark of circuit.drawing.marks) nets.set(mark.id, mark.net)
  const seen = new Set<string>()
  for (const group of groupsOf(circuit)) {
    const names = new Set(group.map((end) => nets.get(end)))
    expect(names.size).toBe(1)
    const [name] = names
    expect(seen.has(name ?? '')).toBe(false)
    seen.add(name ?? '')
  }
  const places = placesOf(circuit, book)
  for (const wire of circuit.drawing.wires) expect(isSound(wire, places), wireKey(wire)).toBe(true)
}

const step = fc.integer({ min: -12, max: 12 }).map((k) => 10 * k)
type Op = (circuit: Drawn) => Drawn
const pick = (circuit: Drawn, picks: readonly number[]) => {
  const names = [...everything(circuit)]
  return new Set(picks.map((k) => names[k % names.length] ?? ''))
}
const picks = fc.array(fc.nat(60), { minLength: 1, maxLength: 4 })
/** Operations that promise to leave all connections as they are. */
const still: fc.Arbitrary<Op> = fc.oneof(
  fc.tuple(picks, step, step).map(([some, x, y]): Op => (circuit) => moved(circuit, pick(circuit, some), { x, y }, book)),
  picks.map((some): Op => (circuit) => turned(circuit, pick(circuit, some), book)),
  picks.map((some): Op => (circuit) => mirrored(circuit, pick(circuit, some), book)),
  fc.tuple(picks, fc.constantFrom('row' as const, 'column' as const)).map(([some, axis]): Op => (circuit) => aligned(circuit, pick(circuit, some), axis, book)),
  fc.constant<Op>((circuit) => rerouted(circuit, book, new Set(circuit.drawing.wires.map(wireKey)))),
)
/** Operations that change connections, and say so. */
const changing: fc.Arbitrary<Op> = fc.oneof(
  picks.map((some): Op => (circuit) => removed(circuit, pick(circuit, some))),
  fc.nat(100).map((k): Op => (circuit) => {
    const wire = circuit.drawing.wires[k % Math.max(circuit.drawing.wires.length, 1)]
    return wire ? removed(circuit, new Set([wireKey(wire)])) : circuit
  }),
  fc.tuple(fc.nat(100), fc.nat(100)).map(([a, b]): Op => (circuit) => {
    const ends = [...placesOf(circuit, book).keys()]
    if (!ends.length) return circuit
    try {
      return rerouted(connected(circuit, { end: ends[a % ends.length] ?? '' }, { end: ends[b % ends.length] ?? '' }), book)
    } catch (error) {
      if (error instanceof Refusal) return circuit
      throw error
    }
  }),
  fc.tuple(step, step).map(([x, y]): Op => (circuit) => {
    const taken = new Set(circuit.parts.map((part) => part.designator))
    try {
      return placedFragment(circuit, ofPart(resistor('R1', 'open', 'open')), { x, y }, taken, book).circuit
    } catch (error) {
      if (error instanceof Refusal) return circuit
      throw error
    }
  }),
)

describe('drawing operations', () => {
  it('never change what is connected, unless they say so', () => {
    fc.assert(
      fc.property(fc.nat(4), fc.array(still, { minLength: 1, maxLength: 4 }), (k, operations) => {
        const start = drawn[k % drawn.length] as Drawn
        const end = operations.reduce((circuit, operation) => operation(circuit), start)
        expect(connectivity(end)).toEqual(connectivity(start))
        expect(netByEnd(end.parts)).toEqual(netByEnd(start.parts))
        expectTrue(end)
      }),
      { numRuns: 60 },
    )
  })

  it('always leave nets that are what the drawing shows', () => {
    fc.assert(
      fc.property(fc.nat(4), fc.array(fc.oneof(still, changing), { minLength: 1, maxLength: 6 }), (k, operations) => {
        expectTrue(operations.reduce((circuit, operation) => operation(circuit), drawn[k % drawn.length] as Drawn))
      }),
      { numRuns: 60 },
    )
  })

  it('turn and mirror back to where they began', () => {
    for (const start of drawn) {
      const one = new Set([Object.keys(start.drawing.symbols)[0] ?? ''])
      const around = [1, 2, 3, 4].reduce((circuit) => turned(circuit, one, book), start)
      expect(around.drawing.symbols).toEqual(start.drawing.symbols)
      expect(mirrored(mirrored(start, one, book), one, book).drawing.symbols).toEqual(start.drawing.symbols)
    }
  })
})

describe('a net', () => {
  const blank = (): Drawn => ({ ...circuitOf([]), drawing: emptyDrawing() })
  const place = (circuit: Drawn, name: string, x: number, y: number) =>
    placedFragment(circuit, ofPart(resistor(name, 'open', 'open')), { x, y }, new Set(circuit.parts.map((part) => part.designator)), book).circuit
  const nets = (circuit: Drawn) => Object.fromEntries(netByEnd(circuit.parts))

  it('is joined where a pin is placed on another, and numbered by itself', () => {
    const two = place(place(blank(), 'R1', 0, 0), 'R1', 60, 0)
    expect(two.parts.map((part) => part.designator)).toEqual(['R1', 'R2'])
    expect(nets(two)['R1.2']).toBe(nets(two)['R2.1'])
    expect(new Set(Object.values(nets(two))).size).toBe(3)
  })

  it('follows a part that is moved away', () => {
    const two = place(place(blank(), 'R1', 0, 0), 'R1', 60, 0)
    const apart = moved(two, new Set(['R2']), { x: 200, y: 100 }, book)
    expect(nets(apart)).toEqual(nets(two))
    expect(apart.drawing.wires[0]?.points.length).toBeGreaterThan(1)
  })

  it('keeps its name in its larger piece when it falls apart', () => {
    const row = place(place(place(blank(), 'R1', 0, 0), 'R2', 0, 100), 'R3', 0, 200)
    const wired = connected(connected(row, { end: 'R1.2' }, { end: 'R2.2' }), { end: 'R2.2' }, { end: 'R3.2' })
    const named = renamedNet(wired, nets(wired)['R1.2'] ?? '', 'sum')
    const cut = removed(named, new Set(['R2.2|R3.2']))
    expect([nets(cut)['R1.2'], nets(cut)['R2.2']]).toEqual(['sum', 'sum'])
    expect(nets(cut)['R3.2']).not.toBe('sum')
  })

  it('of two names is refused', () => {
    const mark = (net: string, y: number) => ofDrawing({ marks: [{ id: 'm1', kind: 'label', net, x: 0, y, turn: 0 }] })
    const taken = new Set<string>()
    const one = placedFragment(place(blank(), 'R1', 0, 0), mark('a', 0), { x: -30, y: 0 }, taken, book).circuit
    const both = placedFragment(one, mark('b', 0), { x: 30, y: 0 }, taken, book).circuit
    expect(nets(both)).toEqual({ 'R1.1': 'a', 'R1.2': 'b' })
    expect(() => connected(both, { end: 'R1.1' }, { end: 'R1.2' })).toThrow('a and b are two nets by name')
  })

  it('is one wherever its name stands', () => {
    const mark = ofDrawing({ marks: [{ id: 'm1', kind: 'label', net: 'vref', x: 0, y: 0, turn: 0 }] })
    const two = place(place(blank(), 'R1', 0, 0), 'R2', 0, 200)
    const taken = new Set<string>()
    const one = placedFragment(two, mark, { x: 30, y: 0 }, taken, book).circuit
    const both = placedFragment(one, mark, { x: 30, y: 200 }, taken, book).circuit
    expect([nets(both)['R1.2'], nets(both)['R2.2']]).toEqual(['vref', 'vref'])
  })

  it('takes what is attached to it along when it is renamed', () => {
    const [start] = drawn as [Drawn]
    const next = renamedNet(start, 'out', 'result')
    expect(next.checks[0]?.analysis).toMatchObject({ output: 'result' })
    expect(next.checks[0]?.fixtures.find(({ name }) => name === 'l')?.plus).toBe('result')
    expect(() => renamedNet(start, 'out', 'in')).toThrow('There is a net in already')
  })

  it('that loses its ground sign does not take along what returns to ground', () => {
    const [start] = drawn as [Drawn]
    const grounds = start.drawing.marks.filter(({ kind }) => kind === 'ground').map(({ id }) => id)
    const without = removed(start, new Set(grounds))
    expect(Object.values(nets(without))).not.toContain('gnd')
    expect(without.checks[0]?.fixtures.map(({ minus }) => minus)).toEqual(start.checks[0]?.fixtures.map(({ minus }) => minus))
  })

  it('is met in the middle of a wire by a joint', () => {
    const row = place(place(place(blank(), 'R1', 0, 0), 'R2', 200, 0), 'R3', 200, 100)
    const wired = rerouted(connected(row, { end: 'R1.2' }, { end: 'R2.1' }), book)
    const target = targetAt(wired, book, { x: 100, y: 0 })
    expect(target).toMatchObject({ at: { x: 100, y: 0 } })
    const joined = rerouted(connected(wired, { end: 'R3.1' }, target ?? { end: '' }), book)
    expect(joined.drawing.joints).toHaveLength(1)
    expect(nets(joined)['R3.1']).toBe(nets(joined)['R1.2'])
    // Without its branch the joint goes, and the wire is whole again.
    const again = removed(joined, new Set(['R3']))
    expect(again.drawing.joints).toEqual([])
    expect(again.drawing.wires.filter(({ ends }) => ends.includes('R1.2'))).toHaveLength(1)
  })
})

describe('copies', () => {
  it('are connected among themselves as the original is, under new designators', () => {
    for (const start of drawn) {
      const fragment = copied(start, everything(start), [])
      const taken = new Set(start.parts.map((part) => part.designator))
      const blank: Drawn = { ...start, parts: [], checks: [], drawing: emptyDrawing() }
      const placing = placedFragment(blank, fragment, { x: 3000, y: 3000 }, taken, book)
      expect(placing.circuit.parts).toHaveLength(start.parts.length)
      expect(placing.circuit.parts.some((part) => taken.has(part.designator))).toBe(false)
      expect(connectivity(placing.circuit).map((group) => group.split(' ').length).sort()).toEqual(connectivity(start).map((group) => group.split(' ').length).sort())
      expectTrue(placing.circuit)
    }
  })

  it('of two parts with corners between them keep the wire', () => {
    const [start] = drawn as [Drawn]
    const part = (name: string, x: number) => ({ [name]: { x, y: 0, turn: 0 as const, mirrored: false } })
    const cornered: Drawn = {
      ...start, checks: [], parts: [resistor('R1', 'a', 'b'), resistor('R2', 'b', 'c')],
      drawing: {
        ...emptyDrawing(), symbols: { ...part('R1', 0), ...part('R2', 300) },
        joints: [{ id: 'j1', x: 100, y: 0 }, { id: 'j2', x: 200, y: 0 }, { id: 'j3', x: 100, y: 90 }],
        wires: [
          { ends: ['R1.2', 'j1'], points: [[30, 0], [100, 0]] }, { ends: ['j1', 'j2'], points: [[100, 0], [200, 0]] },
          { ends: ['j2', 'R2.1'], points: [[200, 0], [270, 0]] }, { ends: ['j1', 'j3'], points: [[100, 0], [100, 90]] },
        ],
      },
    }
    const fragment = copied(cornered, new Set(['R1', 'R2']), [])
    expect(fragment.drawing.joints.map(({ id }) => id)).toEqual(['j1', 'j2'])
    expect(fragment.drawing.wires).toHaveLength(3)
  })

  it('take their spreads along', () => {
    const [start] = drawn as [Drawn]
    const fragment = copied(start, new Set(['R1']), [bought('R1', '1'), bought('C1', '5')])
    const placing = placedFragment(start, fragment, { x: 900, y: 900 }, new Set(start.parts.map((part) => part.designator)), book)
    expect(placing.spreads).toEqual([bought('R4', '1')])
  })
})

it('renet changes nothing where nothing has changed', () => {
  for (const start of drawn) expect(renet(start).parts).toBe(start.parts)
})
