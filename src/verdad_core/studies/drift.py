"""How a measurement drifts with temperature: its slope where it is drawn, and the box that holds all of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats


@dataclass(frozen=True)
class Drift:
    """`slope` in the measurement's unit per °C at the nominal temperature, `ppm` the same in millionths of the value.

    `box` is (greatest - least) / (value · range) in ppm/°C, as data sheets of references give it (common practice, no
    source). Parts of a value that is zero are None.
    """

    slope: float
    ppm: float | None
    box: float | None


def drift(temperatures: Floats, values: Floats, nominal: float) -> Drift | None:
    """Of [rows] values over rising temperatures in °C; None where fewer than two have a number.

    The slope is that of the parabola through the three temperatures nearest to `nominal`, or the line through two.
    """
    good = np.isfinite(values)
    t, y = temperatures[good], values[good]
    if len(t) < 2:
        return None
    nearest = np.argsort(np.abs(t - nominal), kind="stable")[:3]
    fitted = np.polynomial.Polynomial.fit(t[nearest], y[nearest], len(nearest) - 1)
    slope, value = float(fitted.deriv()(nominal)), float(fitted(nominal))
    if abs(value) <= 1e-12 * float(np.max(np.abs(y), initial=0.0)) or value == 0.0:
        return Drift(slope, None, None)
    span = float(np.ptp(y)) / float(np.ptp(t))
    return Drift(slope, 1e6 * slope / value, 1e6 * span / abs(value))
