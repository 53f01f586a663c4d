"""The operating point of one row: Newton with junction limiting, then gmin stepping, then source stepping.

Nagel, "SPICE2: a computer program to simulate semiconductor circuits", 1975 (limiting, gmin); Ho, Zein, Ruehli,
Brennan, "An algorithm for DC solutions in an experimental general purpose interactive circuit design program",
IEEE Trans. Circuits and Systems 24, 1977 (source stepping).
"""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Complexes, Floats, Integers
from verdad_core.devices.base import GMIN, SOURCE_SCALE, STARTING
from verdad_core.engine.linear import (
    BACKWARD_ERROR,
    STORAGE,
    backward_error,
    factor,
    plan,
    solve,
)
from verdad_core.engine.load import load
from verdad_core.jit import kernel

# How a row was solved; negative: it was not.
NEWTON, GMIN_STEPPING, SOURCE_STEPPING = 0, 1, 2
FAILED, SINGULAR = -1, -2

MAX_ITERATIONS = 100
RELATIVE = 1e-7
VOLTS = 1e-9
AMPERES = 1e-14
JUNCTION_GMIN = 1e-12
FIRST_SHUNT = 1e-2
LARGEST_SHUNT = 1e4
LAST_SHUNT = 1e-13


@kernel
def complex_values(g: Floats, nnz: int) -> Complexes:
    values = np.empty(nnz, np.complex128)
    for e in range(nnz):
        values[e] = g[e]
    return values


@kernel
def fill(target: Floats, value: float) -> None:
    """Every entry of target becomes value."""
    for k in range(len(target)):
        target[k] = value


@kernel
def copy(source: Floats, target: Floats) -> None:
    """Source -> target."""
    for k in range(len(source)):
        target[k] = source[k]


@kernel
def newton(
    heads: Integers, table: Integers, slots: Integers, rows: Integers, columns: Integers, nodes: int,
    derived: Floats, options: Floats, state: Floats, shunt: float, steps: Integers, x: Floats, change: Floats,
) -> tuple[int, Integers]:  # fmt: skip
    """Newton from `x` (n + 1 entries, changed in place), with a conductance `shunt` from every node to ground.

    Returns (status, plan); the plan is a new one when the old pivots had become too small. `change` is left with
    the last step of every unknown, for the report of a failure.
    """
    n, nnz = len(x) - 1, len(rows)
    f, q, g, c = np.empty(n + 1), np.empty(n + 1), np.empty(nnz + 1), np.empty(nnz + 1)
    a, b, right, new, work = np.empty(steps[STORAGE]), np.empty(n), np.empty(n), np.empty(n), np.empty((2, n))
    for iteration in range(MAX_ITERATIONS):
        limited = load(heads, table, slots, derived, options, state, x, f, q, g, c)
        options[STARTING] = 0.0
        for k in range(nodes):
            g[k] += shunt
            f[k] += shunt * x[k]
        # Solve J x_new = J x - f, so that a linear circuit needs one step from anywhere.
        for k in range(n):
            right[k] = -f[k]
        for e in range(nnz):
            right[rows[e]] += g[e] * x[columns[e]]
        for attempt in range(2):
            for e in range(nnz):
                a[e] = g[e]
            for e in range(nnz, len(a)):
                a[e] = 0.0
            for k in range(n):
                b[k] = right[k]
            good = factor(steps, a)
            if good:
                solve(steps, a, b, new)
                good = backward_error(rows, columns, g, new, right, work) < BACKWARD_ERROR
            if good or attempt == 1:
                break
            other = plan(n, rows, columns, complex_values(g, nnz))
            if other[0] < 0:
                fill(change, 0.0)
                for k in range(len(other)):
                    change[-1 - other[k]] = np.inf
                return SINGULAR, steps
            steps = other
            a = np.empty(steps[STORAGE])
        settled = limited == 0 and iteration > 0
        for k in range(n):
            change[k] = new[k] - x[k]
            floor = VOLTS if k < nodes else AMPERES
            if not abs(change[k]) <= RELATIVE * max(abs(new[k]), abs(x[k])) + floor:
                settled = False
            x[k] = new[k]
        if settled:
            return NEWTON, steps
        for k in range(n):
            if not np.isfinite(x[k]):
                return FAILED, steps
    return FAILED, steps


@kernel
def solve_point(
    heads: Integers, table: Integers, slots: Integers, rows: Integers, columns: Integers, nodes: int,
    derived: Floats, options: Floats, state: Floats, steps: Integers, x: Floats, change: Floats, warm: bool,
) -> tuple[int, Integers]:  # fmt: skip
    """The whole ladder for one row. With `warm`, `x` and `state` hold a neighbour's solution to start from.

    Returns (how it was solved, plan). After a failure `x` and `change` hold the last values of plain Newton.
    """
    options[SOURCE_SCALE], options[GMIN], options[STARTING] = 1.0, JUNCTION_GMIN, 0.0
    if warm:
        status, steps = newton(
            heads, table, slots, rows, columns, nodes, derived, options, state, 0.0, steps, x, change
        )
        if status == NEWTON:
            return status, steps
    fill(x, 0.0)
    options[STARTING] = 1.0
    status, steps = newton(heads, table, slots, rows, columns, nodes, derived, options, state, 0.0, steps, x, change)
    if status == NEWTON:
        return status, steps
    failed_x, failed_change, failed = x.copy(), change.copy(), status
    good_x, good_state = np.zeros_like(x), state.copy()

    # Gmin stepping: a shunt at every node, large enough to be solved, then taken away by degrees.
    fill(x, 0.0)
    options[STARTING] = 1.0
    reached, target, ratio = 0.0, FIRST_SHUNT, 0.1
    for _ in range(200):
        status, steps = newton(
            heads, table, slots, rows, columns, nodes, derived, options, state, target, steps, x, change
        )
        if status == NEWTON and target == 0.0:
            return GMIN_STEPPING, steps
        if status == NEWTON:
            copy(x, good_x)
            copy(state, good_state)
            reached = target
            ratio = max(ratio * ratio, 1e-3) if ratio < 0.5 else ratio * 0.7
        elif reached == 0.0:
            if target > LARGEST_SHUNT:
                break
            target *= 10.0
            fill(x, 0.0)
            options[STARTING] = 1.0
            continue
        else:
            if ratio > 0.97:
                break
            ratio = np.sqrt(ratio)
            copy(good_x, x)
            copy(good_state, state)
        target = reached * ratio if reached * ratio > LAST_SHUNT else 0.0

    # Source stepping: from all sources off to full value.
    fill(x, 0.0)
    fill(good_x, 0.0)
    options[STARTING] = 1.0
    reached, stride = 0.0, 0.1
    for _ in range(400):
        options[SOURCE_SCALE] = min(1.0, reached + stride)
        status, steps = newton(
            heads, table, slots, rows, columns, nodes, derived, options, state, 0.0, steps, x, change
        )
        if status == NEWTON:
            if options[SOURCE_SCALE] == 1.0:
                return SOURCE_STEPPING, steps
            reached = options[SOURCE_SCALE]
            stride *= 1.7
            copy(x, good_x)
            copy(state, good_state)
        else:
            stride *= 0.25
            if stride < 1e-6:
                break
            copy(good_x, x)
            copy(good_state, state)
    copy(failed_x, x)
    copy(failed_change, change)
    return failed, steps
