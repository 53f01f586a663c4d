"""Impedance: what a net shows to whatever is attached to it, and what a load takes away there."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import ClassVar, Literal, Self

import numpy as np

from verdad_core.analyses.crowding import crowded, light
from verdad_core.analyses.impedance import impedance_at
from verdad_core.analyses.operating_point import OperatingPoint, one_row
from verdad_core.analyses.poles import Poles
from verdad_core.arrays import Complexes, Floats
from verdad_core.checks.elaborate import meter_element
from verdad_core.checks.kind import First, Naming
from verdad_core.checks.outputs import outputs, usual_card
from verdad_core.checks.over_frequency import OverFrequency
from verdad_core.checks.prepared import Look, Prepared, RowResult, Scale
from verdad_core.checks.signals import Signals
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Port, Source
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, Finding, Severity
from verdad_core.measure.entry import Takes
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, NONE, VOLTS, Unit
from verdad_core.schema import Name, Net, Ohms, setting
from verdad_core.units import format_span, format_value, parse_value

#: What the net shows, and what is left of its voltage under the load.
IMPEDANCE, LOADED = "impedance", "loaded"

#: An impedance turns by less than this, in degrees, where it is as good as a resistance.
_RESISTIVE = 30.0
#: Beyond so many ohms it is as good as open.
_NOTHING = 1e11
#: It is level where it turns by less than this, in degrees; that is looked for so many decades below its poles.
_LEVEL, _DECADES_DOWN = 3.0, 6


class Impedance(OverFrequency):
    """The impedance from a net to ground, around the operating point, with what is attached there."""

    kind: Literal["impedance at a net"] = "impedance at a net"
    net: Net = setting(label="Looking into net", chooses="net")
    without: Name | None = setting(
        None, label="Without", chooses="driver", empty="all stays attached",
        hint="A source that is taken off, so that what it sees is shown; the bias stays as it is",
    )  # fmt: skip
    load: Ohms | None = setting(
        None, label="A load of", unit="Ω", empty="none", hint="How much a load would take of the voltage there"
    )

    title: ClassVar[str] = "Impedance"
    question: ClassVar[str] = "What impedance does {net} show?"
    meaning: ClassVar[str] = "What a net shows to what is attached: output or input impedance, and the error of a load."
    has_statement: ClassVar[bool] = False
    looks: ClassVar[str] = ""
    gives: ClassVar[frozenset[Takes]] = frozenset({"number or trace", "trace", "response"})
    brings: ClassVar[frozenset[str]] = frozenset({IMPEDANCE, LOADED})
    main: ClassVar[str] = IMPEDANCE
    relies_on: ClassVar[frozenset[str]] = frozenset({
        "open_loop_gain", "gain_bandwidth", "second_pole", "output_resistance", "input_capacitance",
        "transition_frequency", "collector_capacitance",
    })  # fmt: skip
    begins_with: ClassVar[tuple[First, ...]] = (First("initial", IMPEDANCE), First("maximum", IMPEDANCE))

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        return cls.proposals(circuit, fixtures)[0]

    @classmethod
    def proposals(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> list[Self]:
        """Every likely output, then what each source sees."""
        drivers = [fixture for fixture in fixtures if isinstance(fixture, Source | Port) and fixture.plus != "gnd"]
        found = [cls(net=net) for net in outputs(circuit, fixtures)]
        found += [cls(net=driver.plus, without=driver.name) for driver in drivers]
        if not found:
            raise BoardError("the circuit has no net to look into yet", remedy="Place a part, then ask again.")
        return found

    @classmethod
    def asked(cls, settings: Self | None, likely: str = "") -> str:
        if settings is None or settings.without is None:
            return cls.question.format(net=settings.net if settings else likely or "the output")
        return f"What impedance does {settings.without} see at {settings.net}?"

    def traces(self, circuit: Circuit, check: Check) -> frozenset[str]:
        return self.brings if self.load else self.brings - {LOADED}

    def range_for(self, point: OperatingPoint, natural: Poles) -> Scale:
        """Down to where it is a resistance, if it is one: feedback makes zeros of it that are no poles."""
        wide = super().range_for(point, natural)
        if self.start is not None or not point.path().solved:
            return wide
        down = wide.start * 10.0 ** -np.arange(_DECADES_DOWN + 1.0)
        turned = np.abs(np.angle(impedance_at(one_row(point, 0), self.net, down[::-1], self._off())[0, ::-1]))
        level = np.flatnonzero(turned < math.radians(_LEVEL))
        if not len(level) or level[0] == 0:
            return wide
        start = float(down[level[0]])
        words = f"{format_span(start, wide.stop, 'Hz')}: from where it is a resistance to two decades above the poles"
        return Scale(start, wide.stop, words if self.stop is None else "")

    def unit_of(self, trace: str, check: Check) -> Unit:
        return VOLTS / AMPERES if trace == IMPEDANCE else NONE

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        def run(point: OperatingPoint, grid: Floats, natural: Poles) -> tuple[Signals | None, list[Finding]]:
            frequency = crowded(grid, light(natural.values))
            [values] = impedance_at(point, self.net, frequency, self._off())
            if not np.all(np.isfinite(values)):
                words = f"nothing but {self.without or 'an open end'} holds {self.net}, so it shows no impedance"
                return None, [Finding(Severity.ERROR, words, remedy="Give it a path to ground.")]
            findings = []
            if abs(values[0]) > _NOTHING:
                findings.append(
                    Finding(Severity.WARNING, f"next to nothing holds {self.net} at {frequency[0]:.3g} Hz: what is "
                            "seen there are picosiemens that each node has", remedy="Give it a path to ground.")
                )  # fmt: skip
            axis = Axis("frequency", HERTZ, frequency, logarithmic=True)
            return prepared.signals(axis, np.zeros((0, len(frequency))), self._traces(values, axis)), findings

        return self.row_by_row(prepared, matrix, "what it shows there is no evidence", run)

    def _off(self) -> str | None:
        """The meter in front of the source that is taken off."""
        return meter_element(self.without) if self.without else None

    @property
    def pins(self) -> tuple[str, ...]:
        """A meter in front of the source that is taken off, whose current is none then."""
        return (self.without,) if self.without else ()

    def _traces(self, values: Complexes, axis: Axis) -> dict[str, Trace]:
        traces = {IMPEDANCE: Trace(values, VOLTS / AMPERES, axis)}
        if self.load:
            ohms = parse_value(self.load)
            traces[LOADED] = Trace(ohms / (ohms + values), NONE, axis)
        return traces

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        trace = signals.others[IMPEDANCE]
        frequency, values = trace.along().values, np.asarray(trace.values, complex)
        size, top = np.abs(values), int(np.argmax(np.abs(values)))
        who = f"{self.without} sees" if self.without else f"{self.net} shows"
        words = f"{who} {_told(values[0])} at {format_value(frequency[0], 'Hz', 3)}"
        if size[top] > 1.01 * size[0]:
            words += f", at the most {_told(values[top])} at {format_value(frequency[top], 'Hz', 3)}"
        rising = frequency[np.degrees(np.angle(values)) > _RESISTIVE]
        if len(rising):
            words += f", inductive {format_span(float(rising[0]), float(rising[-1]), 'Hz')}"
        if LOADED in signals.others:
            left = np.abs(signals.others[LOADED].values)
            words += f"; {self.load}Ω there take {100 * (1 - left[0]):.3g} % of its voltage at the lowest frequency"
            least = int(np.argmin(left))
            if left[least] < left[0] - 1e-3:
                words += f", and {100 * (1 - left[least]):.3g} % at {format_value(frequency[least], 'Hz', 3)}"
        return f"{words}."

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        loaded = [f"db({LOADED})"] if self.load else []
        return (usual_card(check.title, f"mag({IMPEDANCE})", f"phase({IMPEDANCE})", *loaded),)

    def written(self, prepared: Prepared, names: Naming) -> str:
        return f"* the impedance at {self.net}: no statement asks for it"


def _told(value: complex) -> str:
    """An impedance as it is said: its size, and of what nature it is."""
    turned = math.degrees(math.atan2(value.imag, value.real))
    nature = "" if abs(turned) < _RESISTIVE else " inductive" if turned > 0.0 else " capacitive"
    if abs(turned) > 90.0 + _RESISTIVE:
        nature = " negative"
    return f"{format_value(abs(value), 'Ω', 3)}{nature}"
