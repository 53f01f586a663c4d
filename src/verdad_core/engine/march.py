"""A transient, step by step: how long steps are, where they have to end, and what happens at corners and decisions.

After a corner of a waveform, an arrival on a line, or a decision that turned, the rates before are worth nothing but
charges go on. So integration starts again with one short step of implicit Euler, which finds the new rates, and goes on
at once at the length that the error allows; the points and the step length from before stay known.
"""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats, Integers, Packed
from verdad_core.devices.base import (
    CHARGES,
    CONDITIONS,
    GMIN,
    HEAD,
    MARCHING,
    TIME,
    call_ahead,
    call_knees,
)
from verdad_core.devices.waveforms import SAME
from verdad_core.devices.waves import WAVE
from verdad_core.engine.attempt import NOT_SOLVED, SINGULAR, SOLVED, call_attempt, load_of
from verdad_core.engine.circuit import Circuit, Work, bare, copy, fill, matrix_in, reset, workspace
from verdad_core.engine.decisions import first_turn, note_distances, turn, watch
from verdad_core.engine.grain import draw_noise
from verdad_core.engine.load import (
    AHEAD,
    ATTEMPT,
    KERNELS,
    KNEES,
    clear,
    load_all,
    update_devices,
)
from verdad_core.engine.on_lines import ARRIVALS, note_arrivals, recall, remember
from verdad_core.engine.ordering import first_plan, mark_open
from verdad_core.engine.past import (
    AMPERES,
    ANCHOR,
    AT,
    BEFORE,
    CHANGE,
    CORNER,
    CURVATURE,
    D1,
    DAMPING,
    DUE,
    ERROR,
    FAILED,
    FAILURES,
    FIXED_C,
    FIXED_G,
    FLOOR,
    FORCED,
    FROM,
    HEALTHY,
    INERTIA,
    INTERVAL,
    KNEE,
    LAST,
    LEAPING,
    LONGEST,
    NATURAL,
    NEW_D,
    NEW_FAR,
    NEW_Q,
    NEW_X,
    NOW,
    PULL,
    Q1,
    REFUSED,
    REFUSED_FOR,
    RELIEF,
    RESTARTS,
    RESTLESS,
    RINGING,
    SAME_INSTANT,
    SAMPLE,
    SEEN,
    SINCE,
    SIZE,
    STEP,
    STEPS,
    STOP,
    TRIES,
    VOLTS,
    X1,
    X2,
    D,
    Q,
    X,
    distances,
    entries,
    vector,
)
from verdad_core.engine.roles import EACH_STEP, ONCE
from verdad_core.engine.rows import MOST_LOADS, fill_row
from verdad_core.engine.step_length import (
    AGAIN,
    DAMPED_STEPS,
    FIRST,
    RELIEF_FADES,
    SETTLING,
    SHORT,
    choose,
    is_inherited,
    is_ringing,
    relieved,
    smallest,
)
from verdad_core.jit import at, entry, kernel, pointer

# Why a march came back.
DONE, FULL, LOOK, STUCK, NO_SOLUTION, CROWDED = range(6)

#: What kT/q is on a board, in V: no junction that was not drawn with straight lines has a sharper knee.
ORDINARY = 0.025

#: A step after which the next one is this much longer at most.
GROWTH = 8.0

#: What of the error's own proposal is taken.
CAUTION = 0.75


#: An event is located to this part of the step in which it was seen.
EVENT = 1e-3


#: Sizes that the relative tolerance refers to fade by this much a step.
FADING = 0.995


#: Attempts in a row that fail before integration starts again; decisions that may turn one after the other at one
#: instant; attempts to hit an event.
MOST_FAILURES, MOST_TURNS, MOST_TRIES = 6, 20, 12

#: The conductance that a leap begins with, the last one before none, and the one at which it gives up, in S.
FIRST_PULL, LAST_PULL, LARGEST_PULL = 1.0, 1e-13, 1e6
MOST_PULLS = 600


@entry
def begin(
    arrays: Packed, matrix_: Packed, row: int, memory: Floats, past_: Floats, roles_: Integers, x0: Floats,
    state: Floats, conditions: bool, waves_: Floats, width: int, arrivals: Floats, plus: Integers, minus: Integers,
    kept: Floats,
) -> tuple[int, Integers]:  # fmt: skip
    """Prepare a march from the unknowns x0 [n + 1] and what devices keep. Returns (status, plan).

    With `conditions`, charges are those that given initial conditions ask for, and the unknowns are made to agree.
    The first point goes into the first row of `kept`, as in `march`.
    """
    circuit, work, matrix = bare(arrays), workspace(arrays, memory), matrix_in(matrix_)
    past, roles = pointer(past_), pointer(roles_)
    delays = at(pointer(arrivals), ARRIVALS)
    waves, n, nnz, options = pointer(waves_), circuit.n, circuit.nnz, work.options
    x = vector(past, n, X)
    fill_row(matrix, row, work.parameters)
    update_devices(circuit, work)
    steps = first_plan(circuit, work, x)
    if steps[0] < 0:
        mark_open(circuit, steps, vector(past, n, CHANGE))
        return SINGULAR, steps
    copy(pointer(x0), x, n + 1)
    copy(pointer(state), work.state, work.states)
    reset(options)
    options[CHARGES], options[TIME], options[MARCHING] = 1.0, 0.0, 0.0
    zero = vector(past, n, NEW_X)
    clear(circuit, work)
    load_of(circuit, work, roles, ONCE, zero)
    load_of(circuit, work, roles, EACH_STEP, zero)
    for k in range(circuit.holding):
        work.g[circuit.held[k]] += options[GMIN]
    copy(work.g, entries(past, n, nnz, FIXED_G), nnz)
    copy(work.c, entries(past, n, nnz, FIXED_C), nnz)
    options[CONDITIONS] = 1.0 if conditions else 0.0
    for _ in range(MOST_LOADS):
        if load_all(circuit, work, x) == 0:
            break
    options[CONDITIONS] = 0.0
    copy(work.q, vector(past, n, Q), n)
    inertia, floor = vector(past, n, INERTIA), vector(past, n, FLOOR)
    for k in range(n):
        floor[k] = past[VOLTS] if circuit.volts[k] != 0 else past[AMPERES]
    for e in range(circuit.nodes, nnz):
        if circuit.rows[e] == circuit.columns[e] and circuit.volts[circuit.rows[e]] == 0:
            inertia[circuit.rows[e]] = abs(work.c[e])
    _note_knees(circuit, work, past)
    copy(work.state, work.good_state, work.states)
    past[CURVATURE] = past[RELIEF] = 1.0
    remember(circuit, work, past, waves, 0, width, True, delays)
    step, agreed = past[NATURAL] * SHORT * SHORT, False
    for _ in range(MOST_TURNS if conditions else 0):
        past[SINCE], past[AT], past[STEP] = 0.0, 0.0, step
        recall(circuit, work, past, waves, 1, width)
        code = circuit.code[KERNELS * circuit.families + ATTEMPT]
        copy(work.good_state, work.state, work.states)
        status, steps = call_attempt(code, circuit, work, past, roles, steps)
        if status != SOLVED and step < SHORT * past[NATURAL]:
            # The shorter the step, the more a node that hardly anything holds hangs in the air.
            step *= 10.0
            continue
        if status != SOLVED:
            status, steps = _leap(circuit, work, past, roles, steps)
        if status != SOLVED:
            return status, steps
        if not watch(circuit, work, zero, distances(past, n, nnz, work.states, NEW_FAR), False):
            copy(zero, x, n)
            copy(vector(past, n, NEW_D), vector(past, n, D), n)
            agreed = True
            break
        turn(circuit, work, past, zero)
    remember(circuit, work, past, waves, 0, width, True, delays)
    size = vector(past, n, SIZE)
    for k in range(n):
        size[k] = abs(x[k])
    past[HEALTHY] = past[NATURAL]
    note_distances(circuit, work, past, False)
    kept[0, 0] = 0.0
    _outputs(x, plus, minus, kept, 0)
    # Rates are known where the unknowns were made to agree; where nodes were held until now, they jump.
    past[SINCE], past[DAMPING] = (1.0 if agreed else 0.0), SETTLING
    return SOLVED, steps


@kernel
def _note_knees(circuit: Circuit, work: Work, past: Floats) -> None:
    """The volts within which currents at each unknown may change by a factor e."""
    knee = vector(past, circuit.n, KNEE)
    fill(knee, circuit.n + 1, ORDINARY)
    for k in range(circuit.families):
        code = circuit.code[KERNELS * k + KNEES]
        if code != 0:
            call_knees(code, at(circuit.heads, HEAD * k), circuit.table, work.derived, knee)


@kernel
def _look_ahead(circuit: Circuit, work: Work, past: Floats, roles: Integers, arrivals: Floats) -> None:
    """The next corner and the longest step from the last accepted point on."""
    now = past[NOW]
    past[CORNER], past[LONGEST] = np.inf, np.inf
    for j in range(roles[EACH_STEP], roles[EACH_STEP + 1]):
        code, head = circuit.code[KERNELS * roles[j] + AHEAD], at(circuit.heads, HEAD * roles[j])
        call_ahead(code, head, circuit.table, work.derived, now, at(past, CORNER))
    if past[INTERVAL] > 0.0:
        past[CORNER] = min(past[CORNER], past[DUE])
    for k in range(ARRIVALS if circuit.waves > 0 else 0):
        if arrivals[k] > now + SAME * now:
            past[CORNER] = min(past[CORNER], arrivals[k])
        else:
            arrivals[k] = np.inf


@kernel
def _leap(
    circuit: Circuit, work: Work, past: Floats, roles: Integers, steps: Integers
) -> tuple[int, Integers]:  # fmt: skip
    """Try this step where no solution is near the last point: every node is drawn to it, then let go by degrees.

    This is what capacitances at the nodes would do within no time (pseudo-transient continuation, engine/newton.py).
    """
    n, anchor = circuit.n, vector(past, circuit.n, ANCHOR)
    code = circuit.code[KERNELS * circuit.families + ATTEMPT]
    copy(vector(past, n, X), anchor, n)
    past[LEAPING], past[PULL], status = 1.0, FIRST_PULL, NOT_SOLVED
    for _ in range(MOST_PULLS):
        copy(work.good_state, work.state, work.states)
        status, steps = call_attempt(code, circuit, work, past, roles, steps)
        if status == SOLVED:
            copy(vector(past, n, NEW_X), anchor, n)
            if past[PULL] == 0.0:
                break
            past[PULL] = past[PULL] * 0.5 if past[PULL] > LAST_PULL else 0.0
        else:
            past[PULL] = 1e3 * LAST_PULL if past[PULL] == 0.0 else past[PULL] * 8.0
            if past[PULL] > LARGEST_PULL:
                break
    past[LEAPING], past[PULL] = 0.0, 0.0
    return status, steps


@kernel
def _accept(circuit: Circuit, work: Work, past: Floats) -> None:
    """What was tried becomes the last accepted point."""
    n = circuit.n
    copy(vector(past, n, X1), vector(past, n, X2), n)
    copy(vector(past, n, X), vector(past, n, X1), n)
    copy(vector(past, n, NEW_X), vector(past, n, X), n)
    copy(vector(past, n, Q), vector(past, n, Q1), n)
    copy(vector(past, n, NEW_Q), vector(past, n, Q), n)
    copy(vector(past, n, D), vector(past, n, D1), n)
    copy(vector(past, n, NEW_D), vector(past, n, D), n)
    x, size = vector(past, n, X), vector(past, n, SIZE)
    for k in range(n):
        size[k] = max(FADING * size[k], abs(x[k]))
    past[BEFORE], past[LAST], past[NOW] = past[LAST], past[STEP], past[AT]
    past[STEPS] += 1.0
    past[SINCE] += 1.0
    copy(work.state, work.good_state, work.states)


@entry
def march(
    arrays: Packed, memory: Floats, past_: Floats, roles_: Integers, steps: Integers, waves_: Floats, rows: int,
    width: int, arrivals_: Floats, kept: Floats, times: Floats, plus: Integers, minus: Integers, most: int,
    noise: Floats,
) -> tuple[int, Integers, int, int]:  # fmt: skip
    """Go on to past[STOP], for `most` attempts at most.

    Returns (why it came back, plan, points kept, rows of waves). Points go into `kept` [points, 1 + outputs], each
    with its time; with `times`, the points are those, read from the parabola through the last three steps. Where
    `kept` has room for it, what past[SINCE] was and the states of the step follow in each row. `noise` is what
    engine/grain.py keeps, where past[INTERVAL] asks for devices' noise.
    """
    circuit, work = bare(arrays), workspace(arrays, memory)
    past, roles, waves, arrivals = pointer(past_), pointer(roles_), pointer(waves_), pointer(arrivals_)
    n, code = circuit.n, circuit.code[KERNELS * circuit.families + ATTEMPT]
    new_far = distances(past, n, circuit.nnz, work.states, NEW_FAR)
    saved = 0
    capacity = len(waves_) // width
    for _ in range(most):
        if past[NOW] >= past[STOP]:
            return DONE, steps, saved, rows
        if (len(times) == 0 and saved == len(kept)) or rows == capacity:
            return (CROWDED if rows == capacity else FULL), steps, saved, rows
        if past[INTERVAL] > 0.0 and past[NOW] >= past[DUE]:
            draw_noise(circuit, work, past, noise)
        _look_ahead(circuit, work, past, roles, arrivals)
        choose(past)
        since, step = past[SINCE], past[STEP]
        if width > WAVE:
            recall(circuit, work, past, waves, rows, width)
        copy(work.good_state, work.state, work.states)
        status, steps = call_attempt(code, circuit, work, past, roles, steps)
        if status != SOLVED:
            past[FAILED] += 1.0
            past[FAILURES], past[FORCED], past[REFUSED_FOR] = past[FAILURES] + 1.0, 0.0, 0.0
            past[NATURAL] = 0.125 * (past[NATURAL] if since == 0.0 else step)
            if relieved(past):
                continue
            if since > 0.0 and (past[FAILURES] > MOST_FAILURES or step <= 2.0 * smallest(past)):
                past[SINCE] = 0.0
            if since > 0.0 or (past[FAILURES] <= 2 * MOST_FAILURES and step > 2.0 * smallest(past)):
                continue
            past[NATURAL] = past[HEALTHY]
            choose(past)
            step = past[STEP]
            if width > WAVE:
                recall(circuit, work, past, waves, rows, width)
            status, steps = _leap(circuit, work, past, roles, steps)
            if status != SOLVED:
                return (NO_SOLUTION if status == SINGULAR else STUCK), steps, saved, rows
        settles = (since == 1.0 and step <= AGAIN * past[LAST]) or is_inherited(past)
        if past[ERROR] > 1.0 and step > 2.0 * smallest(past) and not settles:
            past[REFUSED_FOR] = past[ERROR]
            past[REFUSED] += 1.0
            past[FAILURES], past[FORCED] = past[FAILURES] + 1.0, 0.0
            past[NATURAL] = step * max(0.1, CAUTION / np.cbrt(past[ERROR]))
            if since == 1.0:
                past[NATURAL] /= FIRST
            if not relieved(past) and past[FAILURES] > MOST_FAILURES:
                past[SINCE] = 0.0
            continue
        turned = watch(circuit, work, vector(past, n, NEW_X), new_far, False)
        if turned and since == 0.0 and past[SAME_INSTANT] < MOST_TURNS:
            turn(circuit, work, past, vector(past, n, NEW_X))
            past[SAME_INSTANT] += 1.0
            continue
        if turned and since == 0.0:
            # Each answer undoes itself at once, with no charge in between: time has to go on with one of them.
            past[RESTLESS], turned = 1.0, False
        if turned:
            part, beyond = first_turn(circuit, work, past)
            past[SEEN] = step if past[SEEN] == 0.0 else past[SEEN]
            enough = beyond >= 1.0 or (1.0 - part) * step <= EVENT * past[SEEN]
            if not enough and past[TRIES] < MOST_TRIES and step > 4.0 * smallest(past):
                past[FORCED] = beyond * step + 0.5 * EVENT * past[SEEN]
                past[TRIES] += 1.0
                continue
        rings = is_ringing(circuit, work, past)
        if past[DAMPING] > 0.0:
            past[DAMPING] -= 1.0
        elif rings:
            past[DAMPING] = DAMPED_STEPS
            past[RINGING] += 1.0
        if len(times) == 0:
            if past[AT] >= past[FROM]:
                kept[saved, 0] = past[AT]
                _outputs(vector(past, n, NEW_X), plus, minus, kept, saved)
                if kept.shape[1] > 1 + len(plus):
                    kept[saved, 1 + len(plus)] = since
                    for k in range(work.states):
                        kept[saved, 2 + len(plus) + k] = work.state[k]
                saved += 1
        else:
            saved = _sample(past, n, times, plus, minus, kept)
        truncated = past[FORCED] > 0.0 or past[AT] == past[CORNER] or step < 0.5 * past[NATURAL]
        if since > 0.0:
            past[RESTLESS] = 0.0
            growth = GROWTH / FIRST if since == 1.0 else GROWTH
            longer = step * min(growth, CAUTION / np.cbrt(max(past[ERROR], 1e-9)))
            longer = max(longer, step) if settles else longer
            past[NATURAL] = max(longer, past[NATURAL]) if truncated and since > 1.0 else longer
        past[FAILURES], past[SAME_INSTANT], past[TRIES], past[FORCED] = 0.0, 0.0, 0.0, 0.0
        past[REFUSED_FOR], past[RELIEF] = 0.0, max(RELIEF_FADES * past[RELIEF], 1.0)
        past[HEALTHY] = past[NATURAL]
        corner = past[AT] == past[CORNER]
        _accept(circuit, work, past)
        if turned:
            turn(circuit, work, past, vector(past, n, X))
        if turned or corner:
            past[SINCE] = 0.0
            past[DAMPING] = max(past[DAMPING], SETTLING)
            past[RESTARTS] += 1.0
        past[SEEN] = 0.0
        note_distances(circuit, work, past, not turned)
        if width > WAVE:
            remember(circuit, work, past, waves, rows, width, turned or corner, at(arrivals, ARRIVALS))
            rows += 1
            if since == 0.0:
                note_arrivals(past, waves, rows, width, arrivals)
    return LOOK, steps, saved, rows


@kernel
def _outputs(x: Floats, plus: Integers, minus: Integers, kept: Floats, row: int) -> None:
    """The differences that are asked for, into a row that begins with the time."""
    for k in range(len(plus)):
        kept[row, 1 + k] = x[plus[k]] - x[minus[k]]


@kernel
def _sample(past: Floats, n: int, times: Floats, plus: Integers, minus: Integers, kept: Floats) -> int:
    """Points at the times that are asked for, up to the point that was just found. Returns how many there are now."""
    sample = int(past[SAMPLE])
    x, x1, new = vector(past, n, X), vector(past, n, X1), vector(past, n, NEW_X)
    now, h, before, curved = past[NOW], past[STEP], past[LAST], past[SINCE] >= 2.0
    while sample < len(times) and times[sample] <= past[AT]:
        u = times[sample] - now
        kept[sample, 0] = times[sample]
        for k in range(len(plus)):
            last, this = x[plus[k]] - x[minus[k]], new[plus[k]] - new[minus[k]]
            slope = (this - last) / h
            value = last + u * slope
            if curved:
                slope_before = (last - x1[plus[k]] + x1[minus[k]]) / before
                value += u * (u - h) * (slope - slope_before) / (h + before)
            kept[sample, 1 + k] = value
        sample += 1
    past[SAMPLE] = sample
    return sample
