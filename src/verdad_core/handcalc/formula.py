"""A hand formula: mathematics over named numbers, with units, and whether it can stand beside a measurement."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from verdad_core.errors import MeasurementError, Place
from verdad_core.measure.expressions import Expression, Probe
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import DECIBELS, DEGREES, NONE, Unit


@dataclass(frozen=True)
class Number:
    """A number that a name stands for; `unit` is None where nobody knows it, as of a model's parameter."""

    value: float
    unit: Unit | None


#: What says the number of a name; raises MeasurementError for one that is not there.
Named = Callable[[str], Number]


def evaluated(formula: Expression, named: Named, unit: str) -> float:
    """The number of a formula, in the unit of the measurement that it stands beside ("Hz", "V/V", "dB", "%").

    A formula without any name takes that unit; of a ratio per cent are made. Raises MeasurementError, with the column,
    for a name that is not there, for what cannot be computed, and for another unit.
    """
    unknown = False

    def lookup(probe: Probe) -> Trace:
        nonlocal unknown
        if probe.kind:
            raise MeasurementError(
                f"{probe.kind}(...) is simulated, and this is worked out by hand",
                remedy="Name parts, fixtures' quantities, or another measurement by its title in quotes.",
            )
        number = named(probe.name)
        unknown |= number.unit is None
        return Trace(np.asarray(number.value), number.unit or NONE)

    found = formula.evaluate(lookup)
    value = complex(found.values).real
    if not math.isfinite(value):
        raise MeasurementError(
            "it has no value for these parts", place=Place(column=1), remedy="Look for a zero value."
        )
    typed = not formula.probes and found.unit == NONE
    if unit == "%" and found.unit == NONE and not (typed and "%" not in formula.text):
        return 100.0 * value
    if not (typed or unknown) and (objection := _objection(found.unit, unit)):
        raise MeasurementError(objection[0], place=Place(column=1), remedy=objection[1])
    return value


def _objection(found: Unit, wanted: str) -> tuple[str, str] | None:
    """Why a formula's unit is not that of a measurement, and what to do."""
    if found.name == wanted or (found == NONE and wanted in ("V/V", "")):
        return None
    is_in = f"the formula is in {found.name}" if found.name else "the formula is a plain number"
    remedies = {DECIBELS.name: "Write db(...) around the ratio.", DEGREES.name: "Write deg(...) around an angle."}
    return f"{is_in}, the measurement in {wanted or 'no unit'}", remedies.get(
        wanted, "Look for a factor that is missing."
    )
