"""The registry of measurements: each by its key, with its title, what it needs, and what it makes of a trace."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.errors import MeasurementError
from verdad_core.measure import waveform
from verdad_core.measure.response import RESPONSE_MEASUREMENTS, ResponseMeasurement
from verdad_core.measure.trace import Trace

#: What the unit of a measurement is: the entry's own, the trace's (or else the entry's), or the axis's.
Of = Literal["fixed", "trace", "axis"]


@dataclass(frozen=True)
class Entry:
    """One measurement. `at` says what the place or level is that it needs: "" where it needs none."""

    key: str
    title: str
    meaning: str
    of: Of
    function: Callable[[Trace, float], float]
    unit: str = ""
    at: str = ""
    #: Whether a single number will do, and whether only a frequency response will.
    of_number: bool = False
    of_response: bool = False
    #: What must be said of how this trace was measured; "" for nothing.
    said: Callable[[Trace], str] = lambda trace: ""


def unit_of(entry: Entry, trace: Trace) -> str:
    """The unit of what the entry measures on this trace."""
    if entry.of == "fixed":
        return entry.unit
    unit = trace.unit if entry.of == "trace" else trace.along().unit
    return unit.name or entry.unit


def measured(entry: Entry, trace: Trace, at: float) -> float:
    """The number. Raises MeasurementError where the trace does not hold it."""
    if trace.axis is None and not entry.of_number:
        raise MeasurementError(f"{entry.title} needs a trace along an axis", remedy="Measure its value.")
    if entry.at and not math.isfinite(at) and not (entry.of_number and trace.axis is None):
        raise MeasurementError(f"{entry.title} needs {entry.at}", remedy="Give it one.")
    if not entry.of_number and not np.all(np.isfinite(trace.values)):
        raise MeasurementError(
            "the trace is not a number everywhere",
            remedy="Look for a division by zero in it, or a root or a logarithm of what is below zero.",
        )
    found = entry.function(trace, at)
    if not math.isfinite(found):
        raise MeasurementError("the trace is not a number there", remedy="Look for a division by zero in it.")
    return found


def _of_response(measurement: ResponseMeasurement) -> Entry:
    def function(trace: Trace, at: float) -> float:
        axis = trace.along()
        if axis.unit.name != "Hz":
            raise MeasurementError(f"{measurement.title} is measured over frequency", remedy="Measure something else.")
        return measurement.function(axis.values, np.asarray(trace.magnitude(), complex))

    of: Of = "trace" if measurement.unit == "V/V" else "fixed"
    return Entry(
        measurement.key, measurement.title, measurement.meaning, of, function, measurement.unit, of_response=True
    )


def _of_waveform(
    key: str, title: str, of: Of, function: Callable[[Floats, Floats, float], float], unit: str = "", at: str = ""
) -> Entry:
    def on(trace: Trace, place: float) -> float:
        return function(trace.along().values, trace.real(), place)

    meaning = (function.__doc__ or "").split("\n")[0].rstrip(".")
    return Entry(key, title, meaning[:1].lower() + meaning[1:], of, on, unit, at)


def _of_trace(key: str, title: str, function: Callable[[Trace], float]) -> Entry:
    """A measurement that needs what lies between the points, over whole periods where there are any."""
    meaning = (function.__doc__ or "").rstrip(".")

    def said(trace: Trace) -> str:
        periods = waveform.periods_of(trace)
        return periods.words if periods else ""

    return Entry(key, title, meaning[:1].lower() + meaning[1:], "trace", lambda trace, _: function(trace), said=said)


def _value(trace: Trace, at: float) -> float:
    if trace.axis is None:
        return float(trace.real())
    return waveform.value_at(trace.axis.values, trace.real(), at)


MEASUREMENTS: dict[str, Entry] = {
    entry.key: entry
    for entry in (
        *map(_of_response, RESPONSE_MEASUREMENTS.values()),
        Entry("value", "Value", "the value, at a place where there is an axis", "trace", _value, at="a place",
              of_number=True),
        _of_waveform("crossing", "Crossing", "axis", waveform.crossing, at="a level"),
        _of_waveform("maximum", "Maximum", "trace", waveform.maximum),
        _of_waveform("minimum", "Minimum", "trace", waveform.minimum),
        _of_waveform("maximum_place", "Place of the maximum", "axis", waveform.maximum_place),
        _of_waveform("minimum_place", "Place of the minimum", "axis", waveform.minimum_place),
        _of_waveform("peak_to_peak", "Peak to peak", "trace", waveform.peak_to_peak),
        _of_trace("mean", "Mean", waveform.mean),
        _of_trace("rms", "RMS value", waveform.rms),
        _of_waveform("final", "Final value", "trace", waveform.final),
        _of_waveform("rise_time", "Rise time", "axis", waveform.rise_time),
        _of_waveform("overshoot", "Overshoot", "fixed", waveform.overshoot, "%"),
        _of_waveform("settling_time", "Settling time", "axis", waveform.settling_time, at="a band in per cent"),
    )
}  # fmt: skip
