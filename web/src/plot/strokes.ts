/** How curves are told apart: by colour and by dashes, never by colour alone. */

export const COLOURS = 7
const DASHES: readonly (readonly number[])[] = [[], [8, 4], [2, 3], [9, 3, 2, 3], [5, 5], [1, 4]]

export interface Stroke {
  /** The token of its colour. */
  token: string
  dash: readonly number[]
}

export function strokeOf(index: number): Stroke {
  return { token: `--trace-${(index % COLOURS) + 1}`, dash: DASHES[index % DASHES.length] ?? [] }
}
