"""How long a step is tried, and what is made of steps that shrink or ring."""

from __future__ import annotations

from verdad_core.arrays import Floats
from verdad_core.devices.waveforms import SAME
from verdad_core.engine.circuit import Circuit, Work
from verdad_core.engine.past import (
    AT,
    BEND,
    CALLER_LONGEST,
    CORNER,
    DAMPING,
    ERROR,
    FAILURES,
    FLOOR,
    FORCED,
    LAST,
    LONGEST,
    NATURAL,
    NEW_X,
    NOW,
    REFUSED_FOR,
    RELATIVE,
    RELIEF,
    RELIEFS,
    SINCE,
    SIZE,
    STEP,
    STOP,
    SWINGS,
    X1,
    X,
    vector,
)
from verdad_core.jit import kernel

#: The short step after a corner, relative to the step that was natural before it.
SHORT = 1e-4

#: A short step need not be shorter than this, in s, nor than this part of the natural one.
PLAIN, PART = 1e-12, 1e-2

#: Steps after a corner by Gear's rule, the short one and the first one counted. The trapezoidal rule would carry on for
#: ever what the short step got wrong of voltages that are rates of impressed currents.
SETTLING = 4.0

#: Bends that change sign this often in a row, each time by more than this many tolerances, are the rule's own ringing.
RINGING_SWINGS, RINGING_SIZE, DAMPED_STEPS = 4.0, 3.0, 8.0

#: A node whose capacitance is below this part of what its conductance would charge in the step cannot swing by itself:
#: there it is the rule's ringing at so many tolerances already, and keeps steps short that could be long.
STIFF, STIFF_RINGING_SIZE = 0.1, 0.03

#: The shortest step, relative to the time: four instants that waveforms can tell apart.
RESOLUTION = 4.0 * SAME

#: Nothing on a board happens faster than this, in s.
FASTEST = 1e-15

#: The first step after the short one, relative to what was natural before the corner.
FIRST = 0.1

#: A step after the short one that is no longer than this many of it is accepted: what is known then of its error, one
#: difference of rates, calls for ever shorter steps where a current begins at zero.
AGAIN = 4.0

#: An error below so many tolerances, of which shorter steps leave at least this part, is not the step's own: the last
#: point's voltages were wrong by that much where they are rates of impressed currents.
INHERITED, STAYS = 10.0, 0.5

#: Where steps have shrunk to this many of the shortest, integration starts again with steps of so many seconds, errors
#: being taken as so much smaller, and less so with each point: it is rounding that they show.
CREEPING, RESUMED, RELIEVED, RELIEF_FADES = 10.0, 1e-11, 1e4, 0.2


@kernel
def smallest(past: Floats) -> float:
    """The shortest step: time can be told by it, and charges divided by it leave digits for currents."""
    return float(max(RESOLUTION * past[NOW], min(FASTEST, 1e-6 * past[STOP])))


@kernel
def choose(past: Floats) -> None:
    """The step to try and where it leads. The last steps before a corner are made even."""
    end = min(past[CORNER], past[STOP])
    gap = end - past[NOW]
    limit = min(past[LONGEST], past[CALLER_LONGEST])
    step = min(past[NATURAL], limit)
    forced = past[FORCED]
    if forced > 0.0:
        step = forced
    elif past[SINCE] == 0.0:
        # Charges' rounding, divided by the step, must not drown the rates that it is there to find.
        natural = min(step, gap)
        step = max(SHORT * natural, min(PLAIN, PART * natural))
    elif past[SINCE] == 1.0:
        step = max(FIRST * min(step, gap), 0.5 * AGAIN * past[LAST])
    step = max(step, smallest(past))
    if step >= gap or (step >= 0.9 * gap and gap <= limit):
        past[STEP], past[AT] = gap, end
    else:
        past[STEP] = 0.5 * gap if forced == 0.0 and step > 0.5 * gap else step
        past[AT] = past[NOW] + past[STEP]
        past[STEP] = past[AT] - past[NOW]


@kernel
def relieved(past: Floats) -> bool:
    """Whether steps have shrunk to nothing, once since errors were taken as they are; then integration starts again."""
    if past[NATURAL] > CREEPING * smallest(past) or past[RELIEF] > 1.0:
        return False
    past[RELIEF], past[NATURAL] = RELIEVED, min(RESUMED, past[CALLER_LONGEST])
    past[RELIEFS] += 1.0
    past[SINCE], past[DAMPING], past[FAILURES], past[REFUSED_FOR] = 0.0, SETTLING, 0.0, 0.0
    return True


@kernel
def is_inherited(past: Floats) -> bool:
    """Whether the error of this step is one that shorter steps have not got rid of."""
    before = past[REFUSED_FOR]
    return bool(past[FAILURES] >= 2.0 and before > 0.0 and STAYS * before < past[ERROR] <= INHERITED)


@kernel
def is_ringing(circuit: Circuit, work: Work, past: Floats) -> bool:
    """Whether any unknown has swung to and fro from step to step as only the trapezoidal rule makes it."""
    n, a0 = circuit.n, 2.0 / past[STEP]
    x, x1, new = vector(past, n, X), vector(past, n, X1), vector(past, n, NEW_X)
    bend, swings = vector(past, n, BEND), vector(past, n, SWINGS)
    size, floor = vector(past, n, SIZE), vector(past, n, FLOOR)
    found = False
    ratio = past[STEP] / past[LAST] if past[SINCE] >= 2.0 else 0.0
    for k in range(n):
        now = new[k] - x[k] - ratio * (x[k] - x1[k]) if ratio > 0.0 else 0.0
        # The first entries of the pattern are the nodes' diagonals.
        stiff = k < circuit.nodes and a0 * abs(work.c[k]) < STIFF * abs(work.linear[k])
        least = STIFF_RINGING_SIZE if stiff else RINGING_SIZE
        if abs(now) > least * (past[RELATIVE] * size[k] + floor[k]) and now * bend[k] < 0.0:
            swings[k] += 1.0
            found = found or swings[k] >= RINGING_SWINGS
        else:
            swings[k] = 0.0
        bend[k] = now
    return found
