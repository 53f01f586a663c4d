"""Measurements on a density over frequency, such as noise in V/√Hz."""

from __future__ import annotations

import math

from verdad_core.analyses.noise import integrate
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import Band, Entry
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import HERTZ, Unit
from verdad_core.units import format_value, parse_value

#: What turns volts by the root of a hertz into volts.
_ROOT = HERTZ**0.5


def band_rms(trace: Trace, band: Band) -> float:
    """The rms value of all that lies in a band of frequencies: the root of the integral of the density's square."""
    axis = trace.along()
    if axis.unit != HERTZ or not _is_density(trace.unit):
        raise MeasurementError(
            "it is no density over frequency", remedy="Measure noise or input_noise of a noise check."
        )
    frequency = axis.values
    low = float(frequency[0]) if band.low is None else parse_value(band.low, "Hz")
    high = float(frequency[-1]) if band.high is None else parse_value(band.high, "Hz")
    if not low < high:
        raise MeasurementError("the band ends where it begins, or before", remedy="Give it a higher end.")
    if low < frequency[0] * (1 - 1e-9) or high > frequency[-1] * (1 + 1e-9):
        span = f"{format_value(float(frequency[0]), 'Hz', 3)} to {format_value(float(frequency[-1]), 'Hz', 3)}"
        raise MeasurementError(
            f"the check covers {span}, which does not hold the band", remedy="Widen the check's range."
        )
    return math.sqrt(float(integrate(frequency, trace.real() ** 2, low, high)))


def _is_density(unit: Unit) -> bool:
    """Whether something by the root of a hertz, s^0.5."""
    return not unit.word and unit.seconds % 1.0 == 0.5


ENTRIES = (
    Entry(
        "band_rms", "RMS value in a band", "root of the integral of a density's square", "density", band_rms,
        unit=lambda trace: trace.unit * _ROOT, settings=Band, source="Parseval's theorem",
    ),
)  # fmt: skip
