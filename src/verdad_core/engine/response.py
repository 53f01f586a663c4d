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
from verdad_core.engine.lanes import LANES, backward_error_lanes, factor_lanes, solve_lanes, solve_transposed_lanes
from verdad_core.engine.linear import STORAGE, call_plan
from verdad_core.engine.load import ADJOINT, KERNELS, PLAN, RIGHT, SOLVE, add_phasors, has_phasors
from verdad_core.jit import at, caller, kernel, pointer, reached

#: Elimination orders that are tried for one block of frequencies before its rows are given up.
ATTEMPTS = 4


class Block(NamedTuple):
    """The arrays of a block of LANES frequencies; all but `omega` and `extra` hold real and imaginary halves."""

    omega: Floats  # [LANES] rad/s
    matrix: Floats  # [nnz, 2 LANES]
    right: Floats  # [n, 2 LANES] the right-hand side
    b: Floats  # [n, 2 LANES] what the solver overwrites
    x: Floats  # [n + 1, 2 LANES], the last row ground's zero
    check: Floats  # [n, 3 LANES]
    extra: Floats  # [2, nnz + 1] what phasor kernels add


@kernel
def block_for(circuit: Circuit) -> Block:
    """Arrays for a block of frequencies of `circuit`."""
    n, nnz, wide = circuit.n, circuit.nnz, 2 * LANES
    return Block(
        np.zeros(LANES), np.zeros((nnz, wide)), np.zeros((n, wide)), np.zeros((n, wide)), np.zeros((n + 1, wide)),
        np.zeros((n, 3 * LANES)), np.zeros((2, nnz + 1)),
    )  # fmt: skip


@kernel
def assemble(circuit: Circuit, work: Work, block: Block, frequency: Floats, first: int) -> None:
    """The matrices at frequency[first:first + LANES], in hertz; past the end the last one is repeated."""
    for w in range(LANES):
        block.omega[w] = 2.0 * np.pi * frequency[min(first + w, len(frequency) - 1)]
    for e in range(circuit.nnz):
        for w in range(LANES):
            block.matrix[e, w], block.matrix[e, LANES + w] = work.g[e], block.omega[w] * work.c[e]
    if has_phasors(circuit):
        re, im = pointer(block.extra), at(pointer(block.extra), circuit.nnz + 1)
        for w in range(LANES):
            add_phasors(circuit, work, block.omega[w], re, im)
            for e in range(circuit.nnz):
                block.matrix[e, w] += re[e]
                block.matrix[e, LANES + w] += im[e]


@kernel
def order(circuit: Circuit, block: Block, lane: int) -> Integers:
    """An elimination order for one lane of a block, or plan's report of a singular matrix."""
    re = at(pointer(block.matrix), lane)
    code = circuit.code[KERNELS * circuit.families + PLAN]
    steps: Integers = call_plan(
        code, circuit.n, circuit.nnz, circuit.rows, circuit.columns, re, at(re, LANES), 2 * LANES
    )
    return steps


@kernel
def set_right(block: Block, re: Floats, im: Floats) -> None:
    """One right-hand side [n + 1] for all lanes."""
    for i in range(len(block.right)):
        for w in range(LANES):
            block.right[i, w], block.right[i, LANES + w] = re[i], im[i]


@kernel
def _copy_right(block: Block) -> None:
    for i in range(len(block.right)):
        for w in range(2 * LANES):
            block.b[i, w] = block.right[i, w]


_ROW, _SQUARE = types.Array(types.float64, 1, "C"), types.Array(types.float64, 2, "C")
_PLAN = types.Array(types.int32, 1, "C")
_BLOCK = types.NamedTuple([_ROW, *[_SQUARE] * 6], Block)
_SOLVE = types.Tuple((types.boolean, _PLAN, _SQUARE))(CIRCUIT, _BLOCK, _PLAN)
_AGAIN = types.void(_BLOCK, _PLAN, _SQUARE)
_ADJOINT = types.void(_BLOCK, _PLAN, _SQUARE, types.int64, types.int64)
call_solve, call_again, call_adjoint = caller(_SOLVE), caller(_AGAIN), caller(_ADJOINT)


@reached(_SOLVE)
def solve_new(circuit: Circuit, block: Block, steps: Integers) -> tuple[bool, Integers, Floats]:
    """Factor the block's matrices and solve for its right-hand side, into block.x.

    Returns (whether it could be solved, plan, factors); the plan is a new one where the old pivots were too small.
    """
    nnz = circuit.nnz
    a = np.empty((steps[STORAGE], 2 * LANES))
    for attempt in range(ATTEMPTS):
        for e in range(len(a)):
            for w in range(2 * LANES):
                a[e, w] = block.matrix[e, w] if e < nnz else 0.0
        _copy_right(block)
        factor_lanes(steps, a)
        solve_lanes(steps, a, block.b, block.x)
        bad = backward_error_lanes(nnz, circuit.rows, circuit.columns, block.matrix, block.x, block.right, block.check)
        if bad < 0 or attempt == ATTEMPTS - 1:
            break
        other = order(circuit, block, bad)
        if other[0] < 0:
            return False, steps, a
        steps = other
        a = np.empty((steps[STORAGE], 2 * LANES))
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
def solve_block(circuit: Circuit, block: Block, steps: Integers) -> tuple[bool, Integers, Floats]:
    """Factor the block's matrices and solve for its right-hand side; see `solve_new`."""
    found: tuple[bool, Integers, Floats] = call_solve(
        circuit.code[KERNELS * circuit.families + SOLVE], circuit, block, steps
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
