import type { ModelSymbol } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { moved, withPin } from './symbolEdits'
import { placed } from './symbolLayout'

const symbol: ModelSymbol = {
  shape: 'box',
  pins: [
    { role: 'a', label: 'A', side: 'left' }, { role: 'q', label: 'Q', side: 'right' }, { role: 'b', label: 'B', side: 'left' },
  ],
}
const roles = (of: ModelSymbol) => of.pins.map((pin) => pin.role).join('')

describe('a symbol', () => {
  it('has its pins moved among those of their side only', () => {
    expect(roles(moved(symbol, 'a', 1))).toBe('bqa')
    expect(roles(moved(symbol, 'a', -1))).toBe('aqb')
    expect(roles(moved(symbol, 'q', 1))).toBe('aqb')
    expect(roles(moved(symbol, 'nothing', 1))).toBe('aqb')
  })

  it('has labels and sides changed', () => {
    const pins = withPin(withPin(symbol, 'b', { label: 'bar' }), 'b', { side: 'top' }).pins
    expect(pins[2]).toEqual({ role: 'b', label: 'bar', side: 'top' })
  })

  it('spreads the pins of a box along their side, and keeps those of a shape at its ends', () => {
    const [a, , b] = placed(symbol)
    expect([a?.inner[1], b?.inner[1]].map((y) => Math.round(y ?? 0))).toEqual([98, 132])
    const [plus] = placed({ shape: 'amplifier', pins: [{ role: 'in+', label: 'in+', side: 'left' }] })
    const [minus] = placed({ shape: 'amplifier', pins: [{ role: 'in-', label: 'in-', side: 'left' }] })
    // As on the sheet the inverting input stands on top.
    expect(plus?.inner[0]).toBe(110)
    expect(minus?.inner[1]).toBeLessThan(plus?.inner[1] ?? 0)
  })
})
