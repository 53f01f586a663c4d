"""Functions that expressions over traces can call, with what each means."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

import numpy as np

from verdad_core.arrays import Booleans, Floats, Values
from verdad_core.errors import MeasurementError
from verdad_core.measure.spectrum import spectrum, with_peaks
from verdad_core.measure.trace import Axis, Nature, Trace
from verdad_core.measure.units import CELSIUS, DECIBELS, DEGREES, HERTZ, NONE, SECONDS, Unit
from verdad_core.measure.waveform import mean, rms

#: Points of a spectrum at most, and at least.
_MOST, _LEAST = 2**18, 2**10
_OF_NUMBERS = frozenset({
    "db", "abs", "min", "max", "sqrt", "exp", "ln", "log", "log10", "sin", "cos", "tan", "atan", "deg", "kelvin",
})  # fmt: skip
#: Magnitudes below this are shown as if they were this large: a decibel of nothing has no number.
_FLOOR = 1e-30


@dataclass(frozen=True)
class Function:
    """One function: how it is written, what it means, and what it makes of its operands, of which it takes `count`."""

    name: str
    written: str
    meaning: str
    apply: Callable[..., Trace]
    count: tuple[int, ...] = (1,)

    @property
    def of_numbers(self) -> bool:
        """Whether it means something to plain numbers, as in a hand formula."""
        return self.name in _OF_NUMBERS


def _pointwise(x: Trace, function: Callable[[Values], Values], **changes: Any) -> Trace:
    """A function of every value, and of what lies halfway between two."""
    middle = None if x.middle is None else function(x.middle)
    return replace(x, values=function(x.values), middle=middle, slope=None, **changes)


def _magnitude(x: Trace) -> Trace:
    return _pointwise(x, np.abs)


def _db(x: Trace) -> Trace:
    """Powers by their ratio, everything else by that of its square (IEC 60027-3)."""
    factor = 10.0 if x.is_power else 20.0
    return _pointwise(x, lambda v: factor * np.log10(np.maximum(np.abs(v), _FLOOR)), unit=DECIBELS, nature="")


def _angles(values: Values) -> Floats:
    """Angles that go on where they would turn round, from number to number: what lies between them is none."""
    angles = np.angle(values)
    known = np.isfinite(angles)
    angles[known] = np.unwrap(angles[known])
    return np.asarray(angles)


def _phase(x: Trace) -> Trace:
    degrees = np.degrees(_angles(x.values) if x.axis else np.angle(x.values))
    return replace(x, values=degrees, middle=None, slope=None, unit=DEGREES, nature="")


def _group_delay(x: Trace) -> Trace:
    """-dφ/dω, which is -Im(H'/H) / 2π where it is known how H changes with the frequency."""
    axis = x.along()
    if axis.unit != HERTZ:
        raise MeasurementError("there is a group delay over frequency only", remedy="Use it in a frequency response.")
    if x.slope is not None:
        return Trace(-np.imag(x.slope / x.values) / (2 * math.pi), SECONDS, axis)
    if len(axis.values) < 2:
        raise MeasurementError("one point has no slope", remedy="Compute more points.")
    slope = np.gradient(_angles(x.values), axis.values)
    return Trace(-slope / (2 * math.pi), SECONDS, axis)


def _plain(
    function: Callable[[Values], Values], domain: Callable[[Floats], Booleans] | None = None, nature: Nature = ""
) -> Callable[[Trace], Trace]:
    """A function of numbers; outside of its `domain` a real one has no value."""

    def of(values: Values) -> Values:
        if domain is None or np.iscomplexobj(values):
            return np.asarray(function(values))
        inside = domain(np.asarray(values, float))
        return np.asarray(np.where(inside, function(np.where(inside, values, 1.0)), np.nan))

    return lambda x: _pointwise(x, of, unit=NONE, nature=nature)


def _root(x: Trace) -> Trace:
    def of(values: Values) -> Values:
        if np.iscomplexobj(values):
            return np.asarray(np.sqrt(values))
        return np.asarray(np.where(np.asarray(values) >= 0, np.sqrt(np.abs(values)), np.nan))

    return _pointwise(x, of, unit=x.unit**0.5, nature="")


def _deriv(x: Trace) -> Trace:
    """The slope over the axis; of points at one place, and where a sweep turns back, by those on the same way."""
    axis = x.along()
    if x.slope is not None:
        return Trace(-np.imag(x.slope / x.values) / (2 * math.pi), SECONDS, axis)
    if len(axis.values) < 2:
        raise MeasurementError("one point has no slope", remedy="Compute more points.")
    steps = np.diff(axis.values)
    values, slope = np.asarray(x.values), np.zeros(len(axis.values), np.result_type(x.values, float))
    turns = np.flatnonzero(np.sign(steps[1:]) * np.sign(steps[:-1]) < 0) + 1
    for first, last in pairwise([0, *turns.tolist(), len(axis.values) - 1]):
        way = slice(first, last + 1)
        along, of = axis.values[way], values[way]
        apart = np.concatenate([[True], np.diff(along) != 0])
        found = np.gradient(of[apart], along[apart]) if np.sum(apart) > 1 else np.zeros(1)
        slope[way] = found[np.cumsum(apart) - 1]
    return Trace(slope, x.unit / axis.unit, axis)


def _integ(x: Trace) -> Trace:
    axis = x.along()
    values = np.asarray(x.values, complex if x.is_complex else float)
    between = 0.5 * (values[1:] + values[:-1])
    if x.middle is not None:
        between = (values[1:] + 4.0 * x.middle + values[:-1]) / 6.0
    sums = np.concatenate([[0.0], np.cumsum(between * np.diff(axis.values))])
    return Trace(sums, x.unit * axis.unit, axis)


def _number(x: Trace, value: float, unit: Unit | None = None) -> Trace:
    return Trace(np.asarray(value), x.unit if unit is None else unit, nature=x.nature)


def _reduced(function: Callable[[Floats], float]) -> Callable[[Trace], Trace]:
    return lambda x: _number(x, float(function(x.real())))


def _extreme(of_two: Callable[[Values, Values], Values], of_all: Callable[[Floats], float]) -> Callable[..., Trace]:
    """The extreme of a trace, a number, or at each place that of two traces."""

    def apply(x: Trace, other: Trace | None = None) -> Trace:
        if other is None:
            return _number(x, float(of_all(x.real())))
        if x.is_complex or other.is_complex:
            raise MeasurementError("phasors have no order", remedy="Compare their mag().")
        if x.unit != other.unit and NONE not in (x.unit, other.unit):
            raise MeasurementError(f"{x.unit.name} and {other.unit.name} cannot be compared", remedy="Use one unit.")
        middle = None if x.middle is None or other.middle is None else of_two(x.middle, other.middle)
        unit = other.unit if x.unit == NONE else x.unit
        return Trace(of_two(x.values, other.values), unit, x.axis or other.axis, middle)

    return apply


def _fft(x: Trace) -> Trace:
    """Amplitudes of sines (peak values), with a Hann window, over the whole of a waveform.

    Between two bins the window's known shape tells where a sine lies and how large it is.
    """
    axis = x.along()
    if axis.unit != SECONDS:
        raise MeasurementError("there is a spectrum of a waveform in time only", remedy="Use it in a transient.")
    if axis.thinned:
        raise MeasurementError("the run has more points than are kept", remedy="Keep a shorter stretch of it.")
    points = min(max(_LEAST, 2 ** math.ceil(math.log2(max(4 * len(axis.values), 2)))), _MOST)
    found = spectrum(axis.values, x.real(), float(axis.values[0]), float(axis.values[-1]), points, "hann")
    frequency, amplitude = with_peaks(found.frequency[1:], found.amplitude[1:])
    # A logarithmic axis has no place for the direct value.
    return Trace(amplitude, x.unit, Axis("frequency", HERTZ, frequency, logarithmic=True))


def _degrees(x: Trace) -> Trace:
    if x.unit != NONE:
        raise MeasurementError(f"an angle in radians has no unit, and this is in {x.unit.name}")
    return _pointwise(x, np.degrees, unit=DEGREES, nature="")


def _kelvin(x: Trace) -> Trace:
    if x.unit not in (CELSIUS, NONE):
        raise MeasurementError(f"a temperature is in °C, and this is in {x.unit.name}")
    return _pointwise(x, lambda v: np.asarray(v + 273.15), unit=CELSIUS, nature="")


FUNCTIONS: dict[str, Function] = {
    function.name: function
    for function in (
        Function("db", "db(x)", "decibels: 20 log of a magnitude, 10 log of a power", _db),
        Function("mag", "mag(x)", "magnitude", _magnitude),
        Function("abs", "abs(x)", "magnitude", _magnitude),
        Function("phase", "phase(x)", "phase in degrees, without jumps", _phase),
        Function("delay", "delay(x)", "group delay", _group_delay),
        Function("re", "re(x)", "real part", lambda x: _pointwise(x, np.real)),
        Function("im", "im(x)", "imaginary part", lambda x: _pointwise(x, np.imag)),
        Function("deriv", "deriv(x)", "slope over the axis", _deriv),
        Function("integ", "integ(x)", "integral over the axis, from its start", _integ),
        Function("avg", "avg(x)", "mean over the axis or its whole periods, a number", lambda x: _number(x, mean(x))),
        Function("rms", "rms(x)", "root of the mean square, likewise, a number", lambda x: _number(x, rms(x))),
        Function("min", "min(x)", "least value; of two traces the lesser", _extreme(np.minimum, np.min), (1, 2)),
        Function("max", "max(x)", "greatest value; of two the greater", _extreme(np.maximum, np.max), (1, 2)),
        Function("pp", "pp(x)", "greatest less least value, a number", _reduced(np.ptp)),
        Function("fft", "fft(x)", "spectrum: amplitude over frequency", _fft),
        Function("sqrt", "sqrt(x)", "square root", _root),
        Function("exp", "exp(x)", "e to the power of x", _plain(np.exp)),
        Function("ln", "ln(x)", "natural logarithm", _plain(np.log, lambda v: v > 0, "logarithm")),
        Function("log", "log(x)", "natural logarithm", _plain(np.log, lambda v: v > 0, "logarithm")),
        Function("log10", "log10(x)", "common logarithm", _plain(np.log10, lambda v: v > 0, "logarithm")),
        Function("sin", "sin(x)", "sine of x in radians", _plain(np.sin)),
        Function("cos", "cos(x)", "cosine of x in radians", _plain(np.cos)),
        Function("tan", "tan(x)", "tangent of x in radians", _plain(np.tan)),
        Function("conj", "conj(x)", "conjugate", lambda x: _pointwise(x, np.conj)),
        Function(
            "arg",
            "arg(x)",
            "angle in degrees, from -180 to 180",
            lambda x: replace(x, values=np.degrees(np.angle(x.values)), middle=None, unit=DEGREES),
        ),
        Function("atan", "atan(x)", "angle in radians whose tangent is x", _plain(np.arctan)),
        Function("deg", "deg(x)", "degrees of an angle in radians", _degrees),
        Function("kelvin", "kelvin(x)", "a temperature in °C, counted from absolute zero", _kelvin),
    )
}
