"""The control loop of a switched circuit: its gain around the period that the circuit settles to."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from verdad_core.analyses.ac import logarithmic
from verdad_core.analyses.periodic_response import LEAST_A_TURN, periodic_loop_gain
from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import meter_element
from verdad_core.checks.kind import First, Naming
from verdad_core.checks.kinds.loop import LOOP, Loop, said
from verdad_core.checks.outputs import usual_card
from verdad_core.checks.prepared import Look, Prepared, RowResult, Scale
from verdad_core.checks.repeating import POINTS, Repeating, driven, each_row, leaving
from verdad_core.checks.signals import Signals
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture
from verdad_core.document.parts import pins_of
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, CircuitError, ConvergenceError, Finding
from verdad_core.measure.entry import Takes
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import HERTZ, NONE, Unit
from verdad_core.schema import Hertz, Name, Quantity, setting
from verdad_core.units import parse_value

#: From which part of the switching frequency a loop is looked at; up to half of it (sampling, any text on control).
_FROM = 1e-4

#: Pins into which feedback goes, the likeliest first.
_INPUTS = ("in-", "feedback", "fb", "sense", "in+")


class SwitchedLoop(Repeating):
    """The gain around a loop of a switched circuit, as an injection transformer measures it.

    It is positive where the loop regulates. A small voltage goes into the wire to the pin: sound where what drives the
    wire has a low impedance and the pin a high one.
    """

    kind: Literal["switched loop"] = "switched loop"
    around: Name = setting(
        label="Opened at", chooses="pin", hint="The pin into which the feedback goes, or an output that drives it"
    )
    margin: Quantity = setting("45", label="Margin", unit="°", hint="With less phase margin than this it is too little")
    start: Hertz | None = setting(None, label="Start", unit="Hz", empty="from the period", hint="The lowest frequency")
    stop: Hertz | None = setting(
        None, label="Stop", unit="Hz", empty="half of what it switches at", hint="The highest frequency"
    )
    points_per_decade: Annotated[int, Field(ge=1, le=200)] = setting(20, label="Points a decade")

    title: ClassVar[str] = "Control loop, switched"
    question: ClassVar[str] = "Is the loop around {around} stable while it switches?"
    meaning: ClassVar[str] = "The gain around a loop of a circuit that switches, around the period that it settles to."
    looks: ClassVar[str] = ""
    gives: ClassVar[frozenset[Takes]] = Loop.gives
    brings: ClassVar[frozenset[str]] = frozenset({LOOP})
    main: ClassVar[str] = LOOP
    relies_on: ClassVar[frozenset[str]] = Loop.relies_on
    begins_with: ClassVar[tuple[First, ...]] = (First("phase_margin", LOOP), First("crossover", LOOP))

    @model_validator(mode="after")
    def _ascending(self) -> Self:
        if self.start and self.stop and not parse_value(self.start) < parse_value(self.stop):
            raise BoardError(
                f"the sweep from {self.start} to {self.stop} does not rise", remedy="Stop above the start frequency."
            )
        return self

    @classmethod
    def proposals(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> list[Self]:
        """The input of every part that takes feedback in, where something repeats itself."""
        driven(fixtures)
        found: dict[tuple[str, str], str] = {}
        for part in circuit.parts:
            for pin in sorted(pins_of(part), key=_rank):
                if _rank(pin) < len(_INPUTS):
                    found.setdefault((part.designator, pin.rpartition(".")[0]), f"{part.designator}.{pin}")
        if not found:
            raise BoardError("no part takes feedback in", remedy="Place an amplifier, a comparator or a controller.")
        return [cls(around=pin) for pin in found.values()]

    @classmethod
    def asked(cls, settings: Self | None, likely: str = "") -> str:
        return cls.question.format(around=settings.around.partition(".")[0] if settings else "an amplifier")

    def unit_of(self, trace: str, check: Check) -> Unit:
        return NONE

    def axis(self, circuit: Circuit, check: Check) -> Axis:
        return Axis("frequency", HERTZ, np.array([1.0, 10.0]))

    def length(self, scale: Scale) -> int:
        return int(self.points_per_decade * math.log10(1.0 / _FROM))

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        for row in each_row(matrix):
            told = [*prepared.restless(), *prepared.structure.topology.findings()]
            try:
                yield self._row(prepared, row, told, look)
            except (ConvergenceError, CircuitError) as error:
                yield RowResult(None, (*told, Finding.of(error)), Cause.NOT_SOLVED)

    def _row(self, prepared: Prepared, row: ParameterMatrix | None, told: list[Finding], look: Look) -> RowResult:
        stop = None if self.stop is None else parse_value(self.stop)
        longest = None if stop is None else min(0.5 / (LEAST_A_TURN * stop), prepared.scale.stop / POINTS)
        found = self.steady(prepared, row, look, longest)
        stop = stop or 0.5 / found.period
        start = min(_FROM / found.period, stop / 10.0) if self.start is None else parse_value(self.start)
        frequency = logarithmic(start, max(stop, start * 1.01), self.points_per_decade)
        values, response = periodic_loop_gain(found, meter_element(prepared.names.pin(self.around)), frequency)
        if self.around.rpartition(".")[2] == "out":
            # The pin drives the wire: what goes on is on the other side.
            values = 1.0 / values
        axis = Axis("frequency", HERTZ, frequency, logarithmic=True)
        signals = prepared.signals(axis, np.zeros((0, len(frequency))), {LOOP: Trace(values, NONE, axis)})
        leaves = leaving(response.multipliers, self.oscillates is not None)
        more = [leaves] if leaves else []
        return RowResult(signals, (*told, *more), Cause.UNSTABLE if leaves else Cause.NUMBER)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        trace = signals.others[LOOP]
        return said(trace.along().values, np.asarray(trace.values, complex), parse_value(self.margin))

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        return (usual_card(f"Loop at {self.around}, switched", f"db({LOOP})", f"phase({LOOP})"),)

    def written(self, prepared: Prepared, names: Naming) -> str:
        return f"* the loop gain at {self.around} while it switches: no statement asks for it"


def _rank(pin: str) -> int:
    """How likely feedback goes into a pin, of a package's unit too: the least first."""
    role = pin.rpartition(".")[2]
    return _INPUTS.index(role) if role in _INPUTS else len(_INPUTS)
