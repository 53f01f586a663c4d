"""How inductors of a switched circuit carry their current: continuously, with rests, or reversing."""

from __future__ import annotations

import numpy as np

from verdad_core.analyses.periodic import SteadyState
from verdad_core.arrays import Floats
from verdad_core.document.board import Circuit
from verdad_core.errors import Finding, Severity
from verdad_core.units import format_span, format_value

#: A current rests where it is below this part of its peak, for more than this part of the period.
_NONE, _LONG = 0.01, 0.02
#: A current that flows one way on average by less than this part of its peak is an alternating one.
_ONE_WAY = 0.05


def conduction(circuit: Circuit, found: SteadyState) -> list[Finding]:
    """A note for each inductor of the circuit that carries a direct current and a ripple.

    In continuous conduction the ripple does not follow the load, so that it rests or reverses below half the ripple on
    average (Erickson and Maksimovic, Fundamentals of Power Electronics, chapter 5).
    """
    notes = []
    for part in circuit.parts:
        branch = f"i({part.designator})"
        if part.kind != "inductor" or branch not in found.structure.index_of:
            continue
        current, mean = found.value(branch), found.mean(branch)
        peak, ripple = float(np.max(np.abs(current))), float(np.ptp(current))
        if abs(mean) > _ONE_WAY * peak and ripple > _NONE * peak:
            words = _mode(found, current if mean > 0.0 else -current, peak, ripple)
            notes.append(Finding(Severity.NOTE, f"{part.designator} {words}"))
    return notes


def _mode(found: SteadyState, current: Floats, peak: float, ripple: float) -> str:
    low, high = float(np.min(current)), float(np.max(current))
    resting = np.abs(current) < _NONE * peak
    steps = np.diff(found.time)
    rests = float(np.sum(steps[resting[1:] & resting[:-1]])) / (found.time[-1] - found.time[0])
    if rests > _LONG:
        top = format_value(high, "A", 3)
        return f"conducts discontinuously, up to {top}: it rests for {100 * rests:.0f} % of the period"
    between = format_span(low, high, "A")
    border = f"{format_value(0.5 * ripple, 'A', 3)} on average"
    if low < -_NONE * peak:
        return f"reverses, {between}: it would flow one way above {border}"
    return f"conducts continuously, {between}: down to {border}"
