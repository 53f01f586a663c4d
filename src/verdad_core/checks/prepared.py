"""A check made ready for the engine, as its kind runs it: the circuit compiled, its operating point and scale found."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from verdad_core.analyses.operating_point import OperatingPoint, operating_point
from verdad_core.analyses.poles import Poles, poles
from verdad_core.arrays import Values
from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import meter_current
from verdad_core.checks.signals import Names, Share, Signals
from verdad_core.checks.stability import stability
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.parts import nets_of
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND, Structure
from verdad_core.errors import Finding, Severity
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, VOLTS, Unit

#: Told the fraction of a run that is done; a VerdadError that it raises ends the run with what it has.
Look = Callable[[float], None]


@dataclass(frozen=True)
class Scale:
    """From where to where, and why where it was chosen."""

    start: float = 0.0
    stop: float = 0.0
    words: str = ""


@dataclass(frozen=True)
class RowResult:
    """One row: its signals, or None where its operating point was not found, what must be said of it, and why its
    numbers are no evidence, where they are none.
    """

    signals: Signals | None
    findings: tuple[Finding, ...]
    cause: Cause = Cause.NUMBER


@dataclass(frozen=True)
class Prepared:
    """`scale` says over which range the analysis runs; `point` is the operating point as drawn, `natural` its poles."""

    circuit: Circuit
    check: Check
    structure: Structure
    names: Names
    #: The nets whose voltages, and the pins and fixtures whose currents, are kept.
    nets: tuple[str, ...]
    metered: tuple[str, ...]
    point: OperatingPoint
    natural: Poles
    scale: Scale

    @property
    def outputs(self) -> list[tuple[str, str]]:
        """Nets, then metered currents, as the analyses take them."""
        return [(net, GROUND) for net in self.nets] + [(meter_current(pin), GROUND) for pin in self.metered]

    def signals(
        self, axis: Axis | None, values: Values, others: Mapping[str, Trace] | None = None,
        units: tuple[Unit, Unit] = (VOLTS, AMPERES), shares: tuple[Share, ...] = (),
    ) -> Signals:  # fmt: skip
        """Signals of `values` [outputs, N] along an axis, with traces by a name of their own."""
        return Signals(
            self.names, axis,
            voltages=dict(zip(self.nets, values, strict=False)),
            currents=dict(zip(self.metered, values[len(self.nets) :], strict=False)),
            others=others or {},
            nets_of={part.designator: nets_of(part) for part in self.circuit.parts},
            units=units,
            shares=shares,
        )  # fmt: skip

    def restless(self) -> list[Finding]:
        """A note where the operating point as drawn is one that the circuit would leave by itself."""
        return stability(self.natural, Severity.NOTE) if self.natural.known else []

    def points(self, matrix: ParameterMatrix | None) -> tuple[OperatingPoint, list[Poles]]:
        """The operating points of all rows, with the poles around each."""
        if matrix is None:
            return self.point, [self.natural]
        point = operating_point(self.structure, matrix)
        return point, poles(point)
