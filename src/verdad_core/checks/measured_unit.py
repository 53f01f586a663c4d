"""The unit of a measurement, known before anything is run."""

from __future__ import annotations

import numpy as np

from verdad_core.checks.quantities import quantity
from verdad_core.checks.scales import swept
from verdad_core.checks.signals import Names, Signals
from verdad_core.document.analyses import DcSweep, FrequencySweep, OperatingPoint
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Source
from verdad_core.document.measurements import RESPONSE, Measurement
from verdad_core.document.parts import nets_of
from verdad_core.errors import VerdadError
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.registry import MEASUREMENTS, unit_of
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, NONE, SECONDS, VOLTS, unit_named


def unit_of_measurement(circuit: Circuit, check: Check, measurement: Measurement) -> str:
    """The unit, from what the measurement's expression makes of traces of ones; empty where it cannot be computed."""
    entry = MEASUREMENTS[measurement.key]
    try:
        return unit_of(entry, _ones(circuit, check).evaluate(read_expression(measurement.of)))
    except VerdadError:
        return entry.unit


def _ones(circuit: Circuit, check: Check) -> Signals:
    axis = _axis(circuit, check)
    one = np.ones(() if axis is None else len(axis.values), complex if axis and axis.unit == HERTZ else float)
    names = Names.of(circuit, check)
    pins = [f"{part}.{pin}" for part, own in names.parts.items() for pin in own]
    source = check.fixture(check.source)
    drive = AMPERES if isinstance(source, Source) and source.quantity == "current" else VOLTS
    return Signals(
        names, axis, dict.fromkeys(names.nets, one), dict.fromkeys((*pins, *names.fixtures), one),
        {RESPONSE: Trace(one, VOLTS / drive, axis)}, {part.designator: nets_of(part) for part in circuit.parts},
    )  # fmt: skip


def _axis(circuit: Circuit, check: Check) -> Axis | None:
    values = np.array([1.0, 2.0, 3.0, 4.0])
    match check.analysis:
        case OperatingPoint():
            return None
        case FrequencySweep():
            return Axis("frequency", HERTZ, values)
        case DcSweep():
            try:
                over, _ = swept(check.analysis, circuit, check)
                return Axis(over, unit_named(quantity(circuit, check, over).unit), values)
            except VerdadError:
                return Axis("swept", NONE, values)
    return Axis("time", SECONDS, values)
