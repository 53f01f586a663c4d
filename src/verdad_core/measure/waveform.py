"""Measurements on any real trace: values at a place, extremes, means, edges and settling.

x [N] and y [N] are the axis and the values (magnitudes, where they are phasors); `at` is the place or level that some
of them need. Between points a trace is a straight line.
"""

from __future__ import annotations

import math

import numpy as np
from scipy.integrate import trapezoid

from verdad_core.arrays import Floats
from verdad_core.errors import MeasurementError


def value_at(x: Floats, y: Floats, at: float) -> float:
    """The value at a place of the axis; of a sweep there and back, on the way there."""
    low, high = float(np.min(x)), float(np.max(x))
    if not low * (1 - 1e-12) - 1e-30 <= at <= high * (1 + 1e-12) + 1e-30:
        raise MeasurementError(f"{at:g} lies outside the trace, which runs from {low:g} to {high:g}", remedy="Move it.")
    if len(x) == 1:
        return float(y[0])
    at = min(max(at, low), high)
    k = int(np.argmax((np.minimum(x[1:], x[:-1]) <= at) & (at <= np.maximum(x[1:], x[:-1]))))
    if x[k + 1] == x[k]:
        return float(y[k + 1])
    return float(y[k] + (y[k + 1] - y[k]) * (at - x[k]) / (x[k + 1] - x[k]))


def crossing(x: Floats, y: Floats, at: float) -> float:
    """The place where the trace first crosses a level."""
    above = y > at
    turns = np.flatnonzero(above[1:] != above[:-1])
    if len(turns) == 0:
        raise MeasurementError(
            f"the trace does not cross {at:g}; it lies between {np.min(y):g} and {np.max(y):g}",
            remedy="Choose a level.",
        )
    k = int(turns[0])
    return float(x[k] + (at - y[k]) * (x[k + 1] - x[k]) / (y[k + 1] - y[k]))


def maximum(x: Floats, y: Floats, at: float) -> float:
    """The greatest value."""
    return float(np.max(y))


def minimum(x: Floats, y: Floats, at: float) -> float:
    """The least value."""
    return float(np.min(y))


def maximum_place(x: Floats, y: Floats, at: float) -> float:
    """The place of the greatest value."""
    return float(x[int(np.argmax(y))])


def minimum_place(x: Floats, y: Floats, at: float) -> float:
    """The place of the least value."""
    return float(x[int(np.argmin(y))])


def peak_to_peak(x: Floats, y: Floats, at: float) -> float:
    """The greatest less the least value."""
    return float(np.ptp(y))


def mean(x: Floats, y: Floats, at: float) -> float:
    """The mean over the axis."""
    length = x[-1] - x[0]
    return float(trapezoid(y, x) / length) if length else float(np.mean(y))


def rms(x: Floats, y: Floats, at: float) -> float:
    """The root of the mean square over the axis."""
    return math.sqrt(mean(x, y**2, at))


def final(x: Floats, y: Floats, at: float) -> float:
    """The last value."""
    return float(y[-1])


def _edges(y: Floats) -> tuple[float, float]:
    first, last = float(y[0]), float(y[-1])
    if abs(last - first) <= 1e-9 * max(abs(first), abs(last), 1e-30):
        raise MeasurementError("the trace ends where it began, so it has no step", remedy="Look at a step response.")
    return first, last


def rise_time(x: Floats, y: Floats, at: float) -> float:
    """From 10 % to 90 % of the way from the first to the last value (IEC 60469)."""
    first, last = _edges(y)
    share = (y - first) / (last - first)
    return crossing(x, share, 0.9) - crossing(x, share, 0.1)


def overshoot(x: Floats, y: Floats, at: float) -> float:
    """How far the trace goes beyond its last value, in per cent of the step (IEC 60469)."""
    first, last = _edges(y)
    return 100.0 * (float(np.max((y - first) / (last - first))) - 1.0)


def settling_time(x: Floats, y: Floats, at: float) -> float:
    """From the start until the trace stays within `at` per cent of the step around its last value."""
    first, last = _edges(y)
    outside = np.flatnonzero(np.abs(y - last) > abs(last - first) * at / 100.0)
    if len(outside) == 0:
        return 0.0
    k = int(outside[-1])
    edge = last + math.copysign(abs(last - first) * at / 100.0, y[k] - last)
    return float(x[k] + (edge - y[k]) * (x[k + 1] - x[k]) / (y[k + 1] - y[k]) - x[0])
