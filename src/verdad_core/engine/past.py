"""What a transient carries from step to step, in one array: numbers, then vectors of unknowns, then of the matrix."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.jit import at, kernel

# Times: of the last accepted point, of the one that is tried, its step, the two accepted steps before it, the step that
# the error asks for, the next corner, the longest step that waveforms and the caller allow, the end, and from when on
# points are kept.
(NOW, AT, STEP, LAST, BEFORE, NATURAL, CORNER, LONGEST, CALLER_LONGEST, STOP, FROM) = range(11)
# Tolerances: relative, volts; amperes follow below. The rule that is asked for; steps still to be damped; accepted
# points since the last restart; how strongly Newton's steps have curved; the error of the last attempt in units of its
# tolerance; the step in which an event was first seen; the next of the times that are asked for.
(RELATIVE, VOLTS, RULE, DAMPING, SINCE, CURVATURE, ERROR, SEEN, SAMPLE) = range(11, 20)
# What has been counted.
(STEPS, ITERATIONS, REFUSED, FAILED, TURNED, RINGING, RESTARTS, PLANS, RELIEFS) = range(20, 29)
# While leaping over a gap between solutions: 1, and the conductance from every node to ANCHOR.
LEAPING, PULL = 29, 30
# Devices' noise in time: the interval between drawn values (0: no noise), where the next one is due, the seed, and how
# many have been drawn.
INTERVAL, DUE, SEED, DRAWN = range(31, 35)
# On the way to the next accepted point: attempts that failed in a row, decisions that turned at this instant, attempts
# to hit an event and the step of the next one, and what was natural at the last accepted point.
FAILURES, SAME_INSTANT, TRIES, FORCED, HEALTHY = range(35, 40)
# Whether decisions found no rest at the last point, and are left as they are for one step; the error that the last
# attempt was refused for; how many times the floors of all errors are taken; the tolerance in amperes;
# at how many positions there are capacitances.
RESTLESS, REFUSED_FOR, RELIEF, AMPERES, CAPACITANCES = range(40, 45)
NUMBERS = 45

# Vectors of n + 1: the unknowns at the last accepted points (newest first), charges, their rates, what is tried, the
# sizes that the relative tolerance refers to, what the rule remembers of the past, the sources, Newton's last change,
# whether an unknown is one that charges depend on, how the unknowns bend, how often that has changed sign, where a
# leap has come to, the noise currents at the last drawing and at the one that is due, what every unknown may err at
# least, the inductances that currents have for themselves, by what the last step's rates err, and the volts within
# which a junction's current at the unknown changes by a factor e.
(
    X,
    X1,
    X2,
    Q,
    Q1,
    D,
    D1,
    NEW_X,
    NEW_Q,
    NEW_D,
    SIZE,
    MEMORY,
    SOURCE,
    CHANGE,
    DYNAMIC,
    BEND,
    SWINGS,
    ANCHOR,
    GRAIN,
    NEXT_GRAIN,
    FLOOR,
    INERTIA,
    RATE_ERROR,
    KNEE,
) = range(24)
VECTORS = 24

# Vectors of nnz + 1, after those: the matrices of the families that are loaded once, their sum for this step, and at
# which positions there are capacitances.
FIXED_G, FIXED_C, BASE, PLACES = range(4)
MATRICES = 4

# Vectors of the states, after those: how far decisions were from turning at the last accepted point, and are now; the
# farthest since they last turned, and ever.
FAR, NEW_FAR, PEAK, TOP = range(4)
DISTANCES = 4

#: The rules that can be asked for, and implicit Euler.
EXTRAPOLATED, TRAPEZOIDAL, GEAR, EULER = range(4)


def past_room(n: int, nnz: int, states: int) -> Floats:
    """The array itself, for so many unknowns, positions of the Jacobian, and states."""
    return np.zeros(NUMBERS + VECTORS * (n + 1) + MATRICES * (nnz + 1) + DISTANCES * states)


@kernel
def vector(past: Floats, n: int, which: int) -> Floats:
    """One of the vectors of n + 1."""
    return at(past, NUMBERS + which * (n + 1))  # type: ignore[no-any-return]


@kernel
def entries(past: Floats, n: int, nnz: int, which: int) -> Floats:
    """One of the vectors of nnz + 1."""
    return at(past, NUMBERS + VECTORS * (n + 1) + which * (nnz + 1))  # type: ignore[no-any-return]


@kernel
def distances(past: Floats, n: int, nnz: int, states: int, which: int) -> Floats:
    """One of the vectors of the states."""
    return at(past, NUMBERS + VECTORS * (n + 1) + MATRICES * (nnz + 1) + which * states)  # type: ignore[no-any-return]
