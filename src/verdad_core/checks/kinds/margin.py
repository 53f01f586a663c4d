"""What a loop bears: its phase margin against a capacitance at a net, or against any value, and where it breaks."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from verdad_core.analyses.loop_gain import loop_at, margins_of
from verdad_core.analyses.operating_point import OperatingPoint, one_row, operating_point
from verdad_core.analyses.poles import Poles, poles
from verdad_core.arrays import Floats
from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import meter_element
from verdad_core.checks.kind import First, Naming
from verdad_core.checks.kinds.loop import Loop
from verdad_core.checks.outputs import usual_card
from verdad_core.checks.over_frequency import OverFrequency
from verdad_core.checks.prepared import Look, Prepared, RowResult, Scale
from verdad_core.checks.quantities import engine_key, quantity
from verdad_core.checks.signals import Signals
from verdad_core.checks.stability import stability
from verdad_core.devices import Element
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture
from verdad_core.document.parts import pins_of
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Finding, MeasurementError, Severity
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import DEGREES, HERTZ, Unit, unit_called, unit_named
from verdad_core.measure.waveform import crossing
from verdad_core.schema import Name, Net, Quantity, setting
from verdad_core.units import format_value, parse_value

#: The phase margin and the crossover along what is turned.
MARGIN, CROSSOVER = "margin", "crossover"

#: What is added where nothing else is turned, and how much of it is none, in F.
_EXTRA, _NONE = "extra:load", 1e-18


class MarginCheck(OverFrequency):
    """The phase margin of the loop that goes through a pin, against what the loop has to bear."""

    kind: Literal["margin"] = "margin"
    around: Name = setting(label="Opened at", chooses="pin", hint="The pin in whose wire the loop is opened")
    net: Net = setting(label="Loaded at", chooses="net", hint="The net that a capacitor to ground is added at")
    over: Name | None = setting(
        None, label="Against", chooses="swept", empty="a capacitor there", hint="What is turned instead"
    )
    least: Quantity = setting("10p", label="From", hint="In the unit of what is turned")
    most: Quantity = setting("1u", label="Up to", hint="In the unit of what is turned")
    steps: Annotated[int, Field(ge=2, le=50)] = setting(8, label="Steps a decade")
    margin: Quantity = setting("45", label="Margin", unit="°", hint="With less phase margin than this it is too little")

    title: ClassVar[str] = "What a loop bears"
    question: ClassVar[str] = "How much load at {net} does the loop around {around} bear?"
    meaning: ClassVar[str] = (
        "The phase margin against a load capacitance or any value: where it is too small, and where none is left."
    )
    has_statement: ClassVar[bool] = False
    looks: ClassVar[str] = ""
    brings: ClassVar[frozenset[str]] = frozenset({MARGIN, CROSSOVER})
    main: ClassVar[str] = MARGIN
    relies_on: ClassVar[frozenset[str]] = Loop.relies_on
    begins_with: ClassVar[tuple[First, ...]] = (
        First("minimum", MARGIN), First("crossing", MARGIN, {"level": "45", "edge": "falling"})
    )  # fmt: skip

    @model_validator(mode="after")
    def _rising(self) -> Self:
        least, most = parse_value(self.least), parse_value(self.most)
        if not 0.0 < least < most:
            raise BoardError(
                f"from {self.least} up to {self.most} does not rise above zero", remedy="End above its start."
            )
        if math.log10(most / least) * self.steps > 500:
            raise BoardError("that would be more than 500 steps", remedy="Take fewer a decade.")
        return self

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        return cls.proposals(circuit, fixtures)[0]

    @classmethod
    def proposals(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> list[Self]:
        """Every loop that can be asked for, loaded at the output of its amplifier."""
        pins = [loop.around.partition(".") for loop in Loop.proposals(circuit, fixtures)]
        return [cls(around=f"{part}.{pin}", net=pins_of(circuit.part(part))[pin]) for part, _, pin in pins]

    @classmethod
    def asked(cls, settings: Self | None, likely: str = "") -> str:
        around = settings.around.partition(".")[0] if settings else "an amplifier"
        return cls.question.format(around=around, net=settings.net if settings else "its output")

    def changed(self, elements: list[Element]) -> list[Element]:
        if self.over or self.net == "gnd":
            return elements
        return [*elements, Element(_EXTRA, "capacitor", (self.net, GROUND), {"capacitance": _NONE})]

    @property
    def loop(self) -> tuple[str, float]:
        return self.around, parse_value(self.margin)

    def unit_of(self, trace: str, check: Check) -> Unit:
        return DEGREES if trace == MARGIN else HERTZ

    def axis(self, circuit: Circuit, check: Check) -> Axis:
        return self._axis(circuit, check, np.array(self._ends(circuit, check)))

    def _ends(self, circuit: Circuit, check: Check) -> tuple[float, float]:
        """From where to where what is turned goes."""
        read = quantity(circuit, check, self.over).read if self.over else parse_value
        return read(self.least), read(self.most)

    def length(self, scale: Scale) -> int:
        return 2 + int(self.steps * math.log10(parse_value(self.most) / parse_value(self.least)))

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        least, most = self._ends(prepared.circuit, prepared.check)
        values = np.geomspace(least, most, self.length(prepared.scale))
        key = engine_key(prepared.circuit, prepared.check, self.over) if self.over else (_EXTRA, "capacitance")
        turned = ParameterMatrix.varied(prepared.structure, {key: values})
        for row in range(1 if matrix is None else matrix.rows):
            own = turned if matrix is None else _together(matrix.row(row), turned)
            point = operating_point(prepared.structure, own)
            yield self._row(prepared, point, poles(point), values)

    def _row(self, prepared: Prepared, point: OperatingPoint, natural: list[Poles], values: Floats) -> RowResult:
        """One row: the margin at each value for which there is one."""
        margins, crossovers = np.full(len(values), np.nan), np.full(len(values), np.nan)
        grids, meter = self.grids(prepared, point, natural), meter_element(prepared.names.pin(self.around))
        for k in range(len(values)):
            if point.path(k).solved:
                found = loop_at(one_row(point, k), meter, grids[k])
                margin = margins_of(*found.refined()).phase_margin if np.all(np.isfinite(found.values)) else None
                if margin is not None:
                    # Several crossings may speak for a loop that grows; its poles say that it does.
                    margins[k] = -abs(margin.margin) if len(natural[k].unstable) else margin.margin
                    crossovers[k] = margin.frequency
        known = np.isfinite(margins)
        if np.sum(known) < 2:
            words = f"the gain of the loop at {self.around} does not cross 1, whatever is turned"
            finding = Finding(Severity.WARNING, words, remedy="Open the loop at an amplifier's output or input.")
            return RowResult(None, (finding,), Cause.NOT_MEASURED)
        axis = self._axis(prepared.circuit, prepared.check, values[known])
        others = {MARGIN: Trace.of_lines(margins[known], DEGREES, axis),
                  CROSSOVER: Trace.of_lines(crossovers[known], HERTZ, axis)}  # fmt: skip
        findings = stability(natural[0], Severity.ERROR, "nothing is left that a load could take")
        cause = Cause.UNSTABLE if len(natural[0].unstable) else Cause.NUMBER
        return RowResult(prepared.signals(axis, np.zeros((0, len(axis.values))), others), tuple(findings), cause)

    def _axis(self, circuit: Circuit, check: Check, values: Floats) -> Axis:
        if self.over is None:
            farads = unit_called("F")
            assert farads is not None
            return Axis("load", farads, values, logarithmic=True)
        return Axis(self.over, unit_named(quantity(circuit, check, self.over).unit), values, logarithmic=True)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        trace = signals.others[MARGIN]
        x, y, wanted = trace.along().values, trace.real(), parse_value(self.margin)
        unit, what = trace.along().unit.name, self.over or f"at {self.net}"

        def told(value: float) -> str:
            return f"{format_value(value, unit, 3)} {'' if self.over else what}".strip()

        if y[0] <= 0.0:
            return f"It oscillates with {told(float(x[0]))} already."
        words = [f"{y[0]:.0f}° of phase margin with {told(float(x[0]))}"]
        enough, breaks = _passes(x, y, wanted), _passes(x, y, 0.0)
        if y[0] < wanted:
            words[0] += f", less than the {wanted:g}° that are wanted"
        elif enough is not None:
            words.append(f"{wanted:g}° are left with {told(enough)}")
        if breaks is None:
            words.append(f"at least {np.min(y):.0f}° up to {told(float(x[-1]))}")
        else:
            again = _passes(x[x > breaks], y[x > breaks], 0.0, "rising")
            until = f" until {told(again)}" if again is not None else " on"
            words.append(f"none with {told(breaks)}: from there{until} it oscillates")
        return ", ".join(words) + (f" of {self.over}." if self.over else ".")

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        return (usual_card(f"Margin against {self.over or f'load at {self.net}'}", MARGIN),)

    def written(self, prepared: Prepared, names: Naming) -> str:
        return f"* the margin of the loop at {self.around}: no statement asks for it"


def _passes(x: Floats, y: Floats, level: float, way: str = "falling") -> float | None:
    """Where the margin first goes through a level, along the logarithm of what is turned."""
    try:
        return math.exp(crossing(np.log(x), y, level, way))
    except MeasurementError:
        return None


def _together(row: ParameterMatrix, turned: ParameterMatrix) -> ParameterMatrix:
    """One row of a study at every value of what is turned."""
    count = turned.rows
    columns = np.concatenate([row.columns, turned.columns]).astype(np.int32)
    kept = ~np.isin(row.columns, turned.columns)
    values = np.concatenate([np.repeat(row.values, count, axis=0)[:, kept], turned.values], axis=1)
    return ParameterMatrix(row.nominal, columns[np.concatenate([kept, np.ones(len(turned.columns), bool)])], values)
