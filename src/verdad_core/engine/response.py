"""Small-signal equations of one row, (G + jωC + P(ω)) X = B, for many frequencies, right-hand sides and outputs.

P is what lines and tabulated responses add beyond G + jωC. Frequencies go side by side (engine/lanes.py); the
factors of a block of frequencies serve all its right-hand sides, and transposed all adjoint ones.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numba.core import types

from verdad_core.arrays import Floats, Integers, Packed
from verdad_core.engine.circuit import CIRCUIT, Circuit, Work, copy
from verdad_core.engine.lane_plan import kept_plan, lane_plan
from verdad_core.engine.lanes import (
    LANES,
    WIDE,
    back_lanes,
    eliminate_lanes,
    entry_of,
    fill_lanes,
    solve_lanes,
    solve_transposed_lanes,
)
from verdad_core.engine.linear import BACKWARD_ERROR, FLOOR, KEPT, PLACE, ROUNDED, STORAGE, call_plan
from verdad_core.engine.load import ADJOINT, KERNELS, PLAN, RIGHT, SOLVE, add_phasors
from verdad_core.jit import FLOATS, at, caller, kernel, pointer, reached
from verdad_core.words import Layout, opened, words

#: Elimination orders that are tried for one block of frequencies before its rows are given up.
ATTEMPTS = 4


class Block:
    """The arrays of a block of LANES frequencies; what is WIDE holds real and imaginary halves.

    The matrices are nowhere but in their factors: a large circuit's would not fit into the cache beside them.
    """

    omega: Floats  # [LANES] rad/s
    extra: Floats  # [extras, WIDE] what phasor kernels add
    added: Floats  # [2, extras + 1] room for one frequency's
    right: Floats  # [2, n + 1] the right-hand side of all lanes
    x: Floats  # [n + 1, WIDE], the last row ground's zero
    change: Floats  # [n + 1, WIDE] what a refinement adds to x, and what an adjoint solution starts from
    one: Floats  # [3 WIDE] one entry of the matrices, and what is summed up for one row of their residual
    largest: Floats  # [LANES] the size of the largest unknown of what was solved last
    extras: int  # nnz, or 0 where there are no phasors


BLOCK = words(Block, within=True)
block_in = opened(BLOCK)


def block_room(circuit: Packed) -> Floats:
    """The array that a Block lies in."""
    extras = CIRCUIT.number(circuit, "nnz") if CIRCUIT.number(circuit, "phasors") else 0
    return _layout(CIRCUIT.number(circuit, "n") + 1, extras).array()


@lru_cache(maxsize=64)
def _layout(rows: int, extras: int) -> Layout:
    wide = {
        "omega": LANES, "extra": WIDE * extras, "added": 2 * (extras + 1), "right": 2 * rows,
        "x": WIDE * rows, "change": WIDE * rows, "one": 3 * WIDE, "largest": LANES,
    }  # fmt: skip
    return Layout(BLOCK, wide, extras=extras)


@kernel
def no_factors() -> Floats:
    """Factors of nothing, for the first block."""
    return np.empty(0)


@kernel
def set_frequencies(circuit: Circuit, work: Work, block: Block, frequency: Floats, first: int) -> None:
    """The block's matrices are at frequency[first:first + LANES], in hertz; past the end the last one is repeated."""
    for w in range(LANES):
        block.omega[w] = 2.0 * np.pi * frequency[min(first + w, len(frequency) - 1)]
    nnz = block.extras
    if nnz > 0:
        re, im = block.added, at(block.added, nnz + 1)
        for w in range(LANES):
            add_phasors(circuit, work, block.omega[w], re, im)
            for e in range(nnz):
                added = at(block.extra, WIDE * e)
                added[w], added[LANES + w] = re[e], im[e]


@kernel
def order(circuit: Circuit, g: Floats, c: Floats, block: Block, lane: int, keep: bool) -> Integers:
    """An elimination for one lane of a block, or plan's report of a singular matrix.

    Without `keep` its factors serve one right-hand side only.
    """
    nnz = circuit.nnz
    values = np.empty(2 * nnz)
    for e in range(nnz):
        entry_of(g, c, block.omega, block.extra, block.extras, e, block.one)
        values[e], values[nnz + e] = block.one[lane], block.one[LANES + lane]
    steps = _plan(circuit, values)
    return lane_plan(steps, keep) if steps[0] >= 0 else steps


@kernel
def _plan(circuit: Circuit, values: Floats) -> Integers:
    """An elimination for complex values [2, nnz], or plan's report of a singular matrix."""
    re, code = pointer(values), circuit.code[KERNELS * circuit.families + PLAN]
    steps: Integers = call_plan(
        code, circuit.n, circuit.nnz, circuit.rows, circuit.columns, re, at(re, circuit.nnz), 1
    )  # fmt: skip
    return steps


@kernel
def set_right(circuit: Circuit, block: Block, re: Floats, im: Floats) -> None:
    """One right-hand side [n + 1] for all lanes."""
    copy(re, block.right, circuit.n)
    copy(im, at(block.right, circuit.n + 1), circuit.n)


@kernel
def _place_right(n: int, block: Block, steps: Integers) -> None:
    imaginary, place = at(block.right, n + 1), steps[PLACE]
    for i in range(n):
        fill_lanes(block.right[i], imaginary[i], at(block.x, WIDE * steps[place + i]))


#: Where the sums of `_worst_lane` lie behind the entry: residual, size of its terms, and what counts at least.
_REST, _SIZE, _FLOOR = WIDE, 2 * WIDE, 2 * WIDE + LANES


@kernel
def _worst_lane(
    circuit: Circuit, g: Floats, c: Floats, block: Block, steps: Integers, keep: bool
) -> tuple[float, int]:  # fmt: skip
    """The largest backward error of all lanes and the lane it is in; `keep` leaves what is missing, B - A x, in
    block.change, each row at its place.
    """
    # One array for all sums, at distances that the compiler knows, lets it use the vector units.
    t, x, imaginary = block.one, block.x, at(block.right, circuit.n + 1)
    for w in range(LANES):
        t[_FLOOR + w] = FLOOR * block.largest[w]
    worst, lane = 0.0, 0
    for i in range(circuit.n):
        re, im = block.right[i], imaginary[i]
        for w in range(LANES):
            t[_REST + w], t[_REST + LANES + w], t[_SIZE + w] = re, im, abs(re) + abs(im)
        for j in range(circuit.starts[i], circuit.starts[i + 1]):
            e = circuit.by_row[j]
            entry_of(g, c, block.omega, block.extra, block.extras, e, t)
            v = at(x, WIDE * circuit.columns[e])
            for w in range(LANES):
                re = t[w] * v[w] - t[LANES + w] * v[LANES + w]
                im = t[w] * v[LANES + w] + t[LANES + w] * v[w]
                t[_REST + w] -= re
                t[_REST + LANES + w] -= im
                t[_SIZE + w] += abs(re) + abs(im) + (abs(t[w]) + abs(t[LANES + w])) * t[_FLOOR + w]
        if keep:
            copy(at(t, _REST), at(block.change, WIDE * steps[steps[PLACE] + i]), WIDE)
        for w in range(LANES):
            error = abs(t[_REST + w]) + abs(t[_REST + LANES + w])
            if not error <= worst * t[_SIZE + w]:
                if not np.isfinite(error):
                    return np.inf, w
                worst, lane = error / t[_SIZE + w], w
    return worst, lane


_PLAN, _FACTORS = types.Array(types.int32, 1, "C"), types.Array(types.float64, 1, "C")
_SOLVE = types.Tuple((types.boolean, _PLAN, _FACTORS))(CIRCUIT, FLOATS, FLOATS, BLOCK, _PLAN, _FACTORS)
_AGAIN = types.void(types.int64, BLOCK, _PLAN, _FACTORS)
_ADJOINT = types.void(types.int64, BLOCK, _PLAN, _FACTORS, types.int64, types.int64)
call_solve, call_again, call_adjoint = caller(_SOLVE), caller(_AGAIN), caller(_ADJOINT)


@reached(_SOLVE)
def solve_new(
    circuit: Circuit, g: Floats, c: Floats, block: Block, steps: Integers, a: Floats
) -> tuple[bool, Integers, Floats]:
    """Factor the block's matrices and solve for its right-hand side, into block.x; `a` is memory of an earlier block.

    Returns (whether it could be solved, plan, factors); the plan is a new one where the old pivots were too small.
    What cancellation has cost (a circuit near its resonance) one step of refinement brings back (Golub and Van Loan,
    section 3.5).
    """
    for attempt in range(ATTEMPTS):
        if len(a) != WIDE * steps[STORAGE]:
            a = np.empty(WIDE * steps[STORAGE])
        eliminate_lanes(steps, a, g, c, block.omega, block.extra, circuit.nnz, block.extras, block.right, block.x)
        back_lanes(steps, a, block.x, block.largest)
        error, lane = _worst_lane(circuit, g, c, block, steps, False)
        rough = ROUNDED < error < np.inf
        if error < BACKWARD_ERROR or attempt == ATTEMPTS - 1:
            if rough and steps[KEPT] == 0:
                # The same solution once more, with what refines it. A row's numbers do not depend on rows before it.
                steps = kept_plan(steps)
                continue
            if rough:
                _worst_lane(circuit, g, c, block, steps, True)
                solve_lanes(steps, a, block.change, block.largest)
                for k in range(WIDE * circuit.n):
                    block.x[k] += block.change[k]
            break
        other = order(circuit, g, c, block, lane, True)
        if other[0] < 0:
            return False, steps, a
        steps = other
    return True, steps, a


@reached(_AGAIN)
def solve_right(n: int, block: Block, steps: Integers, a: Floats) -> None:
    """Another right-hand side with the factors of solve_new, into block.x."""
    _place_right(n, block, steps)
    solve_lanes(steps, a, block.x, block.largest)


@reached(_ADJOINT)
def solve_output(n: int, block: Block, steps: Integers, a: Floats, plus: int, minus: int) -> None:
    """How the output x[plus] - x[minus] answers to a unit in each equation, into block.x; factors of solve_new."""
    for i in range(n):
        value = (1.0 if i == plus else 0.0) - (1.0 if i == minus else 0.0)
        fill_lanes(value, 0.0, at(block.change, WIDE * i))
    solve_transposed_lanes(steps, a, block.change, block.x)


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
    call_again(circuit.code[KERNELS * circuit.families + RIGHT], circuit.n, block, steps, a)


@kernel
def solve_adjoint(circuit: Circuit, block: Block, steps: Integers, a: Floats, plus: int, minus: int) -> None:
    """See `solve_output`."""
    code = circuit.code[KERNELS * circuit.families + ADJOINT]
    call_adjoint(code, circuit.n, block, steps, a, plus, minus)
