"""A trace: one quantity, real or complex, along an axis (time, frequency, what is swept), or a single number."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from verdad_core.arrays import Floats, Integers, Values
from verdad_core.errors import MeasurementError
from verdad_core.measure.units import DECIBELS, POWERS, Unit

#: What a quantity is beyond its unit: a power or a ratio of powers, or a logarithm of something.
Nature = Literal["", "power", "logarithm"]


@dataclass(frozen=True)
class Axis:
    """What traces run along: `values` [N] in `unit`. A DC sweep there and back falls after it has risen.

    `thinned` says that points are left out, so that what lies between two of them is not known.
    """

    title: str
    unit: Unit
    values: Floats
    logarithmic: bool = False
    thinned: bool = False


@dataclass(frozen=True)
class Trace:
    """`values` [N] along an axis, or a number [] without one.

    Between points, voltages and currents are straight lines; `middle` [N - 1] is what that makes of the trace halfway,
    where it is known: the power of two straight lines is none. `slope` [N] is how phasors change with the axis, where
    the analysis says it.
    """

    values: Values
    unit: Unit
    axis: Axis | None = None
    middle: Values | None = None
    nature: Nature = ""
    slope: Values | None = None

    @classmethod
    def of_lines(cls, values: Values, unit: Unit, axis: Axis | None) -> Trace:
        """A quantity that runs in straight lines between its points."""
        middle = 0.5 * (values[1:] + values[:-1]) if axis is not None and np.isrealobj(values) else None
        return cls(values, unit, axis, middle)

    @property
    def is_complex(self) -> bool:
        return bool(np.iscomplexobj(self.values))

    @property
    def is_power(self) -> bool:
        """Whether decibels of it count ten to a decade."""
        return self.unit in POWERS or self.nature == "power"

    def along(self) -> Axis:
        """The axis. Raises MeasurementError for a single number."""
        if self.axis is None:
            raise MeasurementError("it is a single number", remedy="Give it a voltage or a current of the check.")
        return self.axis

    def real(self) -> Floats:
        """The values where they are real, and magnitudes where they are phasors."""
        return np.asarray(np.abs(self.values) if self.is_complex else self.values, float)

    def magnitude(self) -> Values:
        """The values as phasors or magnitudes: of decibels what they stand for.

        Raises MeasurementError for what is neither, such as degrees or a logarithm.
        """
        if self.unit == DECIBELS:
            return np.asarray(10.0 ** (self.real() / 20.0))
        if self.unit.word or self.nature == "logarithm":
            raise MeasurementError(
                f"it is in {self.unit.word or 'the logarithm of something'}, which is no magnitude",
                remedy="Measure the ratio itself, such as v(out)/v(in).",
            )
        if not self.is_complex and np.any(np.asarray(self.values) < 0.0):
            raise MeasurementError(
                "it is below zero at places, which no magnitude is", remedy="Measure the ratio itself, or its mag()."
            )
        return self.values

    def squared(self) -> Trace:
        """Its square, or that of its magnitude."""
        middle = None if self.middle is None else np.abs(self.middle) ** 2
        return replace(self, values=self.real() ** 2, middle=middle, slope=None, unit=self.unit**2)

    def between(self, start: float, stop: float) -> Trace:
        """What lies between two places of an axis that rises, as real values; its ends are read between the points.

        Within a stretch the trace is a parabola through its ends and its middle, a straight line where none is known.
        Raises MeasurementError where the axis does not rise, or does not hold the two places.
        """
        axis = self.along()
        x, y = axis.values, self.real()
        if np.any(np.diff(x) < 0.0):
            raise MeasurementError("the axis does not rise all the way", remedy="Measure all of it.")
        slack = 1e-9 * float(np.max(np.abs(x)))
        if not (x[0] - slack <= start < stop <= x[-1] + slack):
            raise MeasurementError(
                f"{start:g} to {stop:g} is no stretch of the trace, which runs from {x[0]:g} to {x[-1]:g}",
                remedy="Move it.",
            )
        low, high = np.searchsorted(x, start, "right"), np.searchsorted(x, stop, "left")
        places = np.concatenate([[start], x[low:high], [stop]])
        values = np.interp(places, x, y)
        middle = None
        if self.middle is not None:
            k = np.clip(np.searchsorted(x, 0.5 * (places[1:] + places[:-1]), "right") - 1, 0, len(x) - 2)
            width = np.where(x[k + 1] > x[k], x[k + 1] - x[k], 1.0)
            bulge = 4.0 * (np.asarray(self.middle, float)[k] - 0.5 * (y[k] + y[k + 1]))

            def along(at: Floats, k: Integers, width: Floats, bulge: Floats) -> Floats:
                u = (at - x[k]) / width
                return np.asarray(y[k] + u * (y[k + 1] - y[k]) + bulge * u * (1.0 - u))

            middle = along(0.5 * (places[1:] + places[:-1]), k, width, bulge)
            values[0] = along(places[:1], k[:1], width[:1], bulge[:1])[0]
            values[-1] = along(places[-1:], k[-1:], width[-1:], bulge[-1:])[0]
        return replace(self, values=values, middle=middle, axis=replace(axis, values=places), slope=None)
