"""What delay lines hand on along a period, linearised: waves of a moment ago, and shifts of the corners among them.

A line delays whatever is small along with all else (Branin 1967, see devices/line.py), so what arrives at an instant
is read from the small signal itself, in this period or in the one before. Where a decision turned earlier or later,
what it sent into a line arrives earlier or later by as much.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.periodic import SteadyState
from verdad_core.arrays import Floats, Integers
from verdad_core.errors import CircuitError, Place

#: Instants this near to each other, in periods, are one.
SAME = 1e-9


@dataclass(frozen=True)
class Line:
    """One end's wave: `enters` [n] makes it of the unknowns, and it arrives in equation `into` after `delay` (s)."""

    enters: Floats
    into: int
    delay: float


@dataclass(frozen=True)
class Arrival:
    """What arrives at a step: waves at steps `own` of this period and `before` of the last one, with their shares."""

    own: tuple[tuple[int, float], ...]
    before: tuple[tuple[int, float], ...]


def lines_of(steady: SteadyState) -> list[Line]:
    """Both waves of every line. Raises CircuitError for one that delays by more than the period."""
    structure, matrix = steady.structure, steady.matrix
    values = matrix.nominal.copy()
    values[matrix.columns] = matrix.values[steady.row]
    found = []
    for element in structure.elements:
        if element.family != "line":
            continue
        z0, delay = (float(values[structure.column(element.name, name)]) for name in ("z0", "td"))
        if delay > steady.period:
            raise CircuitError(
                f"{element.name} delays by {delay:.3g} s, longer than the period of {steady.period:.3g} s: what the "
                "last period but one did is not linearised",
                place=Place(line=element.line, part=element.name),
                remedy="Measure it in a transient, or give a shorter line.",
            )
        a, a_ref, b, b_ref = (structure.index(node) for node in element.nodes)
        into_a, into_b = (structure.index(f"{element.name}:{port}") for port in ("port1", "port2"))
        for plus, minus, current, other in ((a, a_ref, into_a, into_b), (b, b_ref, into_b, into_a)):
            wave = np.zeros(structure.size + 1)
            wave[plus] += 1.0
            wave[minus] -= 1.0
            wave[current] += z0
            found.append(Line(wave[:-1], other, delay))
    return found


def arrivals(line: Line, time: Floats, corners: Integers, period: float) -> list[Arrival]:
    """By step from the second one on, what arrives; read as the transient reads it (devices/waves.py).

    The first of the times is the end of the period before; `corners` are the steps at which a rate may jump.
    """
    last = len(time) - 1
    # Two periods, each from its second instant on: the first one is the end of the period before.
    both = np.concatenate([time[1:] - period, time[1:]])
    corner = np.zeros(2 * last, bool)
    for k in corners:
        corner[[k - 1, last + k - 1]] = True
    found = []
    for t in time[1:]:
        then = t - line.delay
        r = int(np.searchsorted(both, then, "right")) - 1
        if abs(both[r + 1 if r + 1 < len(both) else r] - then) < SAME * period:
            r = min(r + 1, len(both) - 1)
        shares = _shares(both, corner, r, then, SAME * period)
        found.append(
            Arrival(
                tuple((e - last + 1, share) for e, share in shares if e >= last),
                tuple((e + 1, share) for e, share in shares if e < last),
            )
        )
    return found


def _shares(time: Floats, corner: np.ndarray, r: int, then: float, same: float) -> list[tuple[int, float]]:
    """A wave between `r` and the next instant: along a parabola on one side of corners, or a straight line."""
    if r < 0:
        return [(0, 1.0)]
    if then - time[r] < same or r + 1 == len(time):
        return [(r, 1.0)]
    after = time[r + 1] - time[r]
    u = (then - time[r]) / after
    if r == 0 or corner[r] or corner[r - 1]:
        return [(r, 1.0 - u), (r + 1, u)]
    back = (time[r] - time[r - 1]) / after
    return [
        (r - 1, u * (u - 1.0) / (back * (1.0 + back))),
        (r, (u + back) * (1.0 - u) / back),
        (r + 1, u * (u + back) / (1.0 + back)),
    ]


def origins(lines: list[Line], time: Floats, corners: Integers, turned: set[int], period: float) -> dict[int, int]:
    """For each corner that is the arrival of another corner which may shift, the step of that one.

    `turned` are the corners at which a decision turned; a step after its origin is of this period, one before it of the
    next.
    """
    found: dict[int, int] = {}
    shifting = set(turned)
    instants = {int(k): float(time[k]) for k in corners}
    while True:
        new = {}
        for k, t in instants.items():
            if k in shifting:
                continue
            for line in lines:
                gone = {m: (t - line.delay - instants[m] + 0.5 * period) % period - 0.5 * period for m in shifting}
                near = min(gone, key=lambda m: abs(gone[m]), default=None)
                if near is not None and line.delay > 0.0 and abs(gone[near]) < SAME * period:
                    new[k] = near
                    break
        if not new:
            return found
        found |= new
        shifting |= new.keys()
