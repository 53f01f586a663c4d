import type { ModelSymbol } from '@/api/client'

type Pin = ModelSymbol['pins'][number]

/** A pin of a symbol changed in its label or side. */
export function withPin(symbol: ModelSymbol, role: string, change: Partial<Pick<Pin, 'label' | 'side'>>): ModelSymbol {
  return { ...symbol, pins: symbol.pins.map((pin) => (pin.role === role ? { ...pin, ...change } : pin)) }
}

/** A pin moved before (-1) or after (+1) its neighbour on the same side; the ends stay where they are. */
export function moved(symbol: ModelSymbol, role: string, by: -1 | 1): ModelSymbol {
  const from = symbol.pins.findIndex((pin) => pin.role === role)
  const side = symbol.pins[from]?.side
  const neighbours = symbol.pins.flatMap((pin, k) => (pin.side === side ? [k] : []))
  const to = neighbours[neighbours.indexOf(from) + by]
  if (from < 0 || to === undefined) return symbol
  return { ...symbol, pins: symbol.pins.map((pin, k) => (k === from ? symbol.pins[to] : k === to ? symbol.pins[from] : pin) as Pin) }
}
