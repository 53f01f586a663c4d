"""Stability: the gain around a loop, opened at a pin without touching the bias, and what it leaves to oscillation."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar, Literal, Self

import numpy as np

from verdad_core.analyses.loop_gain import loop_at, margins_of
from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.poles import Poles
from verdad_core.arrays import Complexes, Floats
from verdad_core.checks.elaborate import meter_element
from verdad_core.checks.feedback import CONTROLS, amplifiers, loops
from verdad_core.checks.kind import First, Naming
from verdad_core.checks.outputs import usual_card
from verdad_core.checks.over_frequency import OverFrequency, not_everywhere
from verdad_core.checks.prepared import Look, Prepared, RowResult
from verdad_core.checks.signals import Signals
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture
from verdad_core.document.parts import Part, pins_of
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, Finding, Severity
from verdad_core.measure.entry import Takes
from verdad_core.measure.loop import NOTHING
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import HERTZ, NONE, Unit
from verdad_core.schema import Name, Quantity, setting
from verdad_core.units import format_value, parse_value

#: The gain around the loop.
LOOP = "loop"


class Loop(OverFrequency):
    """The gain around the loop that goes through a pin, positive where the feedback is negative."""

    kind: Literal["loop"] = "loop"
    around: Name = setting(label="Opened at", chooses="pin", hint="The pin in whose wire the loop is opened")
    margin: Quantity = setting("45", label="Margin", unit="°", hint="With less phase margin than this it is too little")

    title: ClassVar[str] = "Stability"
    question: ClassVar[str] = "Is the loop around {around} stable?"
    meaning: ClassVar[str] = "The gain around a loop, without touching its bias: margins, crossings, poles."
    has_statement: ClassVar[bool] = False
    looks: ClassVar[str] = ""
    gives: ClassVar[frozenset[Takes]] = frozenset({"number or trace", "trace", "loop"})
    brings: ClassVar[frozenset[str]] = frozenset({LOOP})
    main: ClassVar[str] = LOOP
    relies_on: ClassVar[frozenset[str]] = frozenset({
        "open_loop_gain", "gain_bandwidth", "second_pole", "phase_margin_follower", "output_resistance",
        "input_capacitance", "transition_frequency", "collector_capacitance", "reverse_capacitance",
    })  # fmt: skip
    begins_with: ClassVar[tuple[First, ...]] = (
        First("phase_margin", LOOP), First("crossover", LOOP), First("gain_margin", LOOP)
    )  # fmt: skip

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        return cls.proposals(circuit, fixtures)[0]

    @classmethod
    def proposals(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> list[Self]:
        """The output of every amplifier that a loop goes through; else of the first one, else a control."""
        every = [(part, name, nets) for part in circuit.parts for name, nets in amplifiers(part).items()]
        outs = {name: f"{part.designator}.{_unit(part, name)}out" for part, name, nets in every if nets["out"] != "gnd"}
        closed = [outs[name] for name, *_ in loops(circuit, fixtures) if name in outs]
        controls = [f"{part.designator}.{pin}" for part in circuit.parts for pin in pins_of(part) if pin in CONTROLS]
        found = closed or [*outs.values(), *controls][:1]
        if not found:
            raise BoardError("there is no amplifier and no transistor", remedy="Place one, with its feedback.")
        return [cls(around=pin) for pin in found]

    @classmethod
    def asked(cls, settings: Self | None, likely: str = "") -> str:
        return cls.question.format(around=settings.around.partition(".")[0] if settings else "an amplifier")

    @property
    def loop(self) -> tuple[str, float]:
        return self.around, parse_value(self.margin)

    def unit_of(self, trace: str, check: Check) -> Unit:
        return NONE

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        meter = meter_element(prepared.names.pin(self.around))

        def run(point: OperatingPoint, grid: Floats, _: Poles) -> tuple[Signals | None, list[Finding]]:
            found, findings = loop_at(point, meter, grid), list[Finding]()
            if not np.all(np.isfinite(found.values)):
                return None, [not_everywhere("the loop gain")]
            frequency, values = found.refined()
            if float(np.max(np.abs(values))) < NOTHING:
                findings.append(
                    Finding(Severity.WARNING, f"nothing comes back to {self.around}: the cut opens no loop",
                            remedy="Open the loop at an amplifier's output or input.")
                )  # fmt: skip
            axis = Axis("frequency", HERTZ, frequency, logarithmic=True)
            none = np.zeros((0, len(frequency)))
            return prepared.signals(axis, none, {LOOP: Trace(values, NONE, axis)}), findings

        return self.row_by_row(prepared, matrix, "its margins are no evidence", run)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        trace = signals.others[LOOP]
        words = said(trace.along().values, np.asarray(trace.values, complex), parse_value(self.margin))
        through = self._through(prepared)
        return f"{words} The loop goes through {' and '.join(through)}, too." if through else words

    def _through(self, prepared: Prepared) -> tuple[str, ...]:
        """The other amplifiers that the loop goes through."""
        part, _, pin = self.around.partition(".")
        unit = pin.rpartition(".")[0]
        found = loops(prepared.circuit, prepared.check.fixtures)
        return next((chain[1:] for chain in found if chain[0] == f"{part}{unit}"), ())

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        return (
            usual_card(f"Loop at {self.around}", f"db({LOOP})", f"phase({LOOP})"),
            CheckCard(id="poles", title="Poles", shape="poles"),
        )

    def written(self, prepared: Prepared, names: Naming) -> str:
        return f"* the loop gain at {self.around}: no statement asks for it"


def _unit(part: Part, amplifier: str) -> str:
    """What the pins of an amplifier in a package begin with."""
    unit = amplifier[len(part.designator) :]
    return f"{unit}." if unit else ""


def said(frequency: Floats, values: Complexes, wanted: float) -> str:
    largest = float(np.max(np.abs(values)))
    if largest < NOTHING:
        return "Nothing comes back: there is no loop at this pin."
    margins = margins_of(frequency, values)
    phase, gain = margins.phase_margin, margins.gain_margin
    if phase is None:
        return (
            "Stable: its gain stays below 1." if largest < 1 else "Its gain does not fall to 1 within the range."
        )  # fmt: skip
    words = f"{phase.margin:.0f}° of phase margin at {format_value(phase.frequency, 'Hz', 3)}"
    if gain is not None:
        words += f", {abs(gain.margin):.0f} dB of gain margin" if gain.margin > 0 else ""
    if phase.margin < wanted:
        return f"Too little: {words}, where {wanted:g}° are wanted."
    several = f" The smallest of {len(margins.phase)} crossings." if len(margins.phase) > 1 else ""
    return f"Stable: {words}.{several}"
