"""The unit of a measurement, known before anything is run."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from verdad_core.checks.kind import kind_of
from verdad_core.checks.overlaid import overlaid
from verdad_core.checks.signals import Names, Signals
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.measurements import Measurement
from verdad_core.document.parts import nets_of
from verdad_core.errors import VerdadError
from verdad_core.measure.entry import unit_of
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.registry import MEASUREMENTS
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import HERTZ


def unit_of_measurement(circuit: Circuit, check: Check, measurement: Measurement) -> str:
    """The unit, from what the measurement's expression makes of traces of ones; empty where it cannot be computed."""
    try:
        ones = _ones(circuit, check).evaluate(read_expression(measurement.of))
        return unit_of(MEASUREMENTS[measurement.key], ones)
    except VerdadError:
        return ""


def _ones(circuit: Circuit, check: Check) -> Signals:
    kind = kind_of(check)
    axis = kind.axis(circuit, check)
    one = np.ones(() if axis is None else len(axis.values), complex if axis and axis.unit == HERTZ else float)
    names = Names.of(circuit, check)
    pins = [f"{part}.{pin}" for part, own in names.parts.items() for pin in own]
    own = {name: Trace(one, kind.unit_of(name, check), axis) for name in sorted(kind.traces(circuit, check))}
    measured = {name: replace(trace, values=one) for name, trace in overlaid(check, axis, own).items()}
    return Signals(
        names, axis, dict.fromkeys(names.nets, one), dict.fromkeys((*pins, *names.fixtures), one), own | measured,
        {part.designator: nets_of(part) for part in circuit.parts}, units=kind.units,
    )  # fmt: skip
