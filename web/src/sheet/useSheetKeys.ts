import type { Ref } from 'vue'
import { GRID, plus, type Point } from './geometry'
import type { Scene } from './scene'
import type { Sheet } from './useSheet'
import type { useViewport } from './useViewport'

/** What the keys work on. */
interface Keyboard {
  sheet: Sheet
  scene: () => Scene
  view: ReturnType<typeof useViewport>
  svg: () => SVGSVGElement | null
  /** Whether the keys were used last, and not the pointer. */
  keys: Ref<boolean>
  /** Change a value in place. */
  edit: (what: string) => void
  /** Begin to type a line. */
  type: (start: string) => void
  /** Let go of what the pointer drags. */
  stop: () => void
  /** Switch between drawing and looking. */
  look: () => true
}

const WAY: Record<string, Point> = {
  ArrowLeft: { x: -1, y: 0 }, ArrowRight: { x: 1, y: 0 }, ArrowUp: { x: 0, y: -1 }, ArrowDown: { x: 0, y: 1 },
}

/** Everything that can be done on the sheet with the keys alone. */
export function useSheetKeys({ sheet, scene, view, svg, keys, edit, type, stop, look }: Keyboard) {
  /** The nearest pin in a direction, for hopping from pin to pin. */
  function nextPin(way: Point): Point | null {
    const from = sheet.cursor.value
    let best: { at: Point; cost: number } | null = null
    for (const symbol of scene().symbols) {
      for (const pin of symbol.pins) {
        const along = (pin.x - from.x) * way.x + (pin.y - from.y) * way.y
        const across = Math.abs((pin.x - from.x) * way.y) + Math.abs((pin.y - from.y) * way.x)
        if (along <= 0) continue
        const cost = along + 2 * across
        if (!best || cost < best.cost) best = { at: { x: pin.x, y: pin.y }, cost }
      }
    }
    return best?.at ?? null
  }

  function onArrow(event: KeyboardEvent, way: Point) {
    const size = event.shiftKey ? 5 * GRID : GRID
    const by = { x: way.x * size, y: way.y * size }
    if (sheet.held.value) {
      sheet.heldAt.value = plus(sheet.heldAt.value, by)
      view.reveal(sheet.heldAt.value)
    } else if (sheet.selection.value.size && !event.ctrlKey) {
      sheet.move(by)
      sheet.cursor.value = plus(sheet.cursor.value, by)
    } else {
      if (event.ctrlKey) sheet.select([])
      sheet.cursor.value = (event.ctrlKey ? nextPin(way) : null) ?? plus(sheet.cursor.value, by)
      view.reveal(sheet.cursor.value)
    }
  }

  function onEnter() {
    if (sheet.held.value) return sheet.place()
    const [name, another] = sheet.selection.value
    if (name && !another && !sheet.wiring.value) return edit(name.split('.')[0] ?? name)
    sheet.wireAt(sheet.cursor.value)
  }

  function onEscape() {
    if (sheet.held.value || sheet.wiring.value || sheet.attaching.value) sheet.giveUp()
    else sheet.select([])
    stop()
    sheet.message.value = ''
  }

  function onControl(event: KeyboardEvent): boolean {
    switch (event.key.toLowerCase()) {
      case 'a':
        sheet.selectAll()
        return true
      case 'c':
        return sheet.copy()
      case 'x':
        sheet.cut()
        return true
      case 'v':
        sheet.paste()
        return true
      case 'd':
        sheet.duplicate()
        return true
      default:
        return false
    }
  }

  function onKeyDown(event: KeyboardEvent) {
    if (event.target !== svg()) return
    keys.value = true
    const way = WAY[event.key]
    let done = true
    if (way) onArrow(event, way)
    else if (event.ctrlKey || event.metaKey) done = onControl(event)
    else if (event.altKey) done = event.key.toLowerCase() === 'l' && look()
    else if (event.key === 'Enter') onEnter()
    else if (event.key === 'Escape') onEscape()
    else if (event.key === 'Delete' || event.key === 'Backspace') sheet.remove()
    else if (event.key === ' ' && event.shiftKey) sheet.mirror()
    else if (event.key === ' ') sheet.turn()
    else if (event.key === 'Home') view.fit()
    else if (event.key === 'PageDown' || event.key === 'PageUp') {
      const at = sheet.step(event.key === 'PageDown' ? 1 : -1)
      if (at) view.reveal(at)
    } else if (event.key.length === 1) type(event.key)
    else done = false
    if (done) event.preventDefault()
  }

  return { onKeyDown }
}
