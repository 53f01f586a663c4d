"""Measurements on a step: from its first to its last value (IEC 60469)."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import Entry, Window, WithinBand, of_axis, percent
from verdad_core.measure.trace import Trace
from verdad_core.measure.waveform import crossing, meaning, windowed
from verdad_core.units import parse_value

#: A step smaller than this part of what the trace does otherwise is none.
NO_STEP = 0.01

#: The last part of a run that shows whether a trace has settled, and by how much of the step it may still move there.
END, STILL = 0.1, 0.01

#: A trace settles to a band if it moves by no more than this part of it at the end.
OF_BAND = 0.1


class UnsettledError(MeasurementError):
    """A number that needs a longer run."""


def _edges(x: Floats, y: Floats, still: float = STILL) -> tuple[float, float]:
    """The first and the last value of a step. Raises MeasurementError where there is none, or it has not settled."""
    first, last = float(y[0]), float(y[-1])
    step, all_of_it = abs(last - first), float(np.ptp(y))
    is_step = step > NO_STEP * all_of_it and step > 1e-9 * max(abs(first), abs(last), 1e-30)
    late = float(np.ptp(y[x >= x[-1] - END * (x[-1] - x[0])]))
    if late > still * (step if is_step else all_of_it):
        moves = f"{100.0 * late / (step or all_of_it):.2g} % of its step" if is_step else "much"
        raise UnsettledError(
            f"the trace has not settled: in the last tenth of the run it still moves by {moves}",
            remedy="Let the transient run for longer.",
        )
    if not is_step:
        raise MeasurementError("the trace ends where it began, so it has no step", remedy="Look at a step response.")
    return first, last


def rise_time(x: Floats, y: Floats) -> float:
    """From 10 % to 90 % of the way from the first to the last value (IEC 60469)."""
    first, last = _edges(x, y)
    share = (y - first) / (last - first)
    return crossing(x, share, 0.9) - crossing(x, share, 0.1)


def overshoot(x: Floats, y: Floats) -> float:
    """How far the trace goes beyond its last value, in per cent of the step (IEC 60469)."""
    first, last = _edges(x, y)
    return 100.0 * (float(np.max((y - first) / (last - first))) - 1.0)


def settling_time(x: Floats, y: Floats, at: float) -> float:
    """From the start until the trace stays within `at` per cent of the step around its last value."""
    first, last = _edges(x, y, min(STILL, OF_BAND * at / 100.0))
    outside = np.flatnonzero(np.abs(y - last) > abs(last - first) * at / 100.0)
    if len(outside) == 0:
        return 0.0
    k = int(outside[-1])
    edge = last + math.copysign(abs(last - first) * at / 100.0, y[k] - last)
    return float(x[k] + (edge - y[k]) * (x[k + 1] - x[k]) / (y[k + 1] - y[k]) - x[0])


def undershoot(x: Floats, y: Floats) -> float:
    """How far the trace goes back before its first value, in per cent of the step (IEC 60469)."""
    first, last = _edges(x, y)
    return 100.0 * max(0.0, -float(np.min((y - first) / (last - first))))


def half_way(x: Floats, y: Floats) -> float:
    """When the trace is half-way from its first to its last value: with a step at 0, the delay (IEC 60469)."""
    first, last = _edges(x, y)
    return crossing(x, (y - first) / (last - first), 0.5)


def slew_rate(x: Floats, y: Floats) -> float:
    """The mean slope from 10 % to 90 % of the way from the least to the greatest value, on the steeper side."""
    low, swing = float(np.min(y)), float(np.ptp(y))
    if swing <= 1e-12 * max(abs(low), 1e-30):
        raise MeasurementError("the trace does not move", remedy="Look at a step response.")
    share = (y - low) / swing
    steepest = 0.0
    for near, far in ((0.1, 0.9), (0.9, 0.1)):
        ends = _between(x, share, near, far)
        steepest = max([steepest, *(0.8 * swing / (end - start) for start, end in ends if end > start)])
    if not steepest:
        raise MeasurementError("the trace does not go from a tenth to nine tenths of its swing")
    return steepest


def _between(x: Floats, share: Floats, near: float, far: float) -> list[tuple[float, float]]:
    """The stretches on which the trace goes straight from one level to the other."""
    found = []
    begun = math.nan
    up = near < far
    for k in np.flatnonzero(((share[1:] > near) != (share[:-1] > near)) | ((share[1:] > far) != (share[:-1] > far))):
        one, other = float(share[k]), float(share[k + 1])
        for level in sorted((near, far), reverse=not other > one):
            if min(one, other) <= level < max(one, other):
                place = float(x[k] + (level - one) / (other - one) * (x[k + 1] - x[k]))
                if level == near:
                    begun = place if (other > one) == up else math.nan
                elif not math.isnan(begun) and (other > one) == up:
                    found.append((begun, place))
                    begun = math.nan
    return found


def _settling(trace: Trace, settings: WithinBand) -> float:
    return settling_time(trace.along().values, trace.real(), parse_value(settings.band))


_PULSES = "IEC 60469"

ENTRIES = (
    windowed("rise_time", "Rise or fall time", rise_time, of_axis, _PULSES),
    windowed("half_way", "Half-way time", half_way, of_axis, _PULSES),
    windowed("overshoot", "Overshoot", overshoot, percent, _PULSES),
    windowed("undershoot", "Undershoot", undershoot, percent, _PULSES),
    Entry("settling_time", "Settling time", meaning(settling_time), "trace", _settling, of_axis, WithinBand),
    Entry(
        "slew_rate", "Slew rate", meaning(slew_rate), "trace",
        lambda trace, window: slew_rate(window.cut(trace).along().values, window.cut(trace).real()),
        lambda trace: trace.unit / trace.along().unit, Window, source="common practice, no source",
    ),
)  # fmt: skip
