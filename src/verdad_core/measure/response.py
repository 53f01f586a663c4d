"""Measurements on a frequency response H(f): frequency [F] in hertz, response [F] complex.

The pass band is taken where the response is largest. "-3 dB" is the half-power point, |H| = peak / sqrt(2).
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from scipy.optimize import brentq

from verdad_core.arrays import Complexes, Floats
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import Entry, Settings, always, of_trace
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import DECIBELS, DEGREES, HERTZ, Unit
from verdad_core.measure.waveform import meaning, value_at
from verdad_core.schema import Hertz, setting
from verdad_core.units import parse_value

#: A response has fallen where what lies above it would add less than this part of its power.
NEGLECTED = 0.05

#: A pass band is level where the magnitude changes by less than this power of the frequency.
LEVEL = 0.03


def passband_gain(frequency: Floats, response: Complexes) -> float:
    """The largest magnitude, as a ratio; between points by a quartic through five of them in log-log scale."""
    level = _log_magnitude(response)
    k = int(np.argmax(level))
    if not 2 <= k < len(level) - 2:
        return math.exp(level[k])
    near = slice(k - 2, k + 3)
    x = np.log(frequency[near] / frequency[k])
    quartic = np.polyfit(x, level[near], 4)
    tops = np.roots(np.polyder(quartic))
    inside = [float(top.real) for top in tops if abs(top.imag) < 1e-9 and x[1] <= top.real <= x[3]]
    return math.exp(max([level[k], *(float(np.polyval(quartic, top)) for top in inside)]))


def _log_magnitude(response: Complexes) -> Floats:
    return np.asarray(np.log(np.maximum(np.abs(response), 1e-300)))


def passband_gain_db(frequency: Floats, response: Complexes) -> float:
    """`passband_gain` in decibels."""
    return 20 * math.log10(passband_gain(frequency, response))


def _require_passband(frequency: Floats, response: Complexes) -> None:
    """Raise MeasurementError where the largest magnitude is one at an end of the sweep that goes on beyond it."""
    level = _log_magnitude(response)
    k = int(np.argmax(level))
    if len(level) < 3 or 0 < k < len(level) - 1:
        return
    near, end = (1, frequency[0]) if k == 0 else (-2, frequency[-1])
    slope = abs(level[k] - level[near]) / abs(math.log(frequency[k] / frequency[near]))
    if slope > LEVEL:
        raise MeasurementError(
            f"the response is largest at the edge of the sweep, {end:g} Hz, and still rises there: its pass band is "
            "not within it",
            remedy="Widen the frequency range of the check.",
        )


def upper_cutoff(frequency: Floats, response: Complexes) -> float:
    """The frequency above the peak where the response has fallen to half its power, in hertz."""
    return _half_power(frequency, response, upwards=True)


def lower_cutoff(frequency: Floats, response: Complexes) -> float:
    """The frequency below the peak where the response has fallen to half its power, in hertz."""
    return _half_power(frequency, response, upwards=False)


def _half_power(frequency: Floats, response: Complexes, upwards: bool) -> float:
    """The crossing nearest to the peak, by a cubic through the four points around it in log-log scale."""
    _require_passband(frequency, response)
    level = _log_magnitude(response)
    target = math.log(passband_gain(frequency, response)) - 0.5 * math.log(2.0)
    peak = int(np.argmax(level))
    side = np.arange(peak, len(level)) if upwards else np.arange(peak, -1, -1)
    below = np.flatnonzero(level[side] < target)
    if len(below) == 0:
        where, end = ("above", frequency[-1]) if upwards else ("below", frequency[0])
        raise MeasurementError(
            f"the response does not fall by 3 dB {where} its peak within the sweep, which ends at {end:g} Hz",
            remedy="Widen the frequency range of the check.",
        )
    outer, inner = int(side[below[0]]), int(side[below[0] - 1])
    low, high = min(outer, inner), max(outer, inner)
    first = min(max(low - 1, 0), max(len(level) - 4, 0))
    points = slice(first, min(first + 4, len(level)))
    x = np.log(frequency)
    middle = x[low]
    cubic = np.polyfit(x[points] - middle, level[points] - target, len(level[points]) - 1)
    ends = (0.0, float(x[high] - middle))
    values = [float(np.polyval(cubic, end)) for end in ends]
    if values[0] * values[1] >= 0:
        # One of the points lies on the level, to the last digit.
        crossing = min(zip(map(abs, values), ends, strict=True))[1]
    else:
        crossing = brentq(lambda t: float(np.polyval(cubic, t)), *ends, xtol=1e-13)
    return math.exp(middle + crossing)


class AtFrequency(Settings):
    """A frequency of the response."""

    place: Hertz = setting("1k", label="At", unit="Hz")

    @property
    def words(self) -> str:
        return f" at {self.place}"


def gain_at(frequency: Floats, response: Complexes, at: float) -> float:
    """The magnitude at a frequency, in decibels."""
    return 20.0 / math.log(10.0) * value_at(np.log(frequency), _log_magnitude(response), math.log(at))


def phase_at(frequency: Floats, response: Complexes, at: float) -> float:
    """The phase at a frequency in degrees, without jumps, from -180 to 180 at the lowest."""
    return value_at(np.log(frequency), np.degrees(np.unwrap(np.angle(response))), math.log(at))


def roll_off(frequency: Floats, response: Complexes, at: float) -> float:
    """How fast the magnitude falls or rises at a frequency, in decibels a decade."""
    x, y = np.log10(frequency), 20.0 / math.log(10.0) * _log_magnitude(response)
    if len(x) < 3 or not x[0] < math.log10(at) < x[-1]:
        raise MeasurementError(f"{at:g} Hz does not lie within the sweep", remedy="Widen the range of the check.")
    k = min(max(int(np.argmin(np.abs(x - math.log10(at)))), 1), len(x) - 2)
    return float(np.polyfit(x[k - 1 : k + 2] - math.log10(at), y[k - 1 : k + 2], 2)[1])


def peaking(frequency: Floats, response: Complexes) -> float:
    """How far the magnitude rises above what it is at the lower end of the sweep, in decibels; of a low-pass."""
    level = _log_magnitude(response)
    if abs(level[1] - level[0]) > LEVEL * math.log(frequency[1] / frequency[0]):
        raise MeasurementError("the response is not level at the lower end of the sweep", remedy="Start lower down.")
    return 20.0 * math.log10(max(passband_gain(frequency, response) / math.exp(level[0]), 1.0))


def noise_bandwidth(frequency: Floats, response: Complexes) -> float:
    """The width of a flat band with the largest gain that passes as much white noise."""
    from verdad_core.analyses.noise import integrate

    power = np.exp(2.0 * _log_magnitude(response))
    whole = float(integrate(frequency, power))
    # Beyond both ends it goes on as a power of the frequency.
    below, above = (
        float(np.log(power[b] / power[a]) / np.log(frequency[b] / frequency[a])) for a, b in ((0, 1), (-2, -1))
    )  # fmt: skip
    tail = float(power[-1] * frequency[-1]) / (-1.0 - above) if above < -1.0 else math.inf
    if not tail < NEGLECTED * whole:
        raise MeasurementError("the response has not fallen at the upper end of the sweep", remedy="Widen its range.")
    head = float(power[0] * frequency[0]) / (1.0 + below) if below > -1.0 else math.inf
    return (whole + head + tail) / passband_gain(frequency, response) ** 2


def _placed(key: str, title: str, unit: Unit, function: Callable[[Floats, Complexes, float], float]) -> Entry:
    def on(trace: Trace, settings: AtFrequency) -> float:
        if unit == DEGREES and not trace.is_complex:
            raise MeasurementError("a magnitude has no phase", remedy="Measure the ratio itself, such as v(out)/v(in).")
        values = np.asarray(trace.magnitude(), complex)
        return function(trace.along().values, values, parse_value(settings.place, "Hz"))

    return Entry(key, title, meaning(function), "response", on, always(unit), AtFrequency)


def _entry(
    key: str, title: str, meaning: str, unit: Callable[[Trace], Unit], function: Callable[[Floats, Complexes], float]
) -> Entry:
    def on(trace: Trace, _: Settings) -> float:
        return function(trace.along().values, np.asarray(trace.magnitude(), complex))

    return Entry(key, title, meaning, "response", on, unit)


ENTRIES = (
    _entry("passband_gain", "Pass-band gain", "largest magnitude of the response", of_trace, passband_gain),
    _entry(
        "passband_gain_db", "Pass-band gain", "largest magnitude of the response", always(DECIBELS), passband_gain_db
    ),
    _entry("upper_cutoff", "Upper -3 dB frequency", "half power, above the peak", always(HERTZ), upper_cutoff),
    _entry("lower_cutoff", "Lower -3 dB frequency", "half power, below the peak", always(HERTZ), lower_cutoff),
    _placed("gain_at", "Gain", DECIBELS, gain_at),
    _placed("phase_at", "Phase", DEGREES, phase_at),
    _placed("roll_off", "Slope per decade", Unit(word="dB/decade"), roll_off),
    _entry("peaking", "Peaking", meaning(peaking), always(DECIBELS), peaking),
    _entry("noise_bandwidth", "Equivalent noise bandwidth", meaning(noise_bandwidth), always(HERTZ), noise_bandwidth),
)
