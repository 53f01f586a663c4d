import type { Board, Limit, Part, Spread, Study } from '@/api/client'

import { withOwnedSpreads } from './spreads'

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

/** The spreads of these quantities replaced; `null` takes one away. The others keep their places. */
export function withSpreads(board: Board, changes: ReadonlyMap<string, Spread | null>): Board {
  const kept = board.spreads.flatMap((spread) => {
    const change = changes.get(spread.of)
    return change === undefined ? [spread] : change === null ? [] : [change]
  })
  const present = new Set(board.spreads.map((spread) => spread.of))
  const added = [...changes].flatMap(([of, change]) => (change && !present.has(of) ? [change] : []))
  return { ...board, spreads: [...kept, ...added] }
}

export function withStudy(board: Board, id: string, change: Record<string, unknown>): Board {
  return { ...board, studies: board.studies.map((study) => (study.id === id ? ({ ...study, ...change } as Study) : study)) }
}

/** A copy of a study, under names of its own. */
export function withCopiedStudy(board: Board, study: Study): { board: Board; id: string } {
  const free = (wished: string, joint: string, taken: readonly string[]) => {
    let [name, k] = [wished, 1]
    while (taken.includes(name)) name = `${wished}${joint}${(k += 1)}`
    return name
  }
  const id = free(study.id.slice(0, 58), '-', board.studies.map((other) => other.id))
  const title = free(study.title.slice(0, 110), ' ', board.studies.map((other) => other.title))
  return { board: { ...board, studies: [...board.studies, { ...study, id, title }] }, id }
}

/** Studies that cover no check which is gone; those that covered nothing else go too. */
export function studiesWithout(studies: readonly Study[], gone: (check: string) => boolean): Study[] {
  return studies.flatMap((study) => {
    const checks = study.checks.filter((check) => !gone(check))
    return checks.length === study.checks.length ? [study] : checks.length ? [{ ...study, checks }] : []
  })
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
  const checks = new Set(gone.checks.map((check) => check.id))
  return withOwnedSpreads({
    ...board,
    circuits: board.circuits.filter((circuit) => circuit !== gone),
    studies: studiesWithout(board.studies, (check) => checks.has(check)),
    limits: board.limits.filter((limit) => !checks.has(limit.check)),
  })
}

/** A part of a circuit in another form, under the same designator. */
export function withPart(board: Board, circuit: string, part: Part): Board {
  const parts = (old: readonly Part[]) => old.map((other) => (other.designator === part.designator ? part : other))
  return { ...board, circuits: board.circuits.map((other) => (other.id === circuit ? { ...other, parts: parts(other.parts) } : other)) }
}
