import { describe, expect, it } from 'vitest'
import type { Drawn } from './ends'
import { book, circuit, resistor } from './testing'
import { pieceAcross, pieceMoved, shifted } from './wirePieces'

const at = (...pairs: [number, number][]) => pairs.map(([x, y]) => ({ x, y }))

describe('a piece of a wire', () => {
  it('moves across itself, and its neighbours follow', () => {
    expect(shifted(at([0, 0], [40, 0], [40, 60], [90, 60]), 1, { x: 10, y: 30 })).toEqual(at([0, 0], [50, 0], [50, 60], [90, 60]))
  })

  it('leaves the ends of the wire where they are', () => {
    expect(shifted(at([0, 0], [90, 0]), 0, { x: 20, y: -30 })).toEqual(at([0, 0], [0, -30], [90, -30], [90, 0]))
    expect(shifted(at([0, 0], [40, 0], [40, 60]), 0, { x: 0, y: 20 })).toEqual(at([0, 0], [0, 20], [40, 20], [40, 60]))
  })

  it('that keys move is the longest one across their way', () => {
    const points = at([0, 0], [40, 0], [40, 60], [140, 60])
    expect(pieceAcross(points, { x: 0, y: 10 })).toBe(2)
    expect(pieceAcross(points, { x: 10, y: 0 })).toBe(1)
    expect(pieceAcross(at([0, 0], [40, 0]), { x: 10, y: 0 })).toBeUndefined()
  })

  it('is not led over what it is not connected to', () => {
    const parts = [resistor('R1', 'a', 'b'), resistor('R2', 'b', 'c'), resistor('R3', 'd', 'e')]
    const source: Drawn = {
      ...circuit(parts),
      drawing: {
        symbols: {
          R1: { x: 0, y: 0, turn: 0, mirrored: false }, R2: { x: 200, y: 0, turn: 0, mirrored: false },
          R3: { x: 100, y: 40, turn: 0, mirrored: false },
        },
        marks: [], joints: [], notes: [], wires: [{ ends: ['R1.2', 'R2.1'], points: [[30, 0], [170, 0]] }],
      },
    }
    const move = (y: number) => pieceMoved(source, { wire: 'R1.2|R2.1', index: 0 }, { x: 0, y }, book).drawing.wires[0]?.points
    expect(move(-20)).toEqual([[30, 0], [30, -20], [170, -20], [170, 0]])
    expect(() => move(40)).toThrow(/R3/)
  })
})
