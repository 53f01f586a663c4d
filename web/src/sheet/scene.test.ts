import Elk from 'elkjs/lib/elk.bundled.js'
import { beforeAll, describe, expect, it } from 'vitest'
import { arranged } from './arrange'
import { emptyDrawing, type Drawn } from './ends'
import { placedFragment, ofDrawing } from './fragment'
import { grown, isOn, piecesOf } from './geometry'
import { hitAt, inBox } from './hits'
import { sceneOf, type Scene } from './scene'
import { book, check, CIRCUITS, circuit as circuitOf } from './testing'

let drawn: Drawn
let scene: Scene
beforeAll(async () => {
  const source = CIRCUITS['a non-inverting stage with decoupling']
  if (!source) throw new Error('no such circuit')
  drawn = await arranged(source, book, new Elk())
  scene = sceneOf(drawn, source.checks[0], book)
})

describe('a scene', () => {
  it('wires fixtures across the edge to their nets, sources on the left and loads on the right', () => {
    expect(scene.fixtureWires.map(({ net }) => net).sort()).toEqual(['in', 'out'])
    const box = (name: string) => scene.fixtures.find(({ fixture }) => fixture.name === name)?.box
    expect(box('s')?.right).toBeLessThan(scene.edge.left)
    expect(box('l')?.left).toBeGreaterThan(scene.edge.right)
    expect(box('p')?.bottom).toBeLessThan(scene.edge.top)
    expect(scene.flags).toEqual([])
  })

  it('says by its name where a net with a name is attached', () => {
    const mark = ofDrawing({ marks: [{ id: 'm1', kind: 'label', net: 'out', x: 0, y: 0, turn: 0 }] })
    const pin = scene.symbols.flatMap(({ pins }) => pins).find(({ end }) => end === 'U1.out')
    const named = placedFragment(drawn, mark, { x: pin?.x ?? 0, y: pin?.y ?? 0 }, new Set(), book).circuit
    expect(sceneOf(named, named.checks[0], book).flags.map(({ net }) => net)).toEqual(['out'])
  })

  it('has a dot wherever three conductors meet, and nowhere else', () => {
    const stubs = new Map<string, number>()
    const add = (x: number, y: number) => stubs.set(`${x},${y}`, (stubs.get(`${x},${y}`) ?? 0) + 1)
    for (const { pins } of scene.symbols) for (const { x, y } of pins) add(x, y)
    for (const { x, y } of scene.marks) add(x, y)
    for (const { points } of [...scene.wires, ...scene.fixtureWires].filter((wire) => wire.points.length > 1)) {
      // A wire that passes is there twice.
      for (const key of stubs.keys()) {
        const [x = 0, y = 0] = key.split(',').map(Number)
        if (piecesOf(points).some(([a, b]) => isOn({ x, y }, a, b))) add(x, y)
      }
    }
    const due = [...stubs].filter(([, count]) => count > 2).map(([key]) => key)
    expect(due.length).toBeGreaterThan(0)
    const dotted = scene.dots.map(({ x, y }) => `${x},${y}`)
    for (const key of due) expect(dotted).toContain(key)
    expect(new Set(dotted).size).toBe(dotted.length)
  })

  it('labels nets once each, and no rails', () => {
    const nets = scene.labels.map(({ net }) => net)
    expect(new Set(nets).size).toBe(nets.length)
    expect(nets).toContain('out')
    expect(nets).not.toContain('gnd')
  })

  it('of a blank sheet is an empty board of some size', () => {
    const blank = sceneOf({ ...circuitOf([]), drawing: emptyDrawing() }, undefined, book)
    expect(blank.edge.right - blank.edge.left).toBeGreaterThanOrEqual(480)
    expect([blank.symbols, blank.wires, blank.labels]).toEqual([[], [], []])
  })

  it('rings pins that touch without being connected', () => {
    const { symbols } = drawn.drawing
    const [one, other] = [symbols['R1'], symbols['C2']]
    if (!one || !other) throw new Error('the parts are not drawn')
    const onTop: Drawn = { ...drawn, drawing: { ...drawn.drawing, symbols: { ...symbols, C2: { ...one } } } }
    expect(sceneOf(onTop, check('out'), book).misleading.length).toBeGreaterThan(0)
    expect(scene.misleading).toEqual([])
  })
})

describe('what lies under the pointer', () => {
  const joints = () => drawn.drawing.joints

  it('is a pin before a wire, a wire before a body, and then a fixture', () => {
    const amplifier = scene.symbols.find(({ name }) => name === 'U1')
    const [pin] = amplifier?.pins ?? []
    expect(hitAt(scene, joints(), pin ?? { x: 0, y: 0 })).toMatchObject({ kind: 'end', end: pin?.end })
    expect(hitAt(scene, joints(), { x: (amplifier?.at.x ?? 0) - 10, y: (amplifier?.at.y ?? 0) + 10 })).toEqual({ kind: 'item', name: 'U1' })
    const wire = scene.wires.find(({ points }) => points.length > 1 && Math.hypot((points[0]?.x ?? 0) - (points[1]?.x ?? 0), (points[0]?.y ?? 0) - (points[1]?.y ?? 0)) > 40)
    const [a, b] = wire?.points ?? []
    expect(hitAt(scene, joints(), { x: ((a?.x ?? 0) + (b?.x ?? 0)) / 2, y: ((a?.y ?? 0) + (b?.y ?? 0)) / 2 })).toMatchObject({ kind: 'wire', net: wire?.net })
    const source = scene.fixtures.find(({ fixture }) => fixture.name === 's')
    expect(hitAt(scene, joints(), { x: (source?.box.left ?? 0) + 5, y: (source?.box.bottom ?? 0) - 5 })).toEqual({ kind: 'item', name: 'fixture:s' })
    expect(hitAt(scene, joints(), { x: scene.bounds.left - 500, y: 0 })).toBeNull()
  })

  it('in a box around everything is everything', () => {
    const all = inBox(scene, joints(), grown(scene.bounds, 10))
    for (const { name } of scene.symbols) expect(all.has(name)).toBe(true)
    for (const { id } of scene.marks) expect(all.has(id)).toBe(true)
    expect(inBox(scene, joints(), { left: 9000, top: 9000, right: 9001, bottom: 9001 }).size).toBe(0)
  })
})
