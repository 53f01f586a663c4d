"""Measurements on a transfer curve: one quantity against another that is swept, there or there and back."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats, Integers
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import AtPlace, Entry, Window, of_axis, percent
from verdad_core.measure.trace import Trace
from verdad_core.measure.waveform import meaning
from verdad_core.units import parse_value


def slope(x: Floats, y: Floats, at: float) -> float:
    """The slope of the curve at a place, of a parabola through the three points around it; on the way there."""
    way = _there(x)
    x, y = x[way], y[way]
    if len(x) < 3 or not min(x[0], x[-1]) <= at <= max(x[0], x[-1]):
        raise MeasurementError(
            f"{at:g} lies outside the curve, which runs from {x[0]:g} to {x[-1]:g}", remedy="Move it."
        )
    k = min(max(int(np.argmin(np.abs(x - at))), 1), len(x) - 2)
    parabola = np.polyfit(x[k - 1 : k + 2] - at, y[k - 1 : k + 2], 2)
    return float(parabola[1])


def linearity_error(x: Floats, y: Floats) -> float:
    """The farthest that the curve lies from the straight line of least squares, by its whole swing."""
    swing = float(np.ptp(y))
    if len(x) < 3 or not swing:
        raise MeasurementError("the curve does not move, so there is no line", remedy="Sweep what it follows.")
    line = np.polyval(np.polyfit(x, y, 1), x)
    return 100.0 * float(np.max(np.abs(y - line))) / swing


def hysteresis(x: Floats, y: Floats) -> float:
    """How far apart the places lie where the curve passes the middle of its swing on the way there and back."""
    turn = len(_there(x)) - 1 if len(x) else 0
    if turn >= len(x) - 1:
        raise MeasurementError("the sweep does not come back", remedy="Sweep there and back.")
    level = 0.5 * float(np.max(y) + np.min(y))
    ways = [(x[: turn + 1], y[: turn + 1]), (x[turn:], y[turn:])]
    places = [_passes(own, values, level) for own, values in ways]
    return abs(places[1] - places[0])


def _there(x: Floats) -> Integers:
    """The indices of the points before the sweep turns back."""
    steps = np.sign(np.diff(x))
    turns = np.flatnonzero(steps * steps[0] < 0) if len(steps) else steps
    return np.asarray(np.arange(int(turns[0]) + 1 if len(turns) else len(x)), np.int32)


def _passes(x: Floats, y: Floats, level: float) -> float:
    above = y > level
    turns = np.flatnonzero(above[1:] != above[:-1])
    if not len(turns):
        raise MeasurementError("the curve does not pass the middle of its swing both ways", remedy="Sweep farther.")
    k = int(turns[0])
    return float(x[k] + (level - y[k]) * (x[k + 1] - x[k]) / (y[k + 1] - y[k]))


def _slope(trace: Trace, settings: AtPlace) -> float:
    if settings.place is None:
        raise MeasurementError("Slope needs a place", remedy="Give it one.")
    return slope(trace.along().values, trace.real(), parse_value(settings.place))


def _cut(trace: Trace, window: Window) -> tuple[Floats, Floats]:
    cut = window.cut(trace)
    return cut.along().values, cut.real()


_COMMON = "common practice, no source"

ENTRIES = (
    Entry("slope", "Slope", meaning(slope), "trace", _slope, lambda trace: trace.unit / trace.along().unit, AtPlace),
    Entry("linearity_error", "Linearity error", meaning(linearity_error), "trace",
          lambda trace, window: linearity_error(*_cut(trace, window)), percent, Window, _COMMON),
    Entry("hysteresis", "Hysteresis", meaning(hysteresis), "trace",
          lambda trace, _: hysteresis(trace.along().values, trace.real()), of_axis, source=_COMMON),
)  # fmt: skip
