"""Measurements on any real trace: values at a place, extremes, means, integrals.

Of a trace along an axis x [N] with values y [N] (magnitudes, where they are phasors). Between points a trace is a
straight line, or what its `middle` says.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import AtLevel, AtPlace, Entry, Window, of_axis, of_trace
from verdad_core.measure.periods import Periods, whole_periods
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import SECONDS, Unit
from verdad_core.units import parse_value


def value_at(x: Floats, y: Floats, at: float) -> float:
    """The value at a place of the axis; of a sweep there and back, on the way there."""
    low, high = float(np.min(x)), float(np.max(x))
    slack = 1e-12 * max(abs(low), abs(high)) + 1e-30
    if not low - slack <= at <= high + slack:
        raise MeasurementError(f"{at:g} lies outside the trace, which runs from {low:g} to {high:g}", remedy="Move it.")
    if len(x) == 1:
        return float(y[0])
    at = min(max(at, low), high)
    k = int(np.argmax((np.minimum(x[1:], x[:-1]) <= at) & (at <= np.maximum(x[1:], x[:-1]))))
    if x[k + 1] == x[k]:
        return float(y[k + 1])
    return float(y[k] + (y[k + 1] - y[k]) * (at - x[k]) / (x[k + 1] - x[k]))


def crossing(x: Floats, y: Floats, at: float, edge: str = "either", which: int = 1) -> float:
    """The place where the trace crosses a level, on its way up, down or either, for the first or a later time."""
    above = y > at
    turns = np.flatnonzero(above[1:] != above[:-1])
    if edge != "either":
        turns = turns[above[turns + 1] == (edge == "rising")]
    if len(turns) < which:
        times = f" {which} times" if which > 1 else ""
        way = "" if edge == "either" else f" on a {edge} edge"
        raise MeasurementError(
            f"the trace does not cross {at:g}{way}{times}; it lies between {np.min(y):g} and {np.max(y):g}",
            remedy="Choose a level.",
        )
    k = int(turns[which - 1])
    return float(x[k] + (at - y[k]) * (x[k + 1] - x[k]) / (y[k + 1] - y[k]))


def maximum(x: Floats, y: Floats) -> float:
    """The greatest value."""
    return float(np.max(y))


def minimum(x: Floats, y: Floats) -> float:
    """The least value."""
    return float(np.min(y))


def maximum_place(x: Floats, y: Floats) -> float:
    """The place of the greatest value."""
    return float(x[int(np.argmax(y))])


def minimum_place(x: Floats, y: Floats) -> float:
    """The place of the least value."""
    return float(x[int(np.argmin(y))])


def peak_to_peak(x: Floats, y: Floats) -> float:
    """The greatest less the least value."""
    return float(np.ptp(y))


def initial(x: Floats, y: Floats) -> float:
    """The first value."""
    return float(y[0])


def final(x: Floats, y: Floats) -> float:
    """The last value."""
    return float(y[-1])


def integral(trace: Trace, start: int = 0, stop: int | None = None) -> float:
    """The integral over the way that the axis goes, between two of its points (default: all of it).

    By Simpson's rule over each stretch where the middle is known, which is exact for the square or the product of
    straight lines; by trapezoids elsewhere. Of a sweep there and back both ways count.
    """
    x, y = trace.along().values[start:stop], trace.real()[start:stop]
    way = np.abs(np.diff(x))
    between = 0.5 * (y[1:] + y[:-1])
    if trace.middle is not None:
        middle = np.asarray(trace.middle, float)[start : None if stop is None else stop - 1]
        between = (y[1:] + 4.0 * middle + y[:-1]) / 6.0
    return float(np.sum(way * between))


def periods_of(trace: Trace) -> Periods | None:
    """The whole periods that a mean is taken over, where the trace is a periodic waveform."""
    axis = trace.along()
    return whole_periods(axis.values, trace.real()) if axis.unit == SECONDS else None


def mean(trace: Trace) -> float:
    """The mean over the axis; of a periodic waveform over its whole periods."""
    axis = trace.along()
    if axis.thinned:
        raise MeasurementError(
            "the run has more points than are kept, so what lies between them is not known",
            remedy="Keep a shorter stretch of it.",
        )
    if (periods := periods_of(trace)) is not None:
        trace = periods.cut(trace)
    x = trace.along().values
    length = float(np.sum(np.abs(np.diff(x))))
    return integral(trace) / length if length else float(np.mean(trace.real()))


def rms(trace: Trace) -> float:
    """The root of the mean square over the axis; of a periodic waveform over its whole periods."""
    return math.sqrt(max(mean(trace.squared()), 0.0))


def windowed(
    key: str, title: str, function: Callable[[Floats, Floats], float], unit: Callable[[Trace], Unit], source: str = ""
) -> Entry:
    """A measurement of what lies in a window of the axis."""

    def on(trace: Trace, window: Window) -> float:
        cut = window.cut(trace)
        return function(cut.along().values, cut.real())

    return Entry(key, title, meaning(function), "trace", on, unit, Window, source)


def _averaged(key: str, title: str, function: Callable[[Trace], float]) -> Entry:
    """A measurement that needs what lies between the points, over whole periods where there are any."""
    return Entry(
        key, title, meaning(function), "trace", lambda trace, window: function(window.cut(trace)), of_trace, Window,
        said=lambda trace, window: averaged_over(window.cut(trace)),
    )  # fmt: skip


def averaged_over(trace: Trace) -> str:
    periods = periods_of(trace)
    return periods.words if periods else ""


def meaning(function: Callable[..., float]) -> str:
    """The first line of a docstring, as it stands in a list."""
    text = (function.__doc__ or "").split("\n")[0].rstrip(".")
    return text[:1].lower() + text[1:]


def _value(trace: Trace, settings: AtPlace) -> float:
    if trace.axis is None:
        return float(trace.real())
    if settings.place is None:
        raise MeasurementError("Value needs a place", remedy="Give it one.")
    return value_at(trace.axis.values, trace.real(), parse_value(settings.place))


def _crossing(trace: Trace, settings: AtLevel) -> float:
    axis = trace.along()
    return crossing(axis.values, trace.real(), parse_value(settings.level), settings.edge, settings.which)


ENTRIES = (
    Entry("value", "Value", "the value, at a place of its axis", "number or trace", _value, of_trace, AtPlace),
    Entry("crossing", "Crossing", meaning(crossing), "trace", _crossing, of_axis, AtLevel),
    windowed("maximum", "Maximum", maximum, of_trace),
    windowed("minimum", "Minimum", minimum, of_trace),
    windowed("maximum_place", "Place of the maximum", maximum_place, of_axis),
    windowed("minimum_place", "Place of the minimum", minimum_place, of_axis),
    windowed("peak_to_peak", "Peak to peak", peak_to_peak, of_trace),
    _averaged("mean", "Mean", mean),
    _averaged("rms", "RMS value", rms),
    Entry(
        "integral",
        "Integral",
        "the integral over the axis: charge of a current, energy of a power",
        "trace",
        lambda trace, window: integral(window.cut(trace)),
        lambda trace: trace.unit * trace.along().unit,
        Window,
    ),
    windowed("initial", "Initial value", initial, of_trace),
    windowed("final", "Final value", final, of_trace),
)
