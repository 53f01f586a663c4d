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
const withUnit = (text: string, unit: string) => (/[ΩVΩFAs]$|ohm$|Hz$/i.test(text) ? text : `${text} ${unit}`)
const short = (text: string) => (text.length > 12 ? `${text.slice(0, 11)}…` : text)

/**
 * The fixture of a check around the board edge: supplies above, others beside it. `anchors`
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
  const column = (side: 'left' | 'right') => {
    const wanted = check.fixtures
      .filter((fixture) => sideOf(fixture) === side)
      .map((fixture) => ({ fixture, y: anchors(fixture.plus, side) ?? snapped((edge.top + edge.bottom) / 2) }))
      .sort((a, b) => a.y - b.y)
    let free = -Infinity
    for (const { fixture, y } of wanted) {
      const at = Math.max(y, free)
      const x = side === 'left' ? edge.left - 20 : edge.right + 20
      const drawing = fixture.kind === 'load' ? loadDrawing(fixture, x, at) : sourceDrawing(fixture, x, at, side)
      found.push(drawing)
      free = snapped(drawing.box.bottom + 40)
    }
  }
  column('left')
  column('right')
  return found
}

/** Where a fixture stands: what drives on the left, loads on the right, and so every port but the first. */
export function sideOf(fixture: Fixture): 'left' | 'right' | 'top' {
  if (fixture.kind === 'supply') return 'top'
  return fixture.kind === 'load' || (fixture.kind === 'port' && (fixture.number ?? 1) > 1) ? 'right' : 'left'
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

/** The sign in a source's circle: what it does in time, or which way its current flows. */
function sourceSign(fixture: Fixture, left: number, y: number): string {
  if ((fixture.kind === 'source' || fixture.kind === 'written source') && fixture.quantity === 'current') return `M${left} ${y + 48}V${y + 33}l-4 6m4 -6l4 6`
  const kind = fixture.kind === 'source' ? (fixture.waveform?.kind ?? 'sine') : 'pulse'
  if (kind === 'step') return `M${left - 8} ${y + 45}h8v-10h8`
  if (kind === 'piecewise linear') return `M${left - 8} ${y + 45}l5 -8l5 4l6 -7`
  if (kind === 'noise' || kind === 'recorded') return `M${left - 8} ${y + 41}l2 -5l2 8l2 -11l2 9l2 -6l2 9l2 -6`
  if (kind === 'sine') return `M${left - 8} ${y + 40}c3 -9 5 -9 8 0s5 9 8 0`
  return `M${left - 8} ${y + 45}v-10h8v10h8v-10`
}

/** What a source gives, line by line, with the field that holds it. */
function sourceTexts(fixture: Fixture): [string, string][] {
  if (fixture.kind === 'port') return [[withUnit(fixture.impedance, 'Ω'), 'impedance']]
  if (fixture.kind !== 'source') return []
  const unit = fixture.quantity === 'current' ? 'A' : 'V'
  const { waveform } = fixture
  const direct: [string, string][] = isZero(fixture.dc) ? [] : [[`DC ${withUnit(fixture.dc, unit)}`, 'dc']]
  switch (waveform?.kind) {
    case 'sine':
      return [...direct, [withUnit(waveform.amplitude, unit), 'amplitude'], [withUnit(waveform.frequency, 'Hz'), 'frequency']]
    case 'step':
    case 'pulse':
      return [...direct, [`to ${withUnit(waveform.level, unit)}`, 'level']]
    case 'noise':
      return [...direct, [`${withUnit(waveform.rms, unit)} rms`, 'rms']]
    default:
      return [...direct, [`AC ${withUnit(fixture.ac, unit)}`, 'ac']]
  }
}

const isZero = (text: string) => /^0+(\.0*)?\s*[a-zΩ]*$/i.test(text)

function sourceDrawing(fixture: Fixture, x: number, y: number, side: 'left' | 'right'): FixtureDrawing {
  const out = side === 'left' ? -1 : 1
  const behind = fixture.kind === 'port' || (fixture.kind === 'source' && fixture.quantity === 'voltage' && !isZero(fixture.resistance))
  const left = x + 90 * out
  const lead = behind ? `M${left} ${y + 25}V${y}H${x + 70 * out}M${x + 10 * out} ${y}H${x}M${x + 70 * out} ${y}h${-11 * out}m${-38 * out} 0h${-11 * out}M${x + 59 * out} ${y - 7}h${-38 * out}v14h${38 * out}Z` : `M${left} ${y + 25}V${y}H${x}`
  const texts = [sceneText(fixture.name.replaceAll('-', ' '), left + 22, y + 36, 'start', 'designator')]
  if (fixture.kind === 'written source') texts.push(sceneText(short(fixture.text), left + 22, y + 52, 'start', 'note'))
  const lines = sourceTexts(fixture).filter(([, field]) => field !== 'impedance')
  texts.push(...lines.map(([text, field], k) => sceneText(text, left + 22, y + 52 + 15 * k, 'start', 'value', `${fixture.name}.${field}`)))
  if (fixture.kind === 'port') texts.push(sceneText(withUnit(fixture.impedance, 'Ω'), x + 40 * out, y - 13, 'middle', 'value', `${fixture.name}.impedance`))
  else if (fixture.kind === 'source' && behind) texts.push(sceneText(withUnit(fixture.resistance, 'Ω'), x + 40 * out, y - 13, 'middle', 'value', `${fixture.name}.resistance`))
  texts.push(...returnText(fixture, left, y + 84))
  return finish(
    {
      fixture, strokes: `${lead}M${left} ${y + 55}V${y + 70}${sourceSign(fixture, left, y)}`, filled: CIRCLE(left, y + 40), texts,
      grounds: fixture.minus === 'gnd' ? [{ x: left, y: y + 70 }] : [], port: { x, y, net: fixture.plus, way: side === 'left' ? 'east' : 'west' },
    },
    [{ x: left - 16, y: y - 8 }, { x: left + 16, y }, { x, y: y + 70 }],
  )
}

/** What a load draws, line by line, with the field that holds it. */
function loadTexts({ resistance, capacitance, current }: Extract<Fixture, { kind: 'load' }>): [string, string][] {
  const lines: [string | null | undefined, string, string][] = [[resistance, 'Ω', 'resistance'], [capacitance, 'F', 'capacitance'], [current, 'A', 'current']]
  return lines.flatMap(([text, unit, field]): [string, string][] => (text ? [[withUnit(text, unit), field]] : []))
}

/** The body of a load: a resistor, a capacitor where it is nothing else, or an arrow for a current. */
function loadBody(fixture: Fixture, at: number, y: number): string {
  if (fixture.kind === 'load' && !fixture.resistance) {
    if (fixture.capacitance) return `M${at - 12} ${y + 36}h24M${at - 12} ${y + 44}h24M${at} ${y + 21}V${y + 36}M${at} ${y + 44}V${y + 59}`
    return `M${at - 13} ${y + 40}a13 13 0 1 0 26 0a13 13 0 1 0 -26 0M${at} ${y + 21}v6M${at} ${y + 53}v6M${at} ${y + 31}v16l-4 -6m4 6l4 -6`
  }
  return `M${at - 7} ${y + 21}h14v38h-14Z`
}

function loadDrawing(fixture: Fixture, x: number, y: number): FixtureDrawing {
  const at = x + 30
  const texts = [sceneText(fixture.name.replaceAll('-', ' '), at + 14, y + 36, 'start', 'designator')]
  const drawn = fixture.kind === 'load' ? loadTexts(fixture) : []
  texts.push(...drawn.map(([text, field], k) => sceneText(text, at + 14, y + 52 + 15 * k, 'start', 'value', `${fixture.name}.${field}`)))
  texts.push(...returnText(fixture, at, y + 84))
  return finish(
    {
      fixture, strokes: `M${x} ${y}H${at}V${y + 21}M${at} ${y + 59}V${y + 70}${loadBody(fixture, at, y)}`, filled: '', texts,
      grounds: fixture.minus === 'gnd' ? [{ x: at, y: y + 70 }] : [], port: { x, y, net: fixture.plus, way: 'west' },
    },
    [{ x, y: y - 4 }, { x: at + 10, y: y + 70 }],
  )
}

/** Whether a box is free of others, with a little air. */
export const isFree = (box: Box, others: readonly Box[]) => !others.some((other) => overlap(grown(box, 1), other))
