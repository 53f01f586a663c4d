import type { Board, Limit, Spread, Study } from '@/api/client'

/** Edits of a board, as functions from one document to the next. */

export function withValue(board: Board, designator: string, value: string): Board {
  return {
    ...board,
    circuits: board.circuits.map((circuit) => ({
      ...circuit,
      parts: circuit.parts.map((part) =>
        part.designator === designator && part.kind !== 'modelled' ? { ...part, value } : part,
      ),
    })),
  }
}

/** A modelled part given another model; its nets stay with the pins of the same names. */
export function withModel(board: Board, designator: string, model: { id: string; name: string }): Board {
  return {
    ...board,
    circuits: board.circuits.map((circuit) => ({
      ...circuit,
      parts: circuit.parts.map((part) =>
        part.designator === designator && part.kind === 'modelled' ? { ...part, model } : part,
      ),
    })),
  }
}

/** Where a part's value stands in the request that saves the board: faults are reported at this path. */
export function valuePath(board: Board, designator: string): string {
  for (const [c, circuit] of board.circuits.entries()) {
    const p = circuit.parts.findIndex((part) => part.designator === designator)
    if (p >= 0) return `board.circuits.${c}.parts.${p}.value`
  }
  return ''
}

/** The spreads of these parts replaced; `null` takes a part's spread away. The others keep their places. */
export function withSpreads(board: Board, changes: ReadonlyMap<string, Omit<Spread, 'part'> | null>): Board {
  const kept = board.spreads.flatMap((spread) => {
    const change = changes.get(spread.part)
    return change === undefined ? [spread] : change === null ? [] : [{ part: spread.part, ...change }]
  })
  const present = new Set(board.spreads.map((spread) => spread.part))
  const added = [...changes].flatMap(([part, change]) => (change && !present.has(part) ? [{ part, ...change }] : []))
  return { ...board, spreads: [...kept, ...added] }
}

export function withStudy(board: Board, id: string, change: Partial<Study>): Board {
  return { ...board, studies: board.studies.map((study) => (study.id === id ? { ...study, ...change } : study)) }
}

export function withLimit(board: Board, id: string, change: Partial<Limit>): Board {
  return { ...board, limits: board.limits.map((limit) => (limit.id === id ? { ...limit, ...change } : limit)) }
}
