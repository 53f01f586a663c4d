"""Functions that expressions over traces can call, with what each means."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.integrate import cumulative_trapezoid, trapezoid

from verdad_core.arrays import Floats, Values
from verdad_core.errors import MeasurementError
from verdad_core.measure.spectrum import spectrum
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import DECIBELS, DEGREES, HERTZ, NONE, SECONDS, WATTS, Unit

#: Points of a spectrum at most, and at least.
_MOST, _LEAST = 2**16, 2**10
#: Magnitudes below this are shown as if they were this large: a decibel of nothing has no number.
_FLOOR = 1e-30


@dataclass(frozen=True)
class Function:
    """One function: how it is written, what it means, and what it makes of a trace."""

    name: str
    written: str
    meaning: str
    apply: Callable[[Trace], Trace]


def _magnitude(x: Trace) -> Trace:
    return replace(x, values=np.abs(x.values))


def _db(x: Trace) -> Trace:
    """Powers by their ratio, everything else by that of its square (IEC 60027-3)."""
    factor = 10.0 if x.unit == WATTS else 20.0
    return replace(x, values=factor * np.log10(np.maximum(np.abs(x.values), _FLOOR)), unit=DECIBELS)


def _phase(x: Trace) -> Trace:
    angles = np.angle(x.values)
    return replace(x, values=np.degrees(np.unwrap(angles) if x.axis else angles), unit=DEGREES)


def _group_delay(x: Trace) -> Trace:
    """-dφ/dω."""
    axis = x.along()
    if axis.unit != HERTZ:
        raise MeasurementError("there is a group delay over frequency only", remedy="Use it in a frequency response.")
    slope = np.gradient(np.unwrap(np.angle(x.values)), axis.values)
    return Trace(-slope / (2 * math.pi), SECONDS, axis)


def _plain(
    function: Callable[[Values], Values], domain: Callable[[Floats], bool] | None = None
) -> Callable[[Trace], Trace]:
    """A function of numbers; `domain` says whether it can be taken of all of them."""

    def apply(x: Trace) -> Trace:
        values: Values = x.values
        if domain is not None and not x.is_complex and not domain(np.asarray(values, float)):
            values = values.astype(complex)
        return replace(x, values=function(values), unit=NONE)

    return apply


def _root(x: Trace) -> Trace:
    values = np.asarray(x.values)
    below = not x.is_complex and bool(np.any(values < 0))
    return replace(x, values=np.sqrt(values.astype(complex) if below else values), unit=x.unit**0.5)


def _deriv(x: Trace) -> Trace:
    """The slope over the axis, between neighbouring points of which two lie at one place by their difference."""
    axis = x.along()
    if len(axis.values) < 2:
        raise MeasurementError("one point has no slope", remedy="Compute more points.")
    apart = np.concatenate([[True], np.diff(axis.values) != 0])
    slope = np.gradient(np.asarray(x.values)[apart], axis.values[apart])
    where = np.cumsum(apart) - 1
    return replace(x, values=slope[where], unit=x.unit / axis.unit)


def _integ(x: Trace) -> Trace:
    axis = x.along()
    sums = cumulative_trapezoid(np.asarray(x.values, complex if x.is_complex else float), axis.values, initial=0)
    return replace(x, values=sums, unit=x.unit * axis.unit)


def _mean_of(x: Trace, values: Floats) -> float:
    """The mean over the axis, each stretch by its length."""
    axis = x.along()
    length = axis.values[-1] - axis.values[0]
    return float(trapezoid(values, axis.values) / length) if length else float(values.mean())


def _number(x: Trace, value: float, unit: Unit | None = None) -> Trace:
    return Trace(np.asarray(value), x.unit if unit is None else unit)


def _avg(x: Trace) -> Trace:
    return _number(x, _mean_of(x, x.real()))


def _rms(x: Trace) -> Trace:
    return _number(x, math.sqrt(_mean_of(x, x.real() ** 2)))


def _reduced(function: Callable[[Floats], float]) -> Callable[[Trace], Trace]:
    return lambda x: _number(x, float(function(x.real())))


def _fft(x: Trace) -> Trace:
    """Amplitudes of sines (peak values), with a Hann window, over the whole of a waveform."""
    axis = x.along()
    if axis.unit != SECONDS:
        raise MeasurementError("there is a spectrum of a waveform in time only", remedy="Use it in a transient.")
    points = min(max(_LEAST, 2 ** math.ceil(math.log2(max(len(axis.values), 2)))), _MOST)
    found = spectrum(axis.values, x.real(), float(axis.values[0]), float(axis.values[-1]), points, "hann")
    # A logarithmic axis has no place for the direct value.
    return Trace(found.amplitude[1:], x.unit, Axis("frequency", HERTZ, found.frequency[1:], logarithmic=True))


FUNCTIONS: dict[str, Function] = {
    function.name: function
    for function in (
        Function("db", "db(x)", "decibels: 20 log of a magnitude, 10 log of a power", _db),
        Function("mag", "mag(x)", "magnitude", _magnitude),
        Function("abs", "abs(x)", "magnitude", _magnitude),
        Function("phase", "phase(x)", "phase in degrees, without jumps", _phase),
        Function("delay", "delay(x)", "group delay", _group_delay),
        Function("re", "re(x)", "real part", lambda x: replace(x, values=np.real(x.values))),
        Function("im", "im(x)", "imaginary part", lambda x: replace(x, values=np.imag(x.values))),
        Function("deriv", "deriv(x)", "slope over the axis", _deriv),
        Function("integ", "integ(x)", "integral over the axis, from its start", _integ),
        Function("avg", "avg(x)", "mean over the axis, a number", _avg),
        Function("rms", "rms(x)", "root of the mean square, a number", _rms),
        Function("min", "min(x)", "least value, a number", _reduced(np.min)),
        Function("max", "max(x)", "greatest value, a number", _reduced(np.max)),
        Function("pp", "pp(x)", "greatest less least value, a number", _reduced(np.ptp)),
        Function("fft", "fft(x)", "spectrum: amplitude over frequency", _fft),
        Function("sqrt", "sqrt(x)", "square root", _root),
        Function("exp", "exp(x)", "e to the power of x", _plain(np.exp)),
        Function("ln", "ln(x)", "natural logarithm", _plain(np.log, lambda v: bool(np.all(v > 0)))),
        Function("log10", "log10(x)", "common logarithm", _plain(np.log10, lambda v: bool(np.all(v > 0)))),
        Function("sin", "sin(x)", "sine of x in radians", _plain(np.sin)),
        Function("cos", "cos(x)", "cosine of x in radians", _plain(np.cos)),
        Function("atan", "atan(x)", "angle in radians whose tangent is x", _plain(np.arctan)),
    )
}
