"""Measurements on a waveform that repeats itself, over its whole periods."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import Entry, Window, always, percent
from verdad_core.measure.periods import Periods
from verdad_core.measure.spectrum import Fourier, fourier, resampled
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import DECIBELS, HERTZ, NONE, SECONDS, Unit
from verdad_core.measure.waveform import averaged_over, meaning, periods_of, rms

#: Harmonics that count for distortion, common practice, no source.
HARMONICS = 9
#: Samples of a period that show all that is in it.
_SAMPLES = 4096


def _periods(trace: Trace) -> Periods:
    found = periods_of(trace)
    if found is None:
        raise MeasurementError("the trace does not repeat itself", remedy="Let it run for three periods, or more.")
    return found


def frequency(trace: Trace) -> float:
    """How often the waveform repeats itself, over all of its whole periods."""
    return 1.0 / _periods(trace).period


def period(trace: Trace) -> float:
    """How long the waveform takes until it repeats itself, over all of its whole periods."""
    return _periods(trace).period


def duty(trace: Trace) -> float:
    """Which part of its whole periods the waveform is above the middle between its extremes."""
    own = _periods(trace).cut(trace)
    x, y = own.along().values, own.real()
    level = 0.5 * float(np.max(y) + np.min(y))
    rise = y[1:] - y[:-1]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.clip(np.where(rise > 0, (y[1:] - level) / rise, (level - y[:-1]) / rise), 0.0, 1.0)
    above = np.where(rise == 0.0, y[1:] > level, share)
    return 100.0 * float(np.sum(above * np.diff(x)) / (x[-1] - x[0]))


def crest_factor(trace: Trace) -> float:
    """The largest size by the root of the mean square, over whole periods where there are any."""
    found = periods_of(trace)
    own = found.cut(trace) if found else trace
    whole = rms(own)
    if not whole:
        raise MeasurementError("the trace is zero throughout, so it has no crest")
    return float(np.max(np.abs(own.real()))) / whole


def ripple(trace: Trace) -> float:
    """Peak to peak within the last of its whole periods."""
    found = _periods(trace)
    return float(np.ptp(trace.between(found.stop - found.period, found.stop).real()))


def _series(trace: Trace) -> Fourier:
    found = _periods(trace)
    axis = trace.along()
    if axis.thinned:
        raise MeasurementError("the run has more points than are kept", remedy="Keep a shorter stretch of it.")
    kept = axis.values <= found.stop * (1 + 1e-12)
    return fourier(axis.values[kept], trace.real()[kept], 1.0 / found.period, HARMONICS)


def distortion(trace: Trace) -> float:
    """Harmonics from the second to the ninth, by the fundamental: total harmonic distortion of the last period."""
    return 100.0 * _series(trace).distortion


def sinad(trace: Trace) -> float:
    """The fundamental by all that is neither it nor direct: signal to noise and distortion of the last period."""
    found = _periods(trace)
    instants = found.stop - found.period + found.period * np.arange(_SAMPLES) / _SAMPLES
    lines = np.fft.rfft(resampled(trace.along().values, trace.real(), np.asarray(instants, float)))
    powers = np.abs(lines[1:]) ** 2
    rest = float(np.sum(powers[1:]))
    if not rest > 1e-14 * powers[0]:
        raise MeasurementError("there is nothing but the fundamental, as far as the steps of the run tell")
    return 10.0 * math.log10(float(powers[0]) / rest)


def _over_periods(
    key: str, title: str, function: Callable[[Trace], float], unit: Callable[[Trace], Unit], source: str = ""
) -> Entry:
    return Entry(
        key, title, meaning(function), "trace", lambda trace, window: function(window.cut(trace)), unit, Window,
        source, said=lambda trace, window: averaged_over(window.cut(trace)),
    )  # fmt: skip


ENTRIES = (
    _over_periods("frequency", "Frequency", frequency, always(HERTZ)),
    _over_periods("period", "Period", period, always(SECONDS)),
    _over_periods("duty", "Duty", duty, percent),
    _over_periods("ripple", "Ripple", ripple, lambda trace: trace.unit),
    _over_periods("crest_factor", "Crest factor", crest_factor, always(NONE)),
    _over_periods("distortion", "Total harmonic distortion", distortion, percent, "IEC 61000-4-7"),
    _over_periods("sinad", "Signal to noise and distortion", sinad, always(DECIBELS), "IEEE 1241"),
)
