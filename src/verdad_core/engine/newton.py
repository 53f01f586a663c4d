"""The operating point of one row: Newton with junction limiting, and a ladder of other ways when that fails.

After Newton come gmin stepping, source stepping and pseudo-transient continuation. Nagel, "SPICE2: a computer program
to simulate semiconductor circuits", 1975 (limiting, gmin); Ho, Zein, Ruehli, Brennan, "An algorithm for DC solutions
in an experimental general purpose interactive circuit design program", IEEE Trans. Circuits and Systems 24, 1977
(source stepping); Kelley and Keyes, "Convergence analysis of pseudo-transient continuation", SIAM J. Numerical
Analysis 35, 1998.
"""

from __future__ import annotations

import numpy as np
from numba.core import types

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import HALTED, SOURCE_SCALE, STARTING
from verdad_core.engine.circuit import CIRCUIT, WORK, Circuit, Work, copy, fill, reset
from verdad_core.engine.linear import BACKWARD_ERROR, ROUNDED, STORAGE, backward_error, factor, solve
from verdad_core.engine.load import KERNELS, POINT, load_linear, load_nonlinear
from verdad_core.engine.load import NEWTON as NEWTON_AT
from verdad_core.engine.ordering import FIRST_SHUNT, first_plan, mark_open, order_for
from verdad_core.jit import FLOATS, caller, kernel, reached

# How a row was solved; negative: it was not.
NEWTON, GMIN_STEPPING, SOURCE_STEPPING, PSEUDO_TRANSIENT = 0, 1, 2, 3
FAILED, SINGULAR = -1, -2

MAX_ITERATIONS = 100
RELATIVE = 1e-7
#: A step below this many tolerances may be the last one when the next is known to be negligible.
SMALL = 1e3
#: What unknowns may be off at least, in V and A.
VOLTS = 1e-9
AMPERES = 1e-14
#: What may be missing in a sum of currents, as a part of what flows there, and of volts around a branch, whatever the
#: steps say: an exponential comes down by N·Vt an iteration, however small that is beside the volts.
BALANCED, CLOSED = 1e-6, 1e-9
#: What may be missing where nothing flows, in A or V.
NOTHING = 1e-14
#: From this iteration on, Newton stops too where its last point solves the circuit but for rounding: of a part that
#: nearly nothing holds, the volts are not known better.
LATE = 20
#: What may be missing where an unknown has not come to rest, as a part of what flows.
LITTLE = 1e-2
#: From this iteration on, every elimination is looked at, refined, and planned anew where it is poor for this row's
#: values: what wanders for want of digits never settles.
DOUBTFUL = 10
LARGEST_SHUNT = 1e4
LAST_SHUNT = 1e-13
#: The conductance that draws a node to the voltage that a nodeset names.
NODESET = 1e4
#: The one that holds a node until the transient begins: a hundred amperes there leave it where it is.
HOLD = 1e8


@kernel
def _factored(circuit: Circuit, work: Work, a: Floats, steps: Integers) -> bool:
    for e in range(circuit.nnz):
        a[e] = work.linear[e] + work.g[e]
    for e in range(circuit.nnz, len(a)):
        a[e] = 0.0
    return factor(steps, a)


_NEWTON = types.Tuple((types.int64, types.Array(types.int32, 1, "C")))(
    CIRCUIT, WORK, types.Array(types.int32, 1, "C"), FLOATS, FLOATS
)
call_newton = caller(_NEWTON)


@reached(_NEWTON)
def newton(circuit: Circuit, work: Work, steps: Integers, x: Floats, change: Floats) -> tuple[int, Integers]:
    """Newton from `x` (n + 1 entries, changed in place), every node held by work.shunt to work.anchor.

    Returns (status, plan); the plan is a new one when the old pivots had become too small. `change` [n] is left with
    the last step of every unknown, for the report of a failure.
    """
    n, nnz, nodes = circuit.n, circuit.nnz, circuit.nodes
    right, new = work.right, work.new
    a = np.empty(steps[STORAGE])
    # Linear equations are g x - fixed = 0 all the way.
    fill(new, n + 1, 0.0)
    load_linear(circuit, work, new)
    copy(work.g, work.linear, nnz)
    for k in range(n):
        work.fixed[k] = -work.f[k]
    for k in range(nodes):
        work.linear[k] += work.shunt[k]
        work.fixed[k] += work.shunt[k] * work.anchor[k]
    # The largest step so far and before, in units of what is tolerated.
    largest, before, arrived = np.inf, np.inf, False
    for iteration in range(MAX_ITERATIONS):
        if work.options[HALTED] != 0.0:
            return FAILED, steps
        unsettled = load_nonlinear(circuit, work, x)
        work.options[STARTING] = 0.0
        if unsettled == 0 and (arrived or iteration >= LATE) and _balances(circuit, work, x, change, arrived):
            return NEWTON, steps
        # Solve J x_new = J x - f, so that a linear circuit needs one step from anywhere.
        for k in range(n):
            right[k] = work.fixed[k] - work.f[k]
        for e in range(nnz):
            right[circuit.rows[e]] += work.g[e] * x[circuit.columns[e]]
        settled = False
        for attempt in range(2):
            good = _factored(circuit, work, a, steps)
            if good:
                copy(right, work.scratch, n)
                solve(steps, a, work.scratch, new)
                largest = 0.0
                for k in range(n):
                    step = abs(new[k] - x[k]) / (RELATIVE * max(abs(new[k]), abs(x[k])) + circuit.floors[k])
                    if not step <= 1.0:
                        good = good and np.isfinite(new[k])
                    largest = max(largest, step)
                # Near the solution steps shrink as squares: the next one is known without being made. The step itself
                # stays small, so that an expression's corner is not stepped over unseen.
                next_ = largest * (largest / before) ** 2 if largest < min(0.1 * before, SMALL) else largest
                settled = iteration > 0 and (largest <= 1.0 or next_ <= 0.01)
                # A poor elimination only slows Newton down; what it settles on has to be right.
                if good and (settled or iteration >= DOUBTFUL):
                    for e in range(nnz):
                        work.c[e] = work.linear[e] + work.g[e]
                    error = backward_error(n, nnz, circuit.rows, circuit.columns, work.c, new, right, work.f, work.q)
                    good = error < BACKWARD_ERROR
                    if good and error > ROUNDED:
                        # A junction at an ampere makes an error that is small beside its equation's terms a current
                        # that is missing: one step of refinement (Golub and Van Loan, section 3.5) takes it out.
                        copy(work.f, work.scratch, n)
                        solve(steps, a, work.scratch, work.q)
                        for k in range(n):
                            new[k] -= work.q[k]
            if good or attempt == 1:
                break
            for e in range(nnz):
                work.c[e] = work.linear[e] + work.g[e]
            other = order_for(circuit, work.c)
            if other[0] < 0:
                mark_open(circuit, other, change)
                return SINGULAR, steps
            steps = other
            a = np.empty(steps[STORAGE])
        before = largest
        finite = True
        for k in range(n):
            change[k] = new[k] - x[k]
            x[k] = new[k]
            finite = finite and np.isfinite(x[k])
        arrived = settled
        if not finite:
            return FAILED, steps
    return FAILED, steps


@kernel
def _balances(circuit: Circuit, work: Work, x: Floats, change: Floats, arrived: bool) -> bool:
    """Whether x satisfies the equations that were just loaded at it, with no junction limited.

    What is missing in each must be a part of what flows there (only where steps have `arrived`), or the rounding of
    its own terms; of an unknown that has not come to rest, what is missing must be little as well.
    """
    n, linear, size = circuit.n, work.scratch, work.q
    for k in range(n):
        linear[k], size[k] = -work.fixed[k], abs(work.fixed[k]) + abs(work.f[k])
    for e in range(circuit.nnz):
        term = work.linear[e] * x[circuit.columns[e]]
        linear[circuit.rows[e]] += term
        size[circuit.rows[e]] += abs(term) + abs(work.g[e] * x[circuit.columns[e]])
    for k in range(n):
        missing, flows = abs(linear[k] + work.f[k]), max(abs(linear[k]), abs(work.f[k]))
        allowed = ROUNDED * size[k]
        if arrived:
            allowed += (BALANCED if circuit.volts[k] != 0 else CLOSED) * flows + NOTHING
        elif abs(change[k]) > RELATIVE * abs(x[k]) + circuit.floors[k]:
            allowed = min(allowed, LITTLE * flows + NOTHING)
        if not missing <= allowed:
            return False
    return True


@kernel
def _try(circuit: Circuit, work: Work, steps: Integers, x: Floats, change: Floats) -> tuple[int, Integers]:
    code = circuit.code[KERNELS * circuit.families + NEWTON_AT]
    found: tuple[int, Integers] = call_newton(code, circuit, work, steps, x, change)
    return found


_POINT = types.Tuple((types.int64, types.Array(types.int32, 1, "C")))(
    CIRCUIT, WORK, types.Array(types.int32, 1, "C"), FLOATS, FLOATS, types.boolean
)
_call_point = caller(_POINT)


@kernel
def solve_point(
    circuit: Circuit, work: Work, steps: Integers, x: Floats, change: Floats, warm: bool,
) -> tuple[int, Integers]:  # fmt: skip
    """See `find_point`."""
    code = circuit.code[KERNELS * circuit.families + POINT]
    found: tuple[int, Integers] = _call_point(code, circuit, work, steps, x, change, warm)
    return found


@reached(_POINT)
def find_point(
    circuit: Circuit, work: Work, steps: Integers, x: Floats, change: Floats, warm: bool,
) -> tuple[int, Integers]:  # fmt: skip
    """The whole ladder for one row.

    With `warm`, `x` and work.state hold a neighbour's solution to start from, and `steps` its plan. Where that leads
    nowhere, the search is the one that the row would have alone: from zero, with a plan of its own. Returns (how it
    was solved, plan). After a failure `x` and `change` hold the last values of plain Newton.
    """
    _release(circuit, work)
    if warm:
        status, steps = _try(circuit, work, steps, x, change)
        if status == NEWTON or work.options[HALTED] != 0.0:
            return status, steps
    steps = first_plan(circuit, work, x)
    if steps[0] < 0:
        mark_open(circuit, steps, change)
        return SINGULAR, steps
    _release(circuit, work)
    _restart(circuit, work, x)
    if circuit.suggestions > 0:
        for k in range(circuit.suggestions):
            work.shunt[circuit.nodesets[k]], work.anchor[circuit.nodesets[k]] = NODESET, circuit.suggested[k]
        _, steps = _try(circuit, work, steps, x, change)
        _release(circuit, work)
    status, steps = _try(circuit, work, steps, x, change)
    if status == NEWTON or work.options[HALTED] != 0.0:
        return status, steps
    copy(x, work.failed_x, circuit.n + 1)
    copy(change, work.failed_change, circuit.n)
    failed = status
    solved, steps = _gmin_stepping(circuit, work, steps, x, change)
    if solved:
        return GMIN_STEPPING, steps
    solved, steps = _source_stepping(circuit, work, steps, x, change)
    if solved:
        return SOURCE_STEPPING, steps
    solved, steps = _pseudo_transient(circuit, work, steps, x, change)
    if solved:
        return PSEUDO_TRANSIENT, steps
    copy(work.failed_x, x, circuit.n + 1)
    copy(work.failed_change, change, circuit.n)
    return failed, steps


@kernel
def _restart(circuit: Circuit, work: Work, x: Floats) -> None:
    """Start from nothing: all unknowns zero, junctions at their knees."""
    fill(x, circuit.n + 1, 0.0)
    fill(work.state, work.states, 0.0)
    work.options[STARTING] = 1.0


@kernel
def _release(circuit: Circuit, work: Work) -> None:
    """Nothing holds the nodes but what is to hold them in any case, and the options are plain."""
    reset(work.options)
    _shunt(circuit, work, 0.0)
    fill(work.anchor, circuit.nodes, 0.0)
    for k in range(circuit.nodes):
        if not np.isnan(work.hold[k]):
            work.shunt[k], work.anchor[k] = HOLD, work.hold[k]


@kernel
def _shunt(circuit: Circuit, work: Work, conductance: float) -> None:
    """The same shunt at every node that is not held in any case."""
    for k in range(circuit.nodes):
        if np.isnan(work.hold[k]):
            work.shunt[k] = conductance


@kernel
def _keep(circuit: Circuit, work: Work, x: Floats) -> None:
    """This solution is one to come back to."""
    copy(x, work.good_x, circuit.n + 1)
    copy(work.state, work.good_state, work.states)


@kernel
def _back(circuit: Circuit, work: Work, x: Floats) -> None:
    """Back to the last good solution."""
    copy(work.good_x, x, circuit.n + 1)
    copy(work.good_state, work.state, work.states)


@kernel
def _gmin_stepping(
    circuit: Circuit, work: Work, steps: Integers, x: Floats, change: Floats
) -> tuple[bool, Integers]:  # fmt: skip
    """A shunt at every node, large enough to be solved, then taken away by degrees."""
    _release(circuit, work)
    _restart(circuit, work, x)
    _keep(circuit, work, x)
    reached, target, ratio, solved = 0.0, FIRST_SHUNT, 0.1, False
    for _ in range(200):
        _shunt(circuit, work, target)
        status, steps = _try(circuit, work, steps, x, change)
        if status == NEWTON and target == 0.0:
            solved = True
            break
        if status == NEWTON:
            _keep(circuit, work, x)
            reached = target
            ratio = max(ratio * ratio, 1e-3) if ratio < 0.5 else ratio * 0.7
        elif reached == 0.0:
            if target > LARGEST_SHUNT:
                break
            target *= 10.0
            _restart(circuit, work, x)
            continue
        else:
            if ratio > 0.97:
                break
            ratio = np.sqrt(ratio)
            _back(circuit, work, x)
        target = reached * ratio if reached * ratio > LAST_SHUNT else 0.0
    _release(circuit, work)
    return solved, steps


@kernel
def _source_stepping(
    circuit: Circuit, work: Work, steps: Integers, x: Floats, change: Floats
) -> tuple[bool, Integers]:  # fmt: skip
    """From all sources off to full value."""
    _release(circuit, work)
    _restart(circuit, work, x)
    _keep(circuit, work, x)
    reached, stride = 0.0, 0.1
    for _ in range(400):
        work.options[SOURCE_SCALE] = min(1.0, reached + stride)
        status, steps = _try(circuit, work, steps, x, change)
        if status == NEWTON:
            if work.options[SOURCE_SCALE] == 1.0:
                return True, steps
            reached = work.options[SOURCE_SCALE]
            stride *= 1.7
            _keep(circuit, work, x)
        else:
            stride *= 0.25
            if stride < 1e-6:
                break
            _back(circuit, work, x)
    _release(circuit, work)
    return False, steps


@kernel
def _pseudo_transient(
    circuit: Circuit, work: Work, steps: Integers, x: Floats, change: Floats
) -> tuple[bool, Integers]:  # fmt: skip
    """A capacitor from every node to ground, and implicit Euler steps that grow until it carries no current."""
    _release(circuit, work)
    _restart(circuit, work, x)
    _keep(circuit, work, x)
    shunt, solved = 1.0, False
    for _ in range(600):
        _shunt(circuit, work, shunt)
        for k in range(circuit.nodes):
            if np.isnan(work.hold[k]):
                work.anchor[k] = work.good_x[k]
        status, steps = _try(circuit, work, steps, x, change)
        if status == NEWTON and shunt == 0.0:
            solved = True
            break
        if status == NEWTON:
            _keep(circuit, work, x)
            shunt = shunt * 0.5 if shunt * 0.5 > LAST_SHUNT else 0.0
        else:
            _back(circuit, work, x)
            shunt = LAST_SHUNT * 1e3 if shunt == 0.0 else shunt * 8.0
            if shunt > 1e6:
                break
    _release(circuit, work)
    return solved, steps
