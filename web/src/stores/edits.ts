import type { Board, Limit, Part, Spread, Study } from '@/api/client'

/** Edits of a board, as functions from one document to the next. */

export function withValue(board: Board, designator: string, value: string): Board {
  return {
    ...board,
    circuits: board.circuits.map((circuit) => ({
      ...circuit,
      parts: circuit.parts.map((part) =>
        part.designator === designator && 'value' in part ? { ...part, value } : part,
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

/** A free identifier for a circuit of the board. */
function freeCircuitId(board: Board): string {
  let k = board.circuits.length + 1
  while (board.circuits.some(({ id }) => id === `circuit-${k}`)) k += 1
  return `circuit-${k}`
}

export function withNewCircuit(board: Board): Board {
  const id = freeCircuitId(board)
  const title = `Circuit ${id.replace('circuit-', '')}`
  return { ...board, circuits: [...board.circuits, { id, title, parts: [], checks: [], definitions: '', drawing: null }] }
}

export function withCircuitNamed(board: Board, id: string, title: string): Board {
  return { ...board, circuits: board.circuits.map((circuit) => (circuit.id === id ? { ...circuit, title } : circuit)) }
}

/** A board without one of its circuits, and without the spreads, studies and limits that spoke of it. */
export function withoutCircuit(board: Board, id: string): Board {
  const gone = board.circuits.find((circuit) => circuit.id === id)
  if (!gone) return board
  const parts = new Set(gone.parts.map((part) => part.designator))
  const checks = new Set(gone.checks.map((check) => check.id))
  return {
    ...board,
    circuits: board.circuits.filter((circuit) => circuit !== gone),
    spreads: board.spreads.filter((spread) => !parts.has(spread.part)),
    studies: board.studies.filter((study) => !checks.has(study.check)),
    limits: board.limits.filter((limit) => !checks.has(limit.check)),
  }
}

/** A part of a circuit in another form, under the same designator. */
export function withPart(board: Board, circuit: string, part: Part): Board {
  const parts = (old: readonly Part[]) => old.map((other) => (other.designator === part.designator ? part : other))
  return { ...board, circuits: board.circuits.map((other) => (other.id === circuit ? { ...other, parts: parts(other.parts) } : other)) }
}
