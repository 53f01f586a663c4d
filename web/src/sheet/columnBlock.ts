import type { Part } from '@/api/client'
import type { Block, Port } from './blocks'
import type { Beside, Column, Standing } from './columns'
import type { Mark, Placed } from './ends'
import type { SceneSymbol } from './pieces'

type Draw = (part: Part, at: Placed) => SceneSymbol

/** From one part's end to the next one's, with the net's wire in the middle. */
const GAP = 20
/** From one part that stands beside a column to the next. */
const PITCH = 90
/** What two ends and a rail's sign take, below a net's wire. */
const HUNG = 100

/** Where everything of a column stands. */
export function columnBlock(
  column: Column, draw: Draw, isRail: (net: string) => boolean, railMark: (net: string, pin: SceneSymbol['pins'][0]) => Omit<Mark, 'id'>,
): Omit<Block, 'box'> {
  const symbols: SceneSymbol[] = []
  const ports: Port[] = []
  const right = new Map<string, number>()
  const at = new Map<string, number>()

  /** Puts a part's upper end at a point; says where its lower end is. */
  const stand = ({ part, above }: Standing, x: number, y: number): number => {
    const upright = uprighted(part, above, draw)
    const pin = upright.pins.find(({ way }) => way === 'north') as SceneSymbol['pins'][0]
    const symbol = draw(part, { ...upright.at, x: upright.at.x + x - pin.x, y: upright.at.y + y - pin.y })
    symbols.push(symbol)
    return (symbol.pins.find(({ way }) => way === 'south') as SceneSymbol['pins'][0]).y
  }
  const heightOf = ({ part, above }: Standing) => {
    const { pins } = uprighted(part, above, draw)
    return Math.max(...pins.map(({ y }) => y)) - Math.min(...pins.map(({ y }) => y))
  }
  const deep = (chain: Standing[]) => chain.reduce((sum, each) => sum + heightOf(each) + GAP, HUNG - 60 - GAP)
  const besideOf = (net: string | undefined, up: boolean) => column.beside.filter((each) => each.net === net && each.up === up)

  let y = 0
  column.nets.forEach((net, k) => {
    at.set(net, y)
    const standing = column.spine[k]
    if (!standing) return
    const [down, up] = [besideOf(net, false), besideOf(column.nets[k + 1], true)]
    const own = heightOf(standing) + GAP
    const last = isRail(column.nets[k + 1] ?? '')
    const room = last || isRail(net) ? own : Math.max(own, ...[...down, ...up].map(({ chain }) => deep(chain)))
    // Those that hang from the net above come first, those that stand on the net below beside them.
    stand(standing, 0, y + GAP / 2 + Math.floor((room - own) / 20) * 10)
    y += Math.ceil(room / 10) * 10
  })
  const hang = ({ net, up, chain }: Beside, slot: number) => {
    const x = PITCH * slot
    let top = up ? (at.get(net) ?? 0) - GAP / 2 - chain.reduce((sum, each) => sum + heightOf(each) + GAP, -GAP) : (at.get(net) ?? 0) + GAP / 2
    for (const each of up ? [...chain].reverse() : chain) {
      top = stand(each, x, top) + GAP
      const inner = up ? each.above : each.below
      if (!isRail(inner)) ports.push({ id: `${each.part.designator}:tap`, net: inner, side: 'EAST', x: x + PITCH, y: top - GAP / 2 })
    }
    right.set(net, Math.max(right.get(net) ?? 0, x))
  }
  column.nets.forEach((net, k) => {
    const hasSpine = { up: k > 0, down: k < column.spine.length }
    const before = besideOf(column.nets[k - 1], false).length
    let [downs, ups] = [hasSpine.down ? 1 : 0, hasSpine.up ? 1 + before : 0]
    for (const each of besideOf(net, false)) hang(each, downs++)
    for (const each of besideOf(net, true)) hang(each, ups++)
  })
  for (const net of column.nets.filter((each) => !isRail(each))) {
    const id = `${column.spine[0]?.part.designator ?? column.beside[0]?.chain[0]?.part.designator}:${net}`
    ports.push({ id: `${id}:west`, net, side: 'WEST', x: -GAP, y: at.get(net) ?? 0 })
    ports.push({ id: `${id}:east`, net, side: 'EAST', x: (right.get(net) ?? 0) + GAP, y: at.get(net) ?? 0 })
  }
  for (const symbol of symbols) {
    for (const pin of symbol.pins) {
      if (isRail(pin.net) || (pin.way !== 'west' && pin.way !== 'east')) continue
      ports.push({ id: pin.end, net: pin.net, side: pin.way === 'west' ? 'WEST' : 'EAST', x: pin.x, y: pin.y })
    }
  }
  const marks = symbols.flatMap(({ pins }) => pins.filter(({ net }) => isRail(net)).map((pin) => railMark(pin.net, pin)))
  return { id: `column ${symbols[0]?.name}`, symbols, marks, ports }
}

/** A part as it stands with a net above it. */
function uprighted(part: Part, above: string, draw: Draw): SceneSymbol {
  const flat = draw(part, { x: 0, y: 0, turn: 0, mirrored: false })
  if (flat.pins.length !== 2) return flat
  return draw(part, { x: 0, y: 0, turn: flat.pins[0]?.net === above ? 1 : 3, mirrored: false })
}
