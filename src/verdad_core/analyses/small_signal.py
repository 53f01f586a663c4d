"""What all small-signal analyses share: the linearised circuit, and its response to any right-hand sides."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.arrays import Complexes, Floats, Integers, Packed
from verdad_core.engine.circuit import bare, matrix_in, workspace
from verdad_core.engine.lanes import LANES, WIDE
from verdad_core.engine.linear import KEPT
from verdad_core.engine.load import drive
from verdad_core.engine.response import (
    block_in,
    block_room,
    no_factors,
    order,
    set_frequencies,
    set_right,
    solve_again,
    solve_block,
)
from verdad_core.engine.rows import in_chunks, linearise_row
from verdad_core.engine.structure import Structure
from verdad_core.jit import at, entry, pointer


def output_indices(structure: Structure, outputs: Sequence[tuple[str, str]]) -> tuple[Integers, Integers]:
    """The unknowns of outputs (plus, minus), such as ("out", "0") or ("i(v1)", "0"). Raises CircuitError."""
    indices = [structure.index(plus) for plus, _ in outputs] + [structure.index(minus) for _, minus in outputs]
    both = np.array(indices, dtype=np.int32)
    return both[: len(outputs)], both[len(outputs) :]


@entry
def _linearise_rows(
    arrays: Packed, matrix_: Packed, memory: Floats, points: Floats, states: Floats, start: int, stop: int,
    g: Floats, c: Floats,
) -> None:  # fmt: skip
    circuit, work, matrix = bare(arrays), workspace(arrays, memory), matrix_in(matrix_)
    for row in range(start, stop):
        x, state = at(pointer(points), row * (circuit.n + 1)), at(pointer(states), row * work.states)
        linearise_row(circuit, work, matrix, row, x, state)
        for e in range(circuit.nnz):
            g[row - start, e], c[row - start, e] = work.g[e], work.c[e]


def linearised(point: OperatingPoint, start: int = 0, stop: int | None = None) -> tuple[Floats, Floats]:
    """Conductances and capacitances [rows, nnz] of rows start..stop-1, at the positions of the structure."""
    structure, stop = point.structure, len(point.values) if stop is None else stop
    g, c = np.empty((stop - start, len(structure.rows))), np.empty((stop - start, len(structure.rows)))
    circuit = structure.circuit
    _linearise_rows(
        circuit, point.matrix.words, structure.room(), point.values, point.states, start, stop, g, c
    )  # fmt: skip
    return g, c


@entry
def _respond_rows(
    arrays: Packed, matrix_: Packed, memory: Floats, start: int, stop: int, points: Floats, states: Floats,
    paths: Integers, frequency: Floats, drives: Floats, plus: Integers, minus: Integers, own: Floats, block_: Floats,
    out: Complexes,
) -> None:  # fmt: skip
    """Rows start..stop-1; out [S, drives, outputs, F] is written where a solution exists.

    drives [2, D, n + 1] are right-hand sides, real and imaginary; with D = 0 it is that of the circuit's sources,
    for which `own` [2, n + 1] is room.
    """
    circuit, work, matrix = bare(arrays), workspace(arrays, memory), matrix_in(matrix_)
    block, a = block_in(block_), no_factors()
    sides = max(drives.shape[1], 1)
    keep = sides > 1
    for row in range(start, stop):
        if paths[row] < 0:
            continue
        x, state = at(pointer(points), row * (circuit.n + 1)), at(pointer(states), row * work.states)
        linearise_row(circuit, work, matrix, row, x, state)
        if drives.shape[1] == 0:
            drive(circuit, work, pointer(own), at(pointer(own), circuit.n + 1))
        set_frequencies(circuit, work, block, frequency, len(frequency) // 2)
        steps = order(circuit, work.g, work.c, block, 0, keep)
        if steps[0] < 0:
            continue
        for first in range(0, len(frequency), LANES):
            set_frequencies(circuit, work, block, frequency, first)
            solved = True
            for side in range(sides):
                if drives.shape[1] == 0:
                    set_right(circuit, block, pointer(own[0]), pointer(own[1]))
                else:
                    set_right(circuit, block, pointer(drives[0, side]), pointer(drives[1, side]))
                if side == 0:
                    solved, steps, a = solve_block(circuit, work, block, steps, a)
                else:
                    solve_again(circuit, block, steps, a)
                if not solved:
                    break
                for w in range(min(LANES, len(frequency) - first)):
                    for o in range(len(plus)):
                        p, m = at(block.x, WIDE * plus[o]), at(block.x, WIDE * minus[o])
                        out[row, side, o, first + w] = complex(p[w] - m[w], p[LANES + w] - m[LANES + w])
        # What had to be refined in one row will have to be in the next.
        keep = keep or steps[KEPT] != 0


def respond(
    point: OperatingPoint,
    frequency: Floats,
    outputs: Sequence[tuple[str, str]],
    drives: Complexes | None = None,
    threads: int | None = None,
) -> Complexes:
    """Outputs [S, drives, outputs, F] of the circuit linearised at `point`; NaN where there is no solution.

    `drives` [D, n + 1] are right-hand sides of the small-signal equations: a current into a node stands at the node's
    unknown, the voltage of a source at its branch's. Without them the circuit's own sources drive (D = 1).
    Raises CircuitError for an output that does not exist.
    """
    structure, rows = point.structure, len(point.values)
    plus, minus = output_indices(structure, outputs)
    sides = np.zeros((2, 0, structure.size + 1)) if drives is None else np.stack([drives.real, drives.imag])
    count = 1 if drives is None else len(drives)
    out = np.full((rows, count, len(outputs), len(frequency)), np.nan, dtype=np.complex128)
    circuit, matrix, frequency = structure.circuit, point.matrix.words, np.ascontiguousarray(frequency, float)

    def work(start: int, stop: int) -> None:
        _respond_rows(circuit, matrix, structure.room(), start, stop, point.values, point.states, point.paths,
                      frequency, sides, plus, minus, np.zeros((2, structure.size + 1)), block_room(circuit),
                      out)  # fmt: skip

    in_chunks(rows, work, threads)
    return out
