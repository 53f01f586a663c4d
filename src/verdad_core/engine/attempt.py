"""One step of a transient: Newton's method on the discretised equations, and the error the step has made.

The circuit is f(x, t) + dq(x)/dt = 0. A rule of integration makes the rate of a charge a0 q + memory, where memory
holds what the past contributes, so a step solves f(x, t) + a0 q(x) + memory = 0. The rules (Nagel, "SPICE2: a computer
program to simulate semiconductor circuits", 1975; Gear, "Numerical Initial Value Problems in Ordinary Differential
Equations", 1971), with h the step and l the one before it:

    implicit Euler   dq/dt = (q - q0) / h
    trapezoidal      dq/dt = 2 (q - q0) / h - dq0/dt
    Gear's second    dq/dt = (2h + l) / (h (h + l)) q - (h + l) / (h l) q0 + h / (l (h + l)) q1

The error of a charge in one step is h³/12 q''' (trapezoidal) or h² (h + l)² / (6 (2h + l)) q''' (Gear), q''' from the
divided differences of the rates. What it does to the unknowns is found with the matrix at hand, as J⁻¹ a0 error
(Shampine 1984, for stiff problems): that error is in volts and amperes, and what the circuit itself damps within the
step does not count. What is left of it after a step of the trapezoidal rule is in engine/extrapolation.py.
"""

from __future__ import annotations

import numpy as np
from numba.core import types

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import CHARGES, HEAD, MARCHING, TIME, call_load, call_stray
from verdad_core.devices.waveforms import SAME
from verdad_core.engine.circuit import CIRCUIT, WORK, Circuit, Work, copy, fill
from verdad_core.engine.extrapolation import extrapolate
from verdad_core.engine.linear import ROUNDED, STORAGE, factor, solve
from verdad_core.engine.load import KERNELS, LOAD, STRAY, clear
from verdad_core.engine.ordering import mark_open, order_for
from verdad_core.engine.past import (
    ANCHOR,
    AT,
    BASE,
    BEFORE,
    CAPACITANCES,
    CHANGE,
    CORNER,
    CURVATURE,
    D1,
    DAMPING,
    DUE,
    DYNAMIC,
    ERROR,
    EULER,
    EXTRAPOLATED,
    FIXED_C,
    FIXED_G,
    FLOOR,
    GEAR,
    GRAIN,
    INERTIA,
    INTERVAL,
    ITERATIONS,
    KNEE,
    LAST,
    LEAPING,
    MEMORY,
    NEW_D,
    NEW_Q,
    NEW_X,
    NEXT_GRAIN,
    PLACES,
    PLANS,
    PULL,
    Q1,
    RATE_ERROR,
    RELATIVE,
    RELIEF,
    RULE,
    SINCE,
    SIZE,
    SOURCE,
    STEP,
    TRAPEZOIDAL,
    VOLTS,
    X1,
    X2,
    D,
    Q,
    X,
    entries,
    vector,
)
from verdad_core.engine.roles import EACH_ITERATION, EACH_STEP
from verdad_core.engine.solving import error_of, is_solved, refill, refine
from verdad_core.jit import FLOATS, INTEGERS, at, caller, kernel, reached

# How an attempt ended.
SOLVED, NOT_SOLVED, SINGULAR = 0, -1, -2

#: Iterations of an ordinary step, and after a jump, when a junction may have far to go.
MOST_ITERATIONS, MOST_AFTER_A_JUMP = 16, 100

#: Newton stops where the next step would be below this many tolerances, or where steps below one tolerance no longer
#: shrink: that is rounding.
NEGLIGIBLE = 0.05

#: What a voltage may move at most where Newton stops, as a part of the knee there (march.py), however high it is: the
#: current and the charge of a junction are other ones within a knee.
JUNCTION = 0.04

#: From this iteration on, Newton stops too where its last point solves the circuit but for rounding: of a part that
#: nearly nothing holds, the volts are not known better.
LATE = 4

#: An iteration may be the last one when its step was below this many tolerances, and moved no voltage by more than this
#: part of the knee: over more, no junction's current is a straight line, whatever Newton did before.
SMALL, STRAIGHT = 20.0, 0.2

#: Newton's next step is taken to be at least this times the square of the last one, in units of the tolerances.
LEAST_CURVATURE = 1e-5

#: What of a charge rounding may make, with what of it the error's differences see.
ROUNDING = 2e-15

#: An error of up to so many tolerances is taken where it is no more than rounding, as shorter steps would only make it
#: larger; above that steps are much too short already, and integration has to start again.
STANDABLE = 10.0

#: An unknown that grows beyond what it has been, and was more than this part of it at the last point already, counts as
#: at least so many times as large as what the step changes it by: what grows from nothing need not be followed to a
#: part of nothing. The error stays below that part of the change itself, as a step may make a tenth of what is asked.
GROWN, GOING_ON = 0.25, 8.0

#: What an unknown may go elsewhere than predicted, as a part of its size. The error sees what is left at the end of the
#: step, which is nothing where clamps hold both ends: what an op-amp does on its way from rail to rail is in between.
UNSEEN = 0.3

#: An error of so few tolerances is not worth being taken away.
QUIET = 1e-4

#: What is left of a curvature that no later iteration has shown again.
FADING = 0.2


@kernel
def load_of(circuit: Circuit, work: Work, roles: Integers, role: int, x: Floats) -> int:
    """Add the families of this role at x. Returns how many devices are not at rest."""
    unsettled = 0
    for j in range(roles[role], roles[role + 1]):
        k = roles[j]
        unsettled += call_load(
            circuit.code[KERNELS * k + LOAD], at(circuit.heads, HEAD * k), circuit.table, circuit.slots,
            work.derived, work.options, work.state, x, work.f, work.q, work.g, work.c,
        )  # fmt: skip
    return unsettled


@kernel
def _strays(circuit: Circuit, work: Work, roles: Integers, x: Floats, relative: float) -> bool:
    """Whether a slope that the last load found has jumped on the way to x."""
    strays = 0
    for j in range(roles[EACH_ITERATION], roles[EACH_ITERATION + 1]):
        k = roles[j]
        code = circuit.code[KERNELS * k + STRAY]
        if code != 0:
            strays += call_stray(
                code, at(circuit.heads, HEAD * k), circuit.table, work.derived, work.options, work.state, x, relative
            )
    return strays > 0


@kernel
def rule_of(past: Floats) -> int:
    """The rule for the step that is tried: after a restart there are no rates yet, and for Gear no second charge."""
    if past[SINCE] == 0.0:
        return EULER
    if past[SINCE] > 1.0 and (past[RULE] == GEAR or past[DAMPING] > 0.0):
        return GEAR
    return TRAPEZOIDAL


@kernel
def _is_extrapolated(past: Floats, rule: int) -> bool:
    """Whether the error of the step that was solved is to be taken away: it is known, and worth it."""
    asked = past[RULE] == EXTRAPOLATED and rule == TRAPEZOIDAL and past[LEAPING] == 0.0
    return bool(asked and past[SINCE] > 1.0 and QUIET < past[ERROR] <= 1.0)


@kernel
def _instant(past: Floats) -> float:
    """The time of the point that is tried: at a corner, the last one before it."""
    if past[AT] == past[CORNER]:
        return float(past[AT] - max(SAME * past[AT], 1e-9 * past[STEP]))
    return float(past[AT])


@kernel
def _discretise(past: Floats, n: int, rule: int) -> float:
    """a0, and what the past contributes, into MEMORY."""
    h, before = past[STEP], past[LAST]
    memory, q, q1, d = vector(past, n, MEMORY), vector(past, n, Q), vector(past, n, Q1), vector(past, n, D)
    if rule == GEAR:
        a1, a2 = -(h + before) / (h * before), h / (before * (h + before))
        for k in range(n):
            memory[k] = a1 * q[k] + a2 * q1[k]
        return float((2.0 * h + before) / (h * (h + before)))
    a0 = 2.0 / h if rule == TRAPEZOIDAL else 1.0 / h
    for k in range(n):
        memory[k] = -a0 * q[k] - (d[k] if rule == TRAPEZOIDAL else 0.0)
    return float(a0)


@kernel
def floor_of(past: Floats, n: int, k: int, a0: float) -> float:
    """What unknown k may err at least: an inductor's current what the least error of its voltage makes in a step."""
    floor, inertia = vector(past, n, FLOOR)[k], vector(past, n, INERTIA)[k]
    return float(past[RELIEF] * (floor + past[VOLTS] / (a0 * inertia) if inertia > 0.0 else floor))


@kernel
def _predict(past: Floats, n: int) -> None:
    """The parabola, the straight line or the value that the last points leave, into NEW_X."""
    new = vector(past, n, NEW_X)
    for k in range(n):
        new[k] = _predicted(past, n, k)
    new[n] = 0.0


@kernel
def _predicted(past: Floats, n: int, k: int) -> float:
    """Unknown k, as far as the last points tell."""
    x, x1, x2 = vector(past, n, X), vector(past, n, X1), vector(past, n, X2)
    h, l1, l2, since = past[STEP], past[LAST], past[BEFORE], past[SINCE]
    found = x[k]
    if since >= 2.0:
        slope = (x[k] - x1[k]) / l1
        found += h * slope
        if since >= 3.0:
            found += h * (h + l1) * (slope - (x1[k] - x2[k]) / l2) / (l1 + l2)
    return float(found)


_ATTEMPT = types.Tuple((types.int64, types.Array(types.int32, 1, "C")))(
    CIRCUIT, WORK, FLOATS, INTEGERS, types.Array(types.int32, 1, "C")
)
call_attempt = caller(_ATTEMPT)


@reached(_ATTEMPT)
def attempt(
    circuit: Circuit, work: Work, past: Floats, roles: Integers, steps: Integers
) -> tuple[int, Integers]:  # fmt: skip
    """Solve for the point at past[AT], a step of past[STEP] from the last one. Returns (status, plan).

    The point, its charges and their rates are left in NEW_X, NEW_Q and NEW_D, the error in past[ERROR], Newton's last
    change in CHANGE. work.state holds what devices kept at the last point.
    """
    n, nnz = circuit.n, circuit.nnz
    rule = rule_of(past)
    a0 = _discretise(past, n, rule)
    source, memory = vector(past, n, SOURCE), vector(past, n, MEMORY)
    x, size = vector(past, n, NEW_X), vector(past, n, SIZE)
    new, right, change, knee = work.new, work.right, vector(past, n, CHANGE), vector(past, n, KNEE)
    fixed_g, fixed_c, base = entries(past, n, nnz, FIXED_G), entries(past, n, nnz, FIXED_C), entries(past, n, nnz, BASE)
    for e in range(nnz):
        base[e] = fixed_g[e] + a0 * fixed_c[e]
    work.options[TIME], work.options[CHARGES], work.options[MARCHING] = _instant(past), 1.0, 1.0
    fill(new, n + 1, 0.0)
    fill(work.f, n + 1, 0.0)
    load_of(circuit, work, roles, EACH_STEP, new)
    for k in range(n):
        source[k] = work.f[k] + memory[k]
    if past[INTERVAL] > 0.0:
        grain, next_grain = vector(past, n, GRAIN), vector(past, n, NEXT_GRAIN)
        share = 1.0 - (past[DUE] - past[AT]) / past[INTERVAL]
        for k in range(n):
            source[k] += grain[k] + share * (next_grain[k] - grain[k])
    _predict(past, n)
    if past[LEAPING] != 0.0:
        anchor = vector(past, n, ANCHOR)
        copy(anchor, x, n)
        for k in range(circuit.nodes):
            base[k] += past[PULL]
            source[k] -= past[PULL] * anchor[k]
    a = np.empty(steps[STORAGE])
    curvature = past[CURVATURE]
    largest, before, straight = 0.0, 0.0, True
    curved = roles[EACH_ITERATION] < roles[EACH_ITERATION + 1]
    # On the way of a leap only voltages have to settle: currents carry what draws the nodes.
    judged = circuit.nodes if past[PULL] > 0.0 else n
    for iteration in range(MOST_ITERATIONS if past[SINCE] > 0.0 else MOST_AFTER_A_JUMP):
        past[ITERATIONS] += 1.0
        clear(circuit, work)
        unsettled = load_of(circuit, work, roles, EACH_ITERATION, x)
        for k in range(n):
            right[k] = -source[k] - work.f[k] - a0 * work.q[k]
        for e in range(nnz):
            value = work.g[e] + a0 * work.c[e]
            if value != 0.0:
                right[circuit.rows[e]] += value * x[circuit.columns[e]]
            work.linear[e] = base[e] + value
        settled = False
        for turn in range(2):
            refill(work.linear, nnz, a)
            good = factor(steps, a)
            if good:
                copy(right, work.scratch, n)
                solve(steps, a, work.scratch, new)
                largest, bend, straight = 0.0, 0.0, True
                for k in range(n):
                    most = past[RELATIVE] * max(size[k], abs(new[k]))
                    if curved and circuit.volts[k] != 0:
                        most = min(most, JUNCTION * knee[k])
                        straight = straight and abs(new[k] - x[k]) <= STRAIGHT * knee[k]
                    most += floor_of(past, n, k, a0)
                    moved = abs(new[k] - x[k]) / most
                    if k < judged:
                        largest = max(largest, moved)
                        if iteration > 0 and moved > NEGLIGIBLE:
                            was = max(abs(change[k]) / most, 1.0)
                            bend = max(bend, moved / (was * was))
                    good = good and np.isfinite(new[k])
            if good:
                curvature = max(curvature, bend)
                settled = not curved or (
                    unsettled == 0
                    and straight
                    and largest <= SMALL
                    and (
                        min(curvature * largest, 1.0) * largest <= NEGLIGIBLE
                        or (iteration > 1 and 0.5 * before <= largest <= 1.0)
                    )
                )
                if iteration >= LATE and unsettled == 0 and not settled:
                    settled = error_of(circuit, work, x, right, change) < ROUNDED
                if settled:
                    good = is_solved(circuit, work, new, right, change)
                    if not good and turn == 1:
                        # Where no order of elimination is good enough, currents nearly cancel that another equation
                        # knows to rounding only.
                        refine(circuit, work, steps, a, new, change)
                        good = is_solved(circuit, work, new, right, change)
            if good or turn == 1:
                break
            past[PLANS] += 1.0
            other = order_for(circuit, work.linear)
            if other[0] < 0:
                mark_open(circuit, other, change)
                return SINGULAR, steps
            steps = other
            a = np.empty(steps[STORAGE])
        for k in range(n):
            change[k] = new[k] - x[k]
        if settled and good and curved:
            settled = not _strays(circuit, work, roles, new, past[RELATIVE])
        if settled and good:
            # It is not known better how Newton curves when it was not asked; what is known fades.
            past[CURVATURE] = min(max(FADING * curvature, LEAST_CURVATURE), 1.0)
            _charges(circuit, work, past, fixed_c, a0)
            past[ERROR] = _error(circuit, work, past, steps, a, a0, rule)
            if _is_extrapolated(past, rule):
                extrapolate(circuit, work, past, steps, a, a0)
            return SOLVED, steps
        if not good:
            break
        copy(new, x, n)
        before = largest
    past[CURVATURE] = 1.0
    return NOT_SOLVED, steps


@kernel
def _charges(circuit: Circuit, work: Work, past: Floats, fixed_c: Floats, a0: float) -> None:
    """Charges and rates that go with the linear equations just solved, so that not a coulomb is lost.

    All capacitances are left in work.c, and where they are.
    """
    n, new = circuit.n, work.new
    x, q, d, dynamic = vector(past, n, NEW_X), vector(past, n, NEW_Q), vector(past, n, NEW_D), vector(past, n, DYNAMIC)
    q0, q1, d0 = vector(past, n, Q), vector(past, n, Q1), vector(past, n, D)
    places = entries(past, n, circuit.nnz, PLACES)
    copy(work.q, q, n)
    count = 0
    for e in range(circuit.nnz):
        both = fixed_c[e] + work.c[e]
        if both != 0.0:
            column = circuit.columns[e]
            dynamic[column] = 1.0
            q[circuit.rows[e]] += fixed_c[e] * new[column] + work.c[e] * (new[column] - x[column])
            work.c[e] = both
            places[count] = e
            count += 1
    past[CAPACITANCES] = count
    rule, h, before = rule_of(past), past[STEP], past[LAST]
    for k in range(n):
        if rule == GEAR:
            d[k] = a0 * (q[k] - q0[k]) - h / (before * (h + before)) * (q0[k] - q1[k])
        else:
            d[k] = a0 * (q[k] - q0[k]) - (d0[k] if rule == TRAPEZOIDAL else 0.0)
    copy(new, x, n)
    x[n] = 0.0


@kernel
def _worst(past: Floats, n: int, effect: Floats, a0: float) -> float:
    """The largest of errors `effect` [n] in units of the tolerance, of the unknowns that charges depend on.

    More than one too where one of these has jumped.
    """
    x, x0, size, dynamic = vector(past, n, NEW_X), vector(past, n, X), vector(past, n, SIZE), vector(past, n, DYNAMIC)
    worst = 0.0
    for k in range(n):
        if dynamic[k] != 0.0:
            most = past[RELATIVE] * max(size[k], abs(x[k])) + floor_of(past, n, k, a0)
            unseen = abs(x[k] - _predicted(past, n, k)) * past[RELATIVE] / (UNSEEN * most)
            if past[SINCE] > 1.0 and unseen > 1.0:
                # More than rounding or an earlier error could excuse.
                worst = max(worst, STANDABLE * unseen)
            if abs(x[k]) > size[k] and x0[k] * x[k] > GROWN * x[k] * x[k]:
                most = max(most, past[RELATIVE] * GOING_ON * abs(x[k] - x0[k]))
            worst = max(worst, abs(effect[k]) / most)
    return worst


@kernel
def _note_rounding(circuit: Circuit, work: Work, past: Floats, steps: Integers, a: Floats, a0: float) -> None:
    """What the rounding of charges makes of the unknowns in a step, into work.f [n].

    A charge of the last digit is a current that grows as steps shrink; where inductors meet at a node, or windings
    are coupled perfectly, it makes currents of it that grow with the square.
    """
    n, x = circuit.n, vector(past, circuit.n, NEW_X)
    fill(work.q, n, 0.0)
    fill(work.f, n, 0.0)
    for e in range(circuit.nnz):
        work.q[circuit.rows[e]] += abs(work.c[e] * x[circuit.columns[e]])
    for pattern in range(2):
        # Not all of one sign: charges of coupled windings that agree make no current.
        for k in range(n):
            work.right[k] = a0 * ROUNDING * work.q[k] * (1.0 if (k >> pattern) % 2 == 0 else -1.0)
        solve(steps, a, work.right, work.scratch)
        for k in range(n):
            work.f[k] = max(work.f[k], abs(work.scratch[k]))


@kernel
def _error(
    circuit: Circuit, work: Work, past: Floats, steps: Integers, a: Floats, a0: float, rule: int
) -> float:  # fmt: skip
    """The step's error in units of the tolerance; 0 right after a restart, when nothing is known of it."""
    n, since, h, before = circuit.n, past[SINCE], past[STEP], past[LAST]
    if since == 0.0:
        return 0.0
    d, d0, d1, effect = vector(past, n, NEW_D), vector(past, n, D), vector(past, n, D1), work.new
    rate_error = vector(past, n, RATE_ERROR)
    if since == 1.0:
        for k in range(n):
            rate_error[k] = a0 * 0.5 * h * (d[k] - d0[k])
    else:
        factor_ = h * h * h / 6.0
        if rule == GEAR:
            factor_ = h * h * (h + before) * (h + before) / (3.0 * (2.0 * h + before))
        factor_ *= a0 / (h + before)
        for k in range(n):
            rate_error[k] = factor_ * ((d[k] - d0[k]) / h - (d0[k] - d1[k]) / before)
    copy(rate_error, work.right, n)
    solve(steps, a, work.right, effect)
    relative = past[RELATIVE]
    worst = _worst(past, n, effect, a0)
    if 1.0 < worst <= STANDABLE:
        _note_rounding(circuit, work, past, steps, a, a0)
        for k in range(n):
            if abs(effect[k]) <= work.f[k]:
                effect[k] = 0.0
        worst = _worst(past, n, effect, a0)
        # What is left is rounding too, in part: none of it is known well enough to be taken away.
        fill(effect, n, 0.0)
        fill(rate_error, n, 0.0)
    if since == 1.0:
        # Of one difference only the error of implicit Euler is known; an exponential's h²/2 makes h³/12 of this.
        worst = (2.0 * worst * relative) ** 1.5 / (12.0 * relative)
    return worst
