"""Transient: the circuit in time."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import ClassVar, Literal, Self

import numpy as np
from pydantic import model_validator

from verdad_core.analyses.in_time import approximated
from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.poles import Poles
from verdad_core.analyses.transient import Start, transient
from verdad_core.arrays import Values
from verdad_core.checks import clipping
from verdad_core.checks.cause import Cause
from verdad_core.checks.kind import CheckKind, Naming, Taking
from verdad_core.checks.outputs import only_controls, outputs, usual_card
from verdad_core.checks.prepared import Look, Prepared, RowResult, Scale
from verdad_core.checks.signals import Signals
from verdad_core.checks.stability import STAYS, stability
from verdad_core.commands.transient import Transient as Statement
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Source
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, Finding, Severity
from verdad_core.measure.trace import Axis
from verdad_core.measure.units import SECONDS
from verdad_core.netlist.command import Command
from verdad_core.schema import Net, Seconds, SecondsOrNone, setting
from verdad_core.units import format_value, parse_value, plain_value

#: Numbers that a run keeps for all of its rows, 128 MB, so that measurements see every step. Where there are more
#: points, the extremes of each stretch stay, and what needs the points between them has no answer.
MOST_NUMBERS, LEAST_POINTS = 16_000_000, 20_000

#: How little moves in a run that stays where it began, by what there is.
STILL = 1e-6

#: Poles faster than this, in Hz, are those of models, not of boards.
_FASTEST = 1e9


class Transient(CheckKind):
    """The circuit in time, from its operating point or cold: everything at zero but what a statement gives an initial
    condition (ic). Points are kept from `since` on.
    """

    kind: Literal["transient"] = "transient"
    stop: Seconds | None = setting(
        None, label="Stop", unit="s", empty="from the circuit",
        hint="Empty: five periods of the slowest source, or as many time constants as settling takes",
    )  # fmt: skip
    since: SecondsOrNone = setting(
        "0", label="Keep from", unit="s", hint="Points before this time are computed but not kept"
    )
    longest: Seconds | None = setting(
        None, label="Longest step", unit="s", empty="a fiftieth of it",
        hint="Steps follow the error that they make; this bounds them",
    )  # fmt: skip
    begin: Literal["operating point", "cold"] = setting(
        "operating point", label="Begins at",
        titles={"operating point": "its operating point", "cold": "cold: zero, or its ic"},
    )  # fmt: skip
    output: Net | None = setting(
        None, label="Look at", chooses="net", empty="likely outputs", hint="The net that its card shows first"
    )

    title: ClassVar[str] = "Transient"
    question: ClassVar[str] = "How does {output} move in time?"
    meaning: ClassVar[str] = "The circuit in time, as its sources move it."
    moves: ClassVar[bool] = True
    rests: ClassVar[bool] = False
    one_by_one: ClassVar[bool] = True
    relies_on: ClassVar[frozenset[str]] = frozenset({
        "slew_rate_rising", "slew_rate_falling", "output_high", "output_low", "short_circuit_source",
        "short_circuit_sink", "overshoot", "recovery_time", "gate_charge", "delay_rising", "delay_falling",
    })  # fmt: skip

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.stop is not None and not parse_value(self.since) < parse_value(self.stop):
            raise BoardError(
                f"points are kept from {self.since} on, but the run ends at {self.stop}",
                remedy="Keep them from an earlier time on.",
            )
        return self

    def scale(self, circuit: Circuit, check: Check, point: OperatingPoint, natural: Poles) -> Scale:
        """How long it runs, in seconds: periods of the slowest source, or else time constants of the circuit.

        Of these so many that what a measurement asks for has settled to a thousandth of it.
        """
        if self.stop is not None:
            return Scale(0.0, parse_value(self.stop))
        waves = {f.name: f.waveform for f in check.fixtures if isinstance(f, Source) and f.waveform is not None}
        periods = {name: wave.period for name, wave in waves.items() if wave.period}
        events = max((wave.settled for wave in waves.values()), default=0.0)
        decay = -natural.values.real
        slow = decay[(decay > 1e-3) & (decay < 2 * math.pi * _FASTEST)]
        if periods:
            slowest = max(periods, key=lambda name: periods[name] or 0.0)
            length, words = 5.0 * (periods[slowest] or 0.0), f"five periods of {slowest}"
        elif len(slow):
            longest = 1.0 / float(slow.min())
            count = _time_constants(check)
            length = count * longest
            words = f"{count:.0f} times the slowest time constant, {format_value(longest, 's', 3)}"
        else:
            length, words = 1e-3, "the circuit has no time constant to choose it from"
        if events > 0:
            words += f", after what happens until {format_value(events, 's', 3)}"
        stop = _rounded_up(events + length)
        return Scale(0.0, stop, f"{format_value(stop, 's', 3)}: {words}")

    def axis(self, circuit: Circuit, check: Check) -> Axis:
        return Axis("time", SECONDS, np.array([0.0, 1.0]))

    def is_open_ended(self, check: Check) -> bool:
        """Where its length was left open, and nothing drives it on and on, which need not come to rest."""
        driven = (f.waveform for f in check.fixtures if isinstance(f, Source) and f.waveform)
        return self.stop is None and not any(wave.period for wave in driven)

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        structure = prepared.structure
        start = Start.CONDITIONS if self.begin == "cold" else Start.OPERATING_POINT
        longest = None if self.longest is None else parse_value(self.longest)
        rows = 1 if matrix is None else matrix.rows
        most = max(LEAST_POINTS, MOST_NUMBERS // (rows * (1 + len(prepared.outputs))))
        result = transient(
            structure, prepared.scale.stop, prepared.outputs, matrix=matrix, start=start, longest=longest,
            since=parse_value(self.since), most_points=most, look=look,
        )  # fmt: skip
        # A cold run says itself whether it comes to rest where the circuit could.
        told = prepared.restless() if start is Start.OPERATING_POINT else []
        told += [*structure.topology.findings(), *approximated(structure, matrix)]
        for row, trace in enumerate(result.traces):
            findings = [*told]
            if trace.unsettled:
                findings.append(
                    Finding(Severity.WARNING, "no operating point was found, so the run begins with everything at zero")
                )
            findings += [trace.caution] if trace.caution else []
            cause = Cause.NUMBER
            if start is Start.OPERATING_POINT and _stays(trace.values):
                _, [natural] = prepared.points(None if matrix is None else matrix.row(row))
                if len(natural.unstable):
                    findings += stability(natural, Severity.ERROR, STAYS)
                    cause = Cause.UNSTABLE
            if trace.failure is not None:
                findings.append(Finding.of(trace.failure))
                cause = Cause.NOT_SOLVED
            axis = Axis("time", SECONDS, trace.time, thinned=trace.thinned)
            if len(trace.time) > 1:
                signals = prepared.signals(axis, trace.values)
                findings += clipping.findings(prepared.circuit, prepared.check, signals)
                yield RowResult(signals, tuple(findings), cause)
            else:
                yield RowResult(None, tuple(findings), Cause.NOT_SOLVED)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        shown = [self.output] if self.output else outputs(prepared.circuit, prepared.check.fixtures)
        values = signals.voltages.get(shown[0]) if shown else None
        if values is None or not len(values):
            return ""
        low, high, last = (format_value(float(v), "V", 3) for v in (np.min(values), np.max(values), values[-1]))
        return f"{shown[0]} moves between {low} and {high}, and ends at {last}."

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        moved = [f.plus for f in check.fixtures if isinstance(f, Source) and f.waveform is not None]
        driven = [net for net in moved if not only_controls(circuit, net)]
        shown = [self.output] if self.output else outputs(circuit, check.fixtures)
        return (usual_card(check.title, *(f"v({net})" for net in dict.fromkeys([*shown, *driven[:2]]))),)

    @classmethod
    def taken(cls, command: Command, netlist: Taking) -> Self | None:
        if not isinstance(command, Statement):
            return None
        given = {"stop": command.stop, "since": command.start, "longest": command.largest}
        numbers = {name: netlist.number(value) for name, value in given.items() if value is not None}
        times = {name: plain_value(number) for name, number in numbers.items() if number > 0}
        return cls.model_validate({"begin": "cold" if command.from_conditions else "operating point", **times})

    def written(self, prepared: Prepared, names: Naming) -> str:
        stop = prepared.scale.stop
        longest = parse_value(self.longest) if self.longest else stop / 50
        cold = " uic" if self.begin == "cold" else ""
        return f".tran {longest!r} {stop!r} {parse_value(self.since)!r} {longest!r}{cold}"


def _time_constants(check: Check) -> float:
    """At least ten, and so many that e^-n is a thousandth of the narrowest band that is settled to."""
    bands = [band / 100.0 for measurement in check.measurements if (band := measurement.settles_to) is not None]
    return float(math.ceil(max([10.0, *(math.log(1e3 / band) for band in bands if band > 0.0)])))


def _rounded_up(value: float) -> float:
    """The next number with a first digit of 1, 2 or 5."""
    power = 10.0 ** math.floor(math.log10(value))
    step = next(digit for digit in (1.0, 2.0, 5.0, 10.0) if value <= digit * power * (1 + 1e-6))
    return float(f"{step * power:.3g}")


def _stays(values: Values) -> bool:
    """Whether nothing moves in a run [outputs, T] but what rounding does."""
    size = np.max(np.abs(values), axis=1, initial=0.0)
    return bool(np.all(np.ptp(values, axis=1) <= STILL * np.maximum(size, 1.0)))
