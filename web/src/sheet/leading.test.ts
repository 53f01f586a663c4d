import Elk from 'elkjs/lib/elk.bundled.js'
import { expect, it } from 'vitest'
import { arranged } from './arrange'
import { leadTo } from './leading'
import { sceneOf } from './scene'
import { book, CIRCUITS } from './testing'

it('ends on a wire of the net, or at the part, clear of words and symbols where there is a way', async () => {
  const source = CIRCUITS['a transistor stage']
  if (!source) throw new Error('no such circuit')
  const scene = sceneOf(await arranged(source, book, new Elk()), source.checks[0], book)
  const right = scene.bounds.right + 50
  const lead = leadTo(scene, { net: 'out' }, right, [scene.edge.top - 5])
  const wires = [...scene.wires, ...scene.fixtureWires].filter(({ net }) => net === 'out')
  expect(wires.some(({ points }) => points.some(({ y }) => y === lead?.end.y))).toBe(true)
  const boxes = scene.symbols.flatMap(({ body, texts }) => [body, ...texts.map(({ box }) => box)])
  const { x, y } = lead?.end ?? { x: NaN, y: NaN }
  expect(boxes.filter((box) => box.left < x && x < box.right && box.top < y - 4 && box.bottom > scene.edge.top)).toEqual([])
  const part = leadTo(scene, { part: 'Q1' }, right, [scene.edge.top - 5])
  const body = scene.symbols.find(({ name }) => name === 'Q1')?.body
  expect([body?.top, body?.bottom, (body ? body.top + body.bottom : NaN) / 2]).toContain(part?.end.y)
  expect(leadTo(scene, { net: 'nowhere' }, right, [0])).toBeNull()
})
