import { bought } from '@/stores/spreads'
import type { Choice, Part, Spread } from '@/api/client'
import { ofDrawing, ofPart, type Fragment } from './fragment'

/** The part that a typed line stands for, its pins on no net yet; its designator is a wish. */
export function partOf(choice: Choice): Part {
  const designator = `${choice.letter}1`
  const open = (pins: readonly string[]) => Object.fromEntries(pins.map((pin) => [pin, '']))
  const roles = choice.symbol?.pins.map(({ role }) => role) ?? []
  if (choice.kind === 'modelled' && choice.model) {
    const { units } = choice
    const shared = roles.filter((role) => SHARED.includes(role))
    const own = [...'ABCD'.slice(0, units)].flatMap((unit) => roles.filter((role) => !SHARED.includes(role)).map((role) => `${unit}.${role}`))
    return { kind: 'modelled', designator, model: choice.model, units, pins: open(units > 1 ? [...own, ...shared] : roles), settings: {} }
  }
  if (choice.kind === 'generic') return { kind: 'generic', designator, part: choice.key, pins: open(roles), settings: {} }
  return { kind: choice.kind as 'resistor', designator, value: choice.value, pins: ['', ''] }
}

/** Pins that all units in one package share. */
const SHARED = ['v+', 'v-', 'ground']

/** What is held after something has been chosen on the typing line; null for what is not placed by hand. */
export function fragmentOf(choice: Choice): Fragment | null {
  const at = { x: 0, y: 0 }
  switch (choice.what) {
    case 'part': {
      const part = partOf(choice)
      const spread: Spread[] = choice.tolerance ? [bought(part.designator, String(choice.tolerance))] : []
      return ofPart(part, spread)
    }
    case 'ground':
    case 'rail':
    case 'label':
      return ofDrawing({ marks: [{ id: 'm1', kind: choice.what, net: choice.net, turn: choice.what === 'rail' && choice.net.startsWith('-') ? 2 : 0, ...at }] })
    case 'note':
      return ofDrawing({ notes: [{ id: 't1', text: choice.text, ...at }] })
    default:
      return null
  }
}
