import type { Circuit, Part } from '@/api/client'
import { netByEnd, symbolsOf } from './ends'
import type { ScenePin, SceneSymbol } from './pieces'

/** A part that stands between the net above it and the net below it. */
export interface Standing {
  part: Part
  above: string
  below: string
}

/** Parts in a row that hang from a net of a column, or stand on it, beside the column itself. */
export interface Beside {
  net: string
  up: boolean
  chain: Standing[]
}

/**
 * Parts that stand above each other from a supply to ground, as a divider, a transistor with its resistors or two
 * switches do: `nets` are those between them, with the two ends. A net that parts only hang from is a column too.
 */
export interface Column {
  spine: Standing[]
  nets: string[]
  beside: Beside[]
}

export interface Rails {
  has: (net: string) => boolean
  isUpper: (net: string) => boolean
}

/** How a part can stand: on its two ends, or upright as its symbol is, with other pins beside. */
type Upright = { kind: 'ends'; nets: [string, string] } | { kind: 'upright'; above: string; below: string }

/** The columns of those parts that are `left`; parts that become part of one are taken out of it. */
export function columnsOf(circuit: Circuit, left: Map<string, Part>, rails: Rails, drawn: (part: Part) => SceneSymbol): Column[] {
  return new Columns(circuit, left, rails, drawn).found()
}

class Columns {
  private readonly uprights = new Map<string, Upright>()
  private readonly users = new Map<string, string[]>()
  private readonly watched: Set<string>
  private readonly columns: Column[] = []
  private readonly parts: ReadonlyMap<string, Part>

  constructor(
    circuit: Circuit,
    private readonly left: Map<string, Part>,
    private readonly rails: Rails,
    drawn: (part: Part) => SceneSymbol,
  ) {
    this.parts = new Map(left)
    for (const part of left.values()) {
      if (symbolsOf(part).length !== 1) continue
      const how = uprightOf(drawn(part).pins)
      if (how) this.uprights.set(part.designator, how)
    }
    for (const [end, net] of netByEnd(circuit.parts)) this.users.set(net, [...(this.users.get(net) ?? []), end.split('.')[0] as string])
    this.watched = new Set(circuit.checks.flatMap((check) => [...Object.values(check.analysis), ...check.fixtures.flatMap(({ plus, minus }) => [plus, minus])].map(String)))
  }

  found(): Column[] {
    for (const [name, how] of this.uprights) {
      if (how.kind !== 'upright' || !this.left.has(name)) continue
      this.take(name)
      const spine = [...this.towards(how.above, true).reverse(), this.standing(name, how.above), ...this.towards(how.below, false)]
      this.columns.push(columnOf(spine))
    }
    for (const column of this.columns) this.hang(column)
    // Where most meets comes first, so that what is in series there hangs from it.
    for (const [net] of [...this.users].sort(([, a], [, b]) => b.length - a.length)) {
      if (this.rails.has(net) || this.columns.some(({ nets }) => nets.includes(net))) continue
      const up = this.toRail(net, true).find(isSolid)
      if (up) this.take(up.part.designator)
      const down = up ? this.downFrom(net) : this.toRail(net, false).find(isSolid)
      const spine = [...(up ? [up] : []), ...(Array.isArray(down) ? down : down ? [down] : [])]
      for (const { part } of spine) this.take(part.designator)
      const column = spine.length ? columnOf(spine) : { spine, nets: [net], beside: [] }
      this.hang(column)
      if (spine.length || column.beside.length) this.columns.push(column)
    }
    return this.columns
  }

  private take(name: string) {
    this.left.delete(name)
  }

  private standing(name: string, above: string): Standing {
    const how = this.uprights.get(name) as Upright
    const part = this.part(name)
    if (how.kind === 'upright') return { part, above: how.above, below: how.below }
    return { part, above, below: how.nets[0] === above ? how.nets[1] : how.nets[0] }
  }

  private part(name: string): Part {
    return this.parts.get(name) as Part
  }

  /** Parts with two ends that are left on a net, with the net at their other end. */
  private onTwoEnds(net: string): { name: string; other: string }[] {
    return [...new Set(this.users.get(net) ?? [])].flatMap((name) => {
      const how = this.uprights.get(name)
      if (how?.kind !== 'ends' || !this.left.has(name) || how.nets[0] === how.nets[1]) return []
      return [{ name, other: how.nets[0] === net ? how.nets[1] : how.nets[0] }]
    })
  }

  private stood(name: string, net: string, up: boolean): Standing {
    const how = this.uprights.get(name)
    const other = how?.kind === 'ends' ? (how.nets[0] === net ? how.nets[1] : how.nets[0]) : net
    return up ? this.standing(name, other) : this.standing(name, net)
  }

  /** Parts between a net and a rail above or below it. */
  private toRail(net: string, up: boolean): Standing[] {
    return this.onTwoEnds(net).filter(({ other }) => this.rails.has(other) && this.rails.isUpper(other) === up).map(({ name }) => this.stood(name, net, up))
  }

  /** The transistor that begins at a net, seen from above or from below. */
  private transistorAt(net: string, up: boolean): string | undefined {
    return (this.users.get(net) ?? []).find((name) => {
      const how = this.uprights.get(name)
      return how?.kind === 'upright' && this.left.has(name) && (up ? how.below : how.above) === net
    })
  }

  /** What a column goes on with from a net, up or down, until a rail or where it is no longer clear. */
  private towards(net: string, up: boolean): Standing[] {
    if (this.rails.has(net)) return []
    const transistor = this.transistorAt(net, up)
    if (transistor) {
      this.take(transistor)
      const next = this.standing(transistor, net)
      return [next, ...this.towards(up ? next.above : next.below, up)]
    }
    const alone = this.users.get(net)?.length === 2 && !this.watched.has(net)
    const series = this.onTwoEnds(net).find(
      ({ name, other }) => !this.rails.has(other) && isSolid({ part: this.part(name) }) && (alone || (this.users.get(other)?.length === 2 && this.transistorAt(other, up))),
    )
    const rail = this.toRail(net, up).find(isSolid)
    const next = series ? this.stood(series.name, net, up) : rail
    if (!next) return []
    this.take(next.part.designator)
    return [next, ...(series ? this.towards(series.other, up) : [])]
  }

  /** The rest of a divider below a net: one part to a lower rail, or a chain of resistors with taps between them. */
  private downFrom(net: string): Standing[] {
    const down = this.toRail(net, false).find(isSolid)
    if (down) return [down]
    for (const { name, other } of this.onTwoEnds(net)) {
      if (this.part(name).kind !== 'resistor' || this.rails.has(other) || this.toRail(other, true).length) continue
      if (this.columns.some(({ nets }) => nets.includes(other))) continue
      const rest = this.toRail(other, false).find(isSolid)
      if (rest) return [this.stood(name, net, false), rest]
    }
    return []
  }

  /** Everything else between the nets of a column and a rail stands or hangs beside it. */
  private hang(column: Column) {
    for (const net of column.nets.filter((each) => !this.rails.has(each))) {
      for (const up of [true, false]) {
        for (const chain of [...this.toRail(net, up).map((one) => [one]), ...this.chains(net, up)]) {
          for (const { part } of chain) this.take(part.designator)
          column.beside.push({ net, up, chain })
        }
      }
    }
  }

  /** Two parts in series from a net that goes on elsewhere to a rail, as a snubber is; or a divider that feeds inputs only. */
  private chains(net: string, up: boolean): Standing[][] {
    const users = this.users.get(net) ?? []
    return this.onTwoEnds(net).flatMap(({ name, other }) => {
      if (this.rails.has(other) || this.watched.has(other) || users.filter((user) => user !== name).length < 2) return []
      const rest = this.toRail(other, up).find(({ part }) => part.designator !== name)
      const others = (this.users.get(other) ?? []).filter((user) => user !== name && user !== rest?.part.designator)
      const onlyFeeds = isSolid({ part: this.part(name) }) && others.every((user) => this.uprights.get(user)?.kind !== 'ends')
      if (!rest || (others.length && !(onlyFeeds && isSolid(rest)))) return []
      return [[this.stood(name, net, up), rest]]
    })
  }
}

/** Whether direct current flows through it. */
const isSolid = ({ part }: { part: Part }) => part.kind !== 'capacitor' && !(part.kind === 'statement' && part.designator.startsWith('C'))

function columnOf(spine: Standing[]): Column {
  return { spine, nets: [...spine.map(({ above }) => above), ...spine.slice(-1).map(({ below }) => below)], beside: [] }
}

function uprightOf(pins: readonly ScenePin[]): Upright | undefined {
  const [a, b] = pins
  if (pins.length === 2 && a && b) {
    const level = pins.every(({ way }) => way === 'west' || way === 'east')
    return level ? { kind: 'ends', nets: [a.net, b.net] } : undefined
  }
  const [north, south] = [pins.filter(({ way }) => way === 'north'), pins.filter(({ way }) => way === 'south')]
  const control = pins.filter(({ way }) => way === 'west' || way === 'east')
  if (pins.length !== 3 || north.length !== 1 || south.length !== 1 || control.length !== 1) return undefined
  return { kind: 'upright', above: (north[0] as ScenePin).net, below: (south[0] as ScenePin).net }
}
