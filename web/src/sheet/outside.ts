import type { Check, Fixture } from '@/api/client'
import { boxOf, grown, overlap, snapped, type Box, type Point, type Way } from './geometry'
import { sceneText, type SceneText } from './pieces'

/** Symbols of fixtures, drawn about their own points. */
export interface FixtureDrawing {
  fixture: Fixture
  strokes: string
  filled: string
  texts: SceneText[]
  grounds: Point[]
  /** Where its wire to the board begins, which net it leads to, and which way it leaves. */
  port: (Point & { net: string; way: Way }) | null
  box: Box
}

const CIRCLE = (x: number, y: number) => `M${x - 15} ${y}a15 15 0 1 0 30 0a15 15 0 1 0 -30 0Z`

/** The typed quantity with its unit, unless it was typed with one. */
const withUnit = (text: string, unit: string) => (/[ΩVΩ]$|ohm$/i.test(text) ? text : `${text} ${unit}`)
const short = (text: string) => (text.length > 12 ? `${text.slice(0, 11)}…` : text)

/**
 * The fixture of a check around the board edge: sources on the left, loads on the right, supplies above. `anchors`
 * says at what height each net can be reached from the left and from the right.
 */
export function fixtureDrawings(
  check: Check, edge: Box, anchors: (net: string, side: 'left' | 'right') => number | undefined,
): FixtureDrawing[] {
  const found: FixtureDrawing[] = []
  let supply = edge.left + 40
  for (const fixture of check.fixtures) {
    if (fixture.kind !== 'supply') continue
    found.push(supplyDrawing(fixture, supply, edge.top - 40))
    supply = snapped(supply + 60 + 7 * Math.max(fixture.name.length, fixture.volts.length + 2) + 20)
  }
  const column = (kinds: readonly string[], side: 'left' | 'right') => {
    const wanted = check.fixtures
      .filter(({ kind }) => kinds.includes(kind))
      .map((fixture) => ({ fixture, y: anchors(fixture.plus, side) ?? snapped((edge.top + edge.bottom) / 2) }))
      .sort((a, b) => a.y - b.y)
    let free = -Infinity
    for (const { fixture, y } of wanted) {
      const at = Math.max(y, free)
      const drawing = side === 'left' ? sourceDrawing(fixture, edge.left - 20, at) : loadDrawing(fixture, edge.right + 20, at)
      found.push(drawing)
      free = snapped(drawing.box.bottom + 40)
    }
  }
  column(['source', 'written source'], 'left')
  column(['load'], 'right')
  return found
}

function finish(drawing: Omit<FixtureDrawing, 'box'>, corners: Point[]): FixtureDrawing {
  const texts = drawing.texts.flatMap(({ box }) => [{ x: box.left, y: box.top }, { x: box.right, y: box.bottom }])
  return { ...drawing, box: boxOf([...corners, ...texts, ...drawing.grounds.map(({ x, y }) => ({ x, y: y + 16 }))]) }
}

/** What a pin that is not on ground leads to, in words. */
const returnText = (fixture: Fixture, x: number, y: number) =>
  fixture.minus === 'gnd' ? [] : [sceneText(`− to ${fixture.minus}`, x, y, 'middle', 'note')]

function supplyDrawing(fixture: Extract<Fixture, { kind: 'supply' }>, x: number, y: number): FixtureDrawing {
  const name = fixture.name.replaceAll('-', ' ')
  const texts = [
    sceneText(fixture.plus, x, y - 8, 'middle', 'note'),
    sceneText(name, x + 20, y - 10, 'start', 'note'),
    sceneText(withUnit(fixture.volts, 'V'), x + 20, y + 6, 'start', 'value', `${fixture.name}.volts`),
  ]
  if (fixture.minus !== 'gnd') texts.push(sceneText(`from ${fixture.minus}`, x + 20, y + 21, 'start', 'note'))
  return finish({ fixture, strokes: `M${x - 9} ${y}h18`, filled: '', texts, grounds: [], port: null }, [{ x: x - 12, y: y + 8 }])
}

function sourceDrawing(fixture: Fixture, x: number, y: number): FixtureDrawing {
  const behind = fixture.kind === 'source' && !/^0+(\.0*)?\s*(Ω|ohm)?$/i.test(fixture.resistance)
  const left = x - 90
  const lead = behind ? `M${left} ${y + 25}V${y}H${x - 70}M${x - 10} ${y}H${x}M${x - 70} ${y}h11m38 0h11M${x - 59} ${y - 7}h38v14h-38Z` : `M${left} ${y + 25}V${y}H${x}`
  const wave = fixture.kind === 'source' ? `M${left - 8} ${y + 40}c3 -9 5 -9 8 0s5 9 8 0` : fixture.kind === 'written source' && fixture.quantity === 'current' ? `M${left} ${y + 48}V${y + 33}l-4 6m4 -6l4 6` : `M${left - 8} ${y + 45}v-10h8v10h8v-10`
  const texts = [sceneText(fixture.name.replaceAll('-', ' '), left + 22, y + 36, 'start', 'designator')]
  if (fixture.kind === 'source') {
    texts.push(sceneText(`AC ${withUnit(fixture.ac, 'V')}`, left + 22, y + 52, 'start', 'value', `${fixture.name}.ac`))
    if (behind) texts.push(sceneText(withUnit(fixture.resistance, 'Ω'), x - 40, y - 13, 'middle', 'value', `${fixture.name}.resistance`))
  } else if (fixture.kind === 'written source') texts.push(sceneText(short(fixture.text), left + 22, y + 52, 'start', 'note'))
  texts.push(...returnText(fixture, left, y + 84))
  return finish(
    {
      fixture, strokes: `${lead}M${left} ${y + 55}V${y + 70}${wave}`, filled: CIRCLE(left, y + 40), texts,
      grounds: fixture.minus === 'gnd' ? [{ x: left, y: y + 70 }] : [], port: { x, y, net: fixture.plus, way: 'east' },
    },
    [{ x: left - 16, y: y - 8 }, { x, y: y + 70 }],
  )
}

function loadDrawing(fixture: Fixture, x: number, y: number): FixtureDrawing {
  const at = x + 30
  const texts = [sceneText(fixture.name.replaceAll('-', ' '), at + 14, y + 36, 'start', 'designator')]
  if (fixture.kind === 'load') texts.push(sceneText(withUnit(fixture.resistance, 'Ω'), at + 14, y + 52, 'start', 'value', `${fixture.name}.resistance`))
  texts.push(...returnText(fixture, at, y + 84))
  return finish(
    {
      fixture, strokes: `M${x} ${y}H${at}V${y + 21}M${at} ${y + 59}V${y + 70}M${at - 7} ${y + 21}h14v38h-14Z`, filled: '', texts,
      grounds: fixture.minus === 'gnd' ? [{ x: at, y: y + 70 }] : [], port: { x, y, net: fixture.plus, way: 'west' },
    },
    [{ x, y: y - 4 }, { x: at + 10, y: y + 70 }],
  )
}

/** Whether a box is free of others, with a little air. */
export const isFree = (box: Box, others: readonly Box[]) => !others.some((other) => overlap(grown(box, 1), other))
