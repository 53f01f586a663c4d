import type { Circuit } from '@/api/client'
import { blocksOf } from './blocks'
import { emptyDrawing, type Drawing, type Drawn } from './ends'
import { shiftsOf, type Elk } from './placement'
import type { SymbolBook } from './symbols'
import { wired } from './netTrees'

/**
 * A drawing for a circuit that has none: supplies up, ground down, the signal from left to right, feedback above.
 * Blocks of symbols that belong together are placed by ELK's layered layout; wires are then led around them.
 */
export async function arranged(circuit: Circuit, book: SymbolBook, elk: Elk): Promise<Drawn> {
  const blocks = blocksOf(circuit, book)
  const places = await shiftsOf(blocks, circuit, elk)
  const drawing: Drawing = emptyDrawing()
  for (const block of blocks) {
    const by = places.get(block.id) ?? { x: 0, y: 0 }
    for (const { name, at } of block.symbols) drawing.symbols[name] = { ...at, x: at.x + by.x, y: at.y + by.y }
    for (const mark of block.marks) {
      const id = `m${drawing.marks.length + 1}`
      drawing.marks.push({ ...mark, id, x: mark.x + by.x, y: mark.y + by.y })
    }
  }
  return wired({ ...circuit, drawing }, book)
}
