"""A trace: one quantity, real or complex, along an axis (time, frequency, what is swept), or a single number."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats, Values
from verdad_core.errors import MeasurementError
from verdad_core.measure.units import Unit


@dataclass(frozen=True)
class Axis:
    """What traces run along: `values` [N] in `unit`. A DC sweep there and back falls after it has risen."""

    title: str
    unit: Unit
    values: Floats
    logarithmic: bool = False


@dataclass(frozen=True)
class Trace:
    """`values` [N] along an axis, or a number [] without one."""

    values: Values
    unit: Unit
    axis: Axis | None = None

    @property
    def is_complex(self) -> bool:
        return bool(np.iscomplexobj(self.values))

    def along(self) -> Axis:
        """The axis. Raises MeasurementError for a single number."""
        if self.axis is None:
            raise MeasurementError("it is a single number", remedy="Give it a voltage or a current of the check.")
        return self.axis

    def real(self) -> Floats:
        """The values where they are real, and magnitudes where they are phasors."""
        return np.asarray(np.abs(self.values) if self.is_complex else self.values, float)
