"""DC sweep: points at rest while one quantity takes one value after the other."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from verdad_core.analyses.dc_sweep import Swept, dc_sweep, up_and_down
from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.poles import Poles
from verdad_core.arrays import Floats
from verdad_core.checks.cause import Cause
from verdad_core.checks.kind import CheckKind, Naming, Taking
from verdad_core.checks.outputs import outputs, usual_card
from verdad_core.checks.prepared import Look, Prepared, RowResult, Scale
from verdad_core.checks.quantities import TEMPERATURE, engine_key, quantity
from verdad_core.checks.signals import Signals
from verdad_core.commands.dc import DcSweep as Statement
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Source, Supply
from verdad_core.document.parts import Valued
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, Finding, Severity
from verdad_core.measure.trace import Axis
from verdad_core.measure.units import unit_named
from verdad_core.netlist.command import Command
from verdad_core.schema import Name, Net, Quantity, setting
from verdad_core.units import format_span, format_value, parse_value, plain_value


class DcSweep(CheckKind):
    """Points at rest while one quantity takes values from start to stop, and back again where that is wanted.

    `over` names the quantity: a part (R1), a fixture or one of its fields (bias, bias.resistance), or "temperature".
    """

    kind: Literal["dc sweep"] = "dc sweep"
    over: Name | None = setting(
        None, label="Sweep", chooses="swept", empty="the first source", resets=("start", "stop"),
        hint="What takes one value after the other, at rest",
    )  # fmt: skip
    start: Quantity | None = setting(
        None, label="Start", empty="from the circuit",
        hint="Empty: between the supplies for a source, a tenth for a part",
    )  # fmt: skip
    stop: Quantity | None = setting(
        None, label="Stop", empty="from the circuit",
        hint="Empty: between the supplies for a source, ten times for a part",
    )  # fmt: skip
    points: Annotated[int, Field(ge=2, le=5_000)] = setting(201, label="Points")
    and_back: bool = setting(False, label="and back again, to see hysteresis")
    output: Net | None = setting(
        None, label="Look at", chooses="net", empty="likely outputs", hint="The net that its card shows first"
    )

    title: ClassVar[str] = "DC sweep"
    question: ClassVar[str] = "What happens to {output} while something changes slowly?"
    meaning: ClassVar[str] = "Points at rest while a source, a part or the temperature takes one value after the other."
    rests: ClassVar[bool] = False

    @model_validator(mode="after")
    def _moves(self) -> Self:
        if self.start is not None and self.stop is not None and parse_value(self.start) == parse_value(self.stop):
            raise BoardError(f"the sweep stays at {self.start}", remedy="Stop at another value.")
        return self

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        """The first source; without one a part's value, or the temperature."""
        if any(isinstance(fixture, Source | Supply) for fixture in fixtures):
            return cls()
        parts = [part.designator for part in circuit.parts if isinstance(part, Valued) and part.value]
        return cls(over=next(iter(parts), TEMPERATURE))

    def swept(self, circuit: Circuit, check: Check) -> tuple[str, Scale]:
        """What it turns, and over which range. Raises BoardError where there is nothing to sweep."""
        over = self.over or _first_source(check)
        found = quantity(circuit, check, over)
        low, high = _range(check, over, found.value)
        start = low if self.start is None else found.read(self.start)
        stop = high if self.stop is None else found.read(self.stop)
        given = self.over is not None and self.start is not None and self.stop is not None
        return over, Scale(start, stop, "" if given else f"{over} over {format_span(start, stop, found.unit)}")

    def scale(self, circuit: Circuit, check: Check, point: OperatingPoint, natural: Poles) -> Scale:
        return self.swept(circuit, check)[1]

    def axis(self, circuit: Circuit, check: Check) -> Axis:
        over, scale = self.swept(circuit, check)
        unit = unit_named(quantity(circuit, check, over).unit)
        return Axis(over, unit, np.array([scale.start, scale.stop]))

    def length(self, scale: Scale) -> int:
        return self.points * (2 if self.and_back else 1)

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        circuit, check = prepared.circuit, prepared.check
        over, _ = self.swept(circuit, check)
        values = np.linspace(prepared.scale.start, prepared.scale.stop, self.points)
        values = up_and_down(values) if self.and_back else values
        result = dc_sweep(
            prepared.structure, [Swept(engine_key(circuit, check, over), values)], prepared.outputs, matrix
        )
        unit = unit_named(quantity(circuit, check, over).unit)
        for row, values_of_row in enumerate(result.values):
            solved = result.paths[row] >= 0
            axis = Axis(over, unit, values[solved])
            findings = prepared.restless()
            if not np.all(solved):
                findings.append(_unsolved(over, unit.name, values[~solved]))
            some = bool(np.any(solved))
            signals = prepared.signals(axis, values_of_row[:, solved]) if some else None
            yield RowResult(signals, tuple(findings), Cause.NUMBER if some else Cause.NOT_SOLVED)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        shown = [self.output] if self.output else outputs(prepared.circuit, prepared.check.fixtures)
        values = signals.voltages.get(shown[0]) if shown else None
        if values is None or signals.axis is None or not len(values):
            return ""
        axis = signals.axis
        ends = [format_value(float(v), "V", 3) for v in (values[0], values[-1])]
        over = [format_value(float(v), axis.unit.name, 3) for v in (axis.values[0], axis.values[-1])]
        return f"{shown[0]} goes from {ends[0]} to {ends[1]} while {axis.title} goes from {over[0]} to {over[1]}."

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        nets = [self.output] if self.output else outputs(circuit, check.fixtures)
        return (usual_card(check.title, *(f"v({net})" for net in nets)),)

    @classmethod
    def taken(cls, command: Command, netlist: Taking) -> Self | None:
        if not isinstance(command, Statement) or len(command.sweeps) != 1 or command.sweeps[0].variation != "lin":
            return None
        [sweep] = command.sweeps
        start, stop, step = (netlist.number(value) for value in (sweep.start, sweep.stop, sweep.step))
        over = netlist.quantity(sweep.name)
        if over is None or start == stop:
            return None
        points = min(max(round(abs((stop - start) / step)) + 1 if step else 2, 2), 5000)
        return cls(over=over, start=plain_value(start), stop=plain_value(stop), points=points)

    def written(self, prepared: Prepared, names: Naming) -> str:
        over, scale = self.swept(prepared.circuit, prepared.check)
        step = (scale.stop - scale.start) / (self.points - 1)
        return f".dc {names.quantity(over)} {scale.start!r} {scale.stop!r} {step!r}"


def _first_source(check: Check) -> str:
    ordered = sorted(check.fixtures, key=lambda fixture: not isinstance(fixture, Source))
    for fixture in ordered:
        if isinstance(fixture, Source | Supply):
            return fixture.name
    raise BoardError(
        f"check '{check.title}' has nothing to sweep", remedy="Attach a source, or name a part or the temperature."
    )


def _range(check: Check, over: str, value: float) -> tuple[float, float]:
    """Between the supplies for a source, zero to twice for a supply, the industrial range for a temperature."""
    if over == TEMPERATURE:
        return -40.0, 85.0
    fixture = check.fixture(over.partition(".")[0])
    if isinstance(fixture, Source):
        if fixture.quantity == "current":
            size = abs(value) or 1e-3
            return -size, size
        rails = [parse_value(f.volts) for f in check.fixtures if isinstance(f, Supply)]
        return (min(0.0, *rails), max(0.0, *rails)) if any(rails) else (-1.0, 1.0)
    if isinstance(fixture, Supply):
        return 0.0, 2.0 * value if value else 1.0
    return value / 10.0, value * 10.0


def _unsolved(over: str, unit: str, values: Floats) -> Finding:
    ends = " to ".join(dict.fromkeys(format_value(float(v), unit, 3) for v in (values.min(), values.max())))
    return Finding(
        Severity.WARNING, f"{len(values)} points were not solved, with {over} at {ends}",
        remedy="Take a smaller range, or more points.",
    )  # fmt: skip
