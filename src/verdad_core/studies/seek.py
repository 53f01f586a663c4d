"""Where along a quantity a measurement reaches a limit, and the preferred value that keeps it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.handcalc.series import SERIES
from verdad_core.studies.kind import Places

#: The series that a value is taken from, and the units of what is bought in series.
_SERIES, _BOUGHT = "E24", ("Ω", "F", "H")


@dataclass(frozen=True)
class Reached:
    """The quantity's value at which a bound is met, the side of it on which the bound holds, and the nearest value of
    E24 on that side; None for what is not bought in series.
    """

    bound: float
    at: float
    holds: Literal["above", "below"]
    preferred: float | None


def reached(places: Places, values: Floats, lower: float | None, upper: float | None) -> list[Reached]:
    """Every place at which [rows] values pass a bound, between neighbours that have numbers, by a straight line.

    Along the logarithm of the quantity where its values stand at equal ratios.
    """
    order = np.argsort(places.values, kind="stable")
    x, y = places.values[order], values[order]
    along = np.log(np.abs(x)) if places.logarithmic else x
    found = []
    for bound, sign in ((lower, 1.0), (upper, -1.0)):
        if bound is None:
            continue
        room = sign * (y - bound)
        for k in np.flatnonzero((room[1:] >= 0.0) != (room[:-1] >= 0.0)):
            if not (math.isfinite(y[k]) and math.isfinite(y[k + 1])):
                continue
            place = float(along[k] + (along[k + 1] - along[k]) * room[k] / (room[k] - room[k + 1]))
            at = math.copysign(math.exp(place), x[k]) if places.logarithmic else place
            holds: Literal["above", "below"] = "above" if room[k + 1] >= 0.0 else "below"
            preferred = _preferred(at, holds) if places.unit in _BOUGHT and at > 0.0 else None
            found.append(Reached(bound, at, holds, preferred))
    return found


def _preferred(at: float, holds: Literal["above", "below"]) -> float:
    decade = math.floor(math.log10(at))
    values = [float(f"{value:g}e{power}") for power in (decade - 1, decade, decade + 1) for value in SERIES[_SERIES]]
    # What is a value of the series itself, but for rounding, is that value.
    near = 1e-9 * at
    return min(v for v in values if v >= at - near) if holds == "above" else max(v for v in values if v <= at + near)
