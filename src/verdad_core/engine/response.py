"""Small-signal equations of one row, (G + jωC + P(ω)) X = B, for many frequencies, right-hand sides and outputs.

P is what lines and tabulated responses add beyond G + jωC. Frequencies go side by side (engine/lanes.py); the
factors of a block of frequencies serve all its right-hand sides, and transposed all adjoint ones.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba.core import types

from verdad_core.arrays import Floats, Integers
from verdad_core.engine.circuit import CIRCUIT, Circuit, Work
from verdad_core.engine.lanes import LANES, factor_lanes, solve_lanes, solve_transposed_lanes
from verdad_core.engine.linear import BACKWARD_ERROR, FLOOR, STORAGE, call_plan
from verdad_core.engine.load import ADJOINT, KERNELS, PLAN, RIGHT, SOLVE, add_phasors, has_phasors
from verdad_core.jit import FLOATS, at, caller, kernel, pointer, reached

#: Elimination orders that are tried for one block of frequencies before its rows are given up.
ATTEMPTS = 4


class Block(NamedTuple):
    """The arrays of a block of LANES frequencies; what is 2 LANES wide holds real and imaginary halves.

    The matrices are nowhere but in their factors: a large circuit's would not fit into the cache beside them.
    """

    omega: Floats  # [LANES] rad/s
    extra: Floats  # [nnz, 2 LANES] what phasor kernels add; [0, 2 LANES] where there are none
    right: Floats  # [2, n] the right-hand side of all lanes
    b: Floats  # [n, 2 LANES] what the solver overwrites
    x: Floats  # [n + 1, 2 LANES], the last row ground's zero
    one: Floats  # [6 LANES] one entry of the matrices, and what is summed up for one row of their residual
    by_row: Integers  # [nnz] the matrix's positions row after row
    starts: Integers  # [n + 1] where each row begins in them


@kernel
def block_for(circuit: Circuit) -> Block:
    """Arrays for a block of frequencies of `circuit`."""
    n, nnz, wide = circuit.n, circuit.nnz, 2 * LANES
    by_row, starts = np.empty(nnz, np.int32), np.zeros(n + 1, np.int32)
    for e in range(nnz):
        starts[circuit.rows[e]] += 1
    for i in range(n):
        starts[i + 1] += starts[i]
    for e in range(nnz - 1, -1, -1):
        starts[circuit.rows[e]] -= 1
        by_row[starts[circuit.rows[e]]] = e
    return Block(
        np.zeros(LANES), np.zeros((nnz if has_phasors(circuit) else 0, wide)), np.zeros((2, n)),
        np.zeros((n, wide)), np.zeros((n + 1, wide)), np.zeros(3 * wide), by_row, starts,
    )  # fmt: skip


@kernel
def no_factors() -> Floats:
    """Factors of nothing, for the first block."""
    return np.empty((0, 2 * LANES))


@kernel
def set_frequencies(circuit: Circuit, work: Work, block: Block, frequency: Floats, first: int) -> None:
    """The block's matrices are at frequency[first:first + LANES], in hertz; past the end the last one is repeated."""
    for w in range(LANES):
        block.omega[w] = 2.0 * np.pi * frequency[min(first + w, len(frequency) - 1)]
    if len(block.extra) > 0:
        nnz = circuit.nnz
        added = np.empty(2 * (nnz + 1))
        re, im = pointer(added), at(pointer(added), nnz + 1)
        for w in range(LANES):
            add_phasors(circuit, work, block.omega[w], re, im)
            for e in range(nnz):
                block.extra[e, w], block.extra[e, LANES + w] = re[e], im[e]


@kernel
def _entry(g: Floats, c: Floats, omega: Floats, extra: Floats, extras: int, e: int, into: Floats) -> None:
    """Position e of the matrices [2 LANES]; all are pointers, for the sake of the call."""
    by_g, by_c = g[e], c[e]
    for w in range(LANES):
        into[w], into[LANES + w] = by_g, omega[w] * by_c
    if extras > 0:
        added = at(extra, 2 * LANES * e)
        for w in range(2 * LANES):
            into[w] += added[w]


@kernel
def order(circuit: Circuit, g: Floats, c: Floats, block: Block, lane: int) -> Integers:
    """An elimination order for one lane of a block, or plan's report of a singular matrix."""
    nnz = circuit.nnz
    values, omega, extra = np.empty(2 * nnz), pointer(block.omega), pointer(block.extra)
    for e in range(nnz):
        _entry(g, c, omega, extra, len(block.extra), e, pointer(block.one))
        values[e], values[nnz + e] = block.one[lane], block.one[LANES + lane]
    re = pointer(values)
    code = circuit.code[KERNELS * circuit.families + PLAN]
    steps: Integers = call_plan(code, circuit.n, nnz, circuit.rows, circuit.columns, re, at(re, nnz), 1)
    return steps


@kernel
def set_right(block: Block, re: Floats, im: Floats) -> None:
    """One right-hand side [n + 1] for all lanes."""
    for i in range(len(block.b)):
        block.right[0, i], block.right[1, i] = re[i], im[i]


@kernel
def _copy_right(block: Block) -> None:
    for i in range(len(block.b)):
        re, im, b = block.right[0, i], block.right[1, i], block.b[i]
        for w in range(LANES):
            b[w], b[LANES + w] = re, im


#: Where the sums of `_worst_lane` lie behind the entry: residual, size of its terms, and what counts at least.
_REST, _SIZE, _FLOOR = 2 * LANES, 4 * LANES, 5 * LANES


@kernel
def _worst_lane(circuit: Circuit, g: Floats, c: Floats, block: Block) -> int:
    """The lane whose backward error is largest, or -1 when all are below BACKWARD_ERROR."""
    # One array for all sums, at distances that the compiler knows, lets it use the vector units.
    t, x, wide = pointer(block.one), pointer(block.x), 2 * LANES
    omega, extra, extras = pointer(block.omega), pointer(block.extra), len(block.extra)
    for w in range(LANES):
        t[_FLOOR + w] = 0.0
    for i in range(circuit.n):
        v = at(x, wide * i)
        for w in range(LANES):
            t[_FLOOR + w] = max(t[_FLOOR + w], FLOOR * (abs(v[w]) + abs(v[LANES + w])))
    worst, lane = BACKWARD_ERROR, -1
    for i in range(circuit.n):
        re, im = block.right[0, i], block.right[1, i]
        for w in range(LANES):
            t[_REST + w], t[_REST + LANES + w], t[_SIZE + w] = -re, -im, abs(re) + abs(im)
        for j in range(block.starts[i], block.starts[i + 1]):
            e = block.by_row[j]
            _entry(g, c, omega, extra, extras, e, t)
            v = at(x, wide * circuit.columns[e])
            for w in range(LANES):
                re = t[w] * v[w] - t[LANES + w] * v[LANES + w]
                im = t[w] * v[LANES + w] + t[LANES + w] * v[w]
                t[_REST + w] += re
                t[_REST + LANES + w] += im
                t[_SIZE + w] += abs(re) + abs(im) + (abs(t[w]) + abs(t[LANES + w])) * t[_FLOOR + w]
        for w in range(LANES):
            error = abs(t[_REST + w]) + abs(t[_REST + LANES + w])
            if not error <= worst * t[_SIZE + w]:
                if not np.isfinite(error):
                    return w
                worst, lane = error / t[_SIZE + w], w
    return lane


_ROW, _SQUARE = types.Array(types.float64, 1, "C"), types.Array(types.float64, 2, "C")
_PLAN = types.Array(types.int32, 1, "C")
_BLOCK = types.NamedTuple([_ROW, *[_SQUARE] * 4, _ROW, _PLAN, _PLAN], Block)
_SOLVE = types.Tuple((types.boolean, _PLAN, _SQUARE))(CIRCUIT, FLOATS, FLOATS, _BLOCK, _PLAN, _SQUARE)
_AGAIN = types.void(_BLOCK, _PLAN, _SQUARE)
_ADJOINT = types.void(_BLOCK, _PLAN, _SQUARE, types.int64, types.int64)
call_solve, call_again, call_adjoint = caller(_SOLVE), caller(_AGAIN), caller(_ADJOINT)


@reached(_SOLVE)
def solve_new(
    circuit: Circuit, g: Floats, c: Floats, block: Block, steps: Integers, a: Floats
) -> tuple[bool, Integers, Floats]:
    """Factor the block's matrices and solve for its right-hand side, into block.x; `a` is memory of an earlier block.

    Returns (whether it could be solved, plan, factors); the plan is a new one where the old pivots were too small.
    """
    nnz = circuit.nnz
    for attempt in range(ATTEMPTS):
        if len(a) != steps[STORAGE]:
            a = np.empty((steps[STORAGE], 2 * LANES))
        for e in range(nnz):
            _entry(g, c, pointer(block.omega), pointer(block.extra), len(block.extra), e, at(pointer(a), 2 * LANES * e))
        for e in range(nnz, len(a)):
            for w in range(2 * LANES):
                a[e, w] = 0.0
        _copy_right(block)
        factor_lanes(steps, a)
        solve_lanes(steps, a, block.b, block.x)
        bad = _worst_lane(circuit, g, c, block)
        if bad < 0 or attempt == ATTEMPTS - 1:
            break
        other = order(circuit, g, c, block, bad)
        if other[0] < 0:
            return False, steps, a
        steps = other
    return True, steps, a


@reached(_AGAIN)
def solve_right(block: Block, steps: Integers, a: Floats) -> None:
    """Another right-hand side with the factors of solve_new, into block.x."""
    _copy_right(block)
    solve_lanes(steps, a, block.b, block.x)


@reached(_ADJOINT)
def solve_output(block: Block, steps: Integers, a: Floats, plus: int, minus: int) -> None:
    """How the output x[plus] - x[minus] answers to a unit in each equation, into block.x; factors of solve_new."""
    for i in range(len(block.b)):
        value = (1.0 if i == plus else 0.0) - (1.0 if i == minus else 0.0)
        for w in range(LANES):
            block.b[i, w], block.b[i, LANES + w] = value, 0.0
    solve_transposed_lanes(steps, a, block.b, block.x)


@kernel
def solve_block(
    circuit: Circuit, work: Work, block: Block, steps: Integers, a: Floats
) -> tuple[bool, Integers, Floats]:
    """Factor the block's matrices and solve for its right-hand side; see `solve_new`."""
    found: tuple[bool, Integers, Floats] = call_solve(
        circuit.code[KERNELS * circuit.families + SOLVE], circuit, work.g, work.c, block, steps, a
    )
    return found


@kernel
def solve_again(circuit: Circuit, block: Block, steps: Integers, a: Floats) -> None:
    """See `solve_right`."""
    call_again(circuit.code[KERNELS * circuit.families + RIGHT], block, steps, a)


@kernel
def solve_adjoint(circuit: Circuit, block: Block, steps: Integers, a: Floats, plus: int, minus: int) -> None:
    """See `solve_output`."""
    call_adjoint(circuit.code[KERNELS * circuit.families + ADJOINT], block, steps, a, plus, minus)
