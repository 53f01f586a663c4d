/** A change that was made to one document carried over to another, which others have changed meanwhile. */

type Json = null | boolean | number | string | Json[] | { [key: string]: Json | undefined }
type Item = { [key: string]: Json | undefined }

/** What a change touched has been changed since: it cannot be carried over without losing that. */
export class Overlap extends Error {
  constructor(readonly where: string) {
    super(where)
  }
}

/** What tells the items of a list apart, the first that all of them have. */
const NAMES = ['id', 'designator', 'name', 'part', 'ends'] as const

const isItem = (value: unknown): value is Item => typeof value === 'object' && value !== null && !Array.isArray(value)

/** Whether two documents say the same: the service fills in what is left out as null, trims words, and orders keys. */
export function isSame(a: unknown, b: unknown): boolean {
  if (a === b) return true
  if (typeof a === 'string' && typeof b === 'string') return a.trim() === b.trim()
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((item, k) => isSame(item, b[k]))
  if (isItem(a) && isItem(b)) return [...new Set([...Object.keys(a), ...Object.keys(b)])].every((key) => isSame(a[key], b[key]))
  return (a ?? null) === (b ?? null)
}

/**
 * `present` with the change from `from` to `to`. What the change did not touch stays as it is at present; Overlap where
 * `present` differs from `from` in something that the change touched.
 */
export function withChange<T>(present: T, from: T, to: T): T {
  return merged(present as Json, from as Json, to as Json, '') as T
}

function merged(present: Json | undefined, from: Json | undefined, to: Json | undefined, where: string): Json | undefined {
  if (isSame(from, to) || isSame(present, to)) return present
  if (isSame(present, from)) return to
  if (isItem(present) && isItem(from) && isItem(to)) {
    const found: Item = {}
    for (const key of new Set([...Object.keys(present), ...Object.keys(to)])) {
      const value = merged(present[key], from[key], to[key], where || key)
      if (value !== undefined) found[key] = value
    }
    return found
  }
  const lists = [present, from, to]
  const name = NAMES.find((key) => lists.every((list) => Array.isArray(list) && list.every((item) => isItem(item) && item[key] !== undefined)))
  if (name === undefined) throw new Overlap(where)
  return mergedLists(present as Item[], from as Item[], to as Item[], name, where)
}

/** Lists by the names of their items: in the order that the change gives them, then what has come since. */
function mergedLists(present: Item[], from: Item[], to: Item[], name: string, where: string): Item[] {
  const [here, before, after] = [present, from, to].map((list) => new Map(list.map((item) => [JSON.stringify(item[name]), item])))
  const found: Item[] = []
  for (const key of new Set([...(after?.keys() ?? []), ...(here?.keys() ?? [])])) {
    const value = merged(here?.get(key), before?.get(key), after?.get(key), nameOf(here?.get(key) ?? after?.get(key)) || where)
    if (isItem(value)) found.push(value)
  }
  return found
}

/** What a designer knows an item by. */
function nameOf(item: Item | undefined): string {
  const name = item && (item.designator ?? item.title ?? item.name ?? item.part)
  return typeof name === 'string' ? name : ''
}
