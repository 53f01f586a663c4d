"""Steady state: the period that a driven circuit or an oscillator settles to, found without waiting for it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar, Literal, Self

import numpy as np

from verdad_core.analyses.in_time import approximated
from verdad_core.analyses.periodic import NotPeriodicError, SteadyState
from verdad_core.checks import clipping
from verdad_core.checks.cause import Cause
from verdad_core.checks.conduction import conduction
from verdad_core.checks.kind import Naming
from verdad_core.checks.kinds.transient import Transient
from verdad_core.checks.outputs import likely_output, outputs, usual_card
from verdad_core.checks.prepared import Look, Prepared, RowResult, Scale
from verdad_core.checks.repeating import Repeating, active, driven, each_row, holding, kept
from verdad_core.checks.signals import Signals
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, ConvergenceError, Finding, Severity
from verdad_core.measure.trace import Axis
from verdad_core.measure.units import SECONDS
from verdad_core.schema import Net, Seconds, setting
from verdad_core.units import format_value, parse_value

#: So many equal periods are shown and measured: in three of them a rise comes at least three times.
SHOWN = 3


class SteadyStateCheck(Repeating):
    """A circuit in the period that it settles to; three of it are shown, from the instant at which it repeats."""

    kind: Literal["steady state"] = "steady state"
    longest: Seconds | None = setting(
        None, label="Longest step", unit="s", empty="a hundredth of a period",
        hint="Steps follow the error that they make; this bounds them",
    )  # fmt: skip
    output: Net | None = setting(
        None, label="Look at", chooses="net", empty="likely outputs", hint="The net that its card shows first"
    )

    title: ClassVar[str] = "Steady state"
    question: ClassVar[str] = "What does {output} settle to, period by period?"
    meaning: ClassVar[str] = "The period that a driven circuit or an oscillator settles to, without waiting for it."
    relies_on: ClassVar[frozenset[str]] = Transient.relies_on

    @classmethod
    def proposals(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> list[Self]:
        """Of what its sources drive again and again; else whether it oscillates by itself."""
        try:
            driven(fixtures)
        except BoardError:
            if not active(circuit, fixtures):
                raise
            return [cls(oscillates=likely_output(circuit, fixtures))]
        return [cls()]

    @classmethod
    def asked(cls, settings: Self | None, likely: str = "") -> str:
        if settings is not None and settings.oscillates is not None:
            return f"Does {settings.oscillates} oscillate by itself, and how?"
        return cls.question.format(output=likely or "the output")

    def axis(self, circuit: Circuit, check: Check) -> Axis:
        return Axis("time", SECONDS, np.array([0.0, 1.0]))

    def length(self, scale: Scale) -> int:
        return 1_000 * SHOWN

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        longest = None if self.longest is None else parse_value(self.longest)
        for row in each_row(matrix):
            # That an oscillator does not stay where it rests is what is asked for.
            told = [] if self.oscillates else prepared.restless()
            told += [*prepared.structure.topology.findings(), *approximated(prepared.structure, row)]
            try:
                found = self.steady(prepared, row, look, longest)
            except ConvergenceError as error:
                reached = error.reached if isinstance(error, NotPeriodicError) else None
                signals = _signals(prepared, reached) if reached is not None else None
                yield RowResult(signals, (*told, Finding.of(error)), Cause.NOT_SOLVED)
                continue
            signals, leaves = _signals(prepared, found), holding(found, self.oscillates is not None)
            told += [leaves] if leaves else []
            told += [
                *conduction(prepared.circuit, found),
                *clipping.findings(prepared.circuit, prepared.check, signals),
            ]
            grows = leaves is not None and leaves.severity is Severity.ERROR
            yield RowResult(signals, tuple(told), Cause.UNSTABLE if grows else Cause.NUMBER)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        shown = self._shown(prepared.circuit, prepared.check.fixtures)
        values = signals.voltages.get(shown[0]) if shown else None
        if values is None or signals.axis is None:
            return ""
        time = signals.axis.values
        mean = float(np.trapezoid(values, time) / (time[-1] - time[0]))
        swing, middle = (format_value(each, "V", 4) for each in (float(np.ptp(values)), mean))
        period = float(time[-1] - time[0]) / SHOWN
        every = f"{format_value(period, 's', 4)} ({format_value(1.0 / period, 'Hz', 4)})"
        return f"{shown[0]} moves by {swing} peak to peak around {middle}, again and again every {every}."

    def _shown(self, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> list[str]:
        """The nets that are looked at."""
        named = self.output or self.oscillates
        return [named] if named else outputs(circuit, fixtures)

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        shown = self._shown(circuit, check.fixtures)
        return (usual_card(check.title, *(f"v({net})" for net in shown)),)

    def written(self, prepared: Prepared, names: Naming) -> str:
        return "* the steady state: no statement asks for it"


def _signals(prepared: Prepared, found: SteadyState) -> Signals:
    """Periods in a row, from zero on; where one ends the next begins."""
    values, time = kept(prepared, found), found.time - found.begin
    length = float(time[-1])
    axis = np.concatenate([time, *(time[1:] + k * length for k in range(1, SHOWN))])
    return prepared.signals(
        Axis("time", SECONDS, axis), np.concatenate([values, *[values[:, 1:]] * (SHOWN - 1)], axis=1)
    )
