"""Frequency response: v(output) over what drives it."""

from __future__ import annotations

import cmath
import math
from collections.abc import Iterator
from dataclasses import replace
from functools import cache
from typing import ClassVar, Literal, Self

import numpy as np

from verdad_core.analyses.ac import ac_at
from verdad_core.analyses.crowding import crowded, light
from verdad_core.analyses.operating_point import OperatingPoint, one_row
from verdad_core.analyses.poles import Poles, possible_zeros
from verdad_core.arrays import Complexes, Floats
from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import drive_node
from verdad_core.checks.kind import First, Naming, Taking
from verdad_core.checks.outputs import likely_driver, likely_output, usual_card
from verdad_core.checks.over_frequency import MOST_REFINED, OverFrequency, not_everywhere, taken_range
from verdad_core.checks.prepared import Look, Prepared, RowResult
from verdad_core.checks.signals import Signals
from verdad_core.checks.stability import stability
from verdad_core.commands.ac import Ac as Statement
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Source
from verdad_core.document.measurements import RESPONSE
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, MeasurementError, Severity
from verdad_core.measure.entry import Takes
from verdad_core.measure.response import lower_cutoff, passband_gain, upper_cutoff
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, NONE, VOLTS, Unit
from verdad_core.netlist.command import Command
from verdad_core.schema import Name, Net, setting
from verdad_core.units import format_value, parse_value

#: Phase may turn by this much between two points of a response, in radians; what is between them is computed then.
TURN = 0.5 * math.pi

#: How far beside a frequency the solutions are that say how it changes there, by the frequency.
BESIDE = 1e-6

#: What is looked at, as the analyses take it.
_Outputs = list[tuple[str, str]]


class FrequencyResponse(OverFrequency):
    """v(output) over its source: the voltage inside it, before its own resistance, or its current."""

    kind: Literal["frequency response"] = "frequency response"
    source: Name = setting(label="From source", chooses="driver")
    output: Net = setting(label="To net", chooses="net")

    title: ClassVar[str] = "Frequency response"
    question: ClassVar[str] = "How does {output} follow {source} over frequency?"
    meaning: ClassVar[str] = "The output over its source, around the operating point: gain, corners, phase, delay."
    by_ac: ClassVar[bool] = True
    looks: ClassVar[str] = "db({})"
    gives: ClassVar[frozenset[Takes]] = frozenset({"number or trace", "trace", "response"})
    brings: ClassVar[frozenset[str]] = frozenset({RESPONSE})
    main: ClassVar[str] = RESPONSE
    relies_on: ClassVar[frozenset[str]] = frozenset({
        "open_loop_gain", "gain_bandwidth", "second_pole", "phase_margin_follower", "output_resistance",
        "transition_frequency", "collector_capacitance", "input_capacitance", "reverse_capacitance",
        "zero_bias_capacitance", "offset_voltage", "bias_current",
    })  # fmt: skip
    begins_with: ClassVar[tuple[First, ...]] = (First("passband_gain", RESPONSE), First("upper_cutoff", RESPONSE))

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        return cls(source=likely_driver(fixtures, "a frequency response"), output=likely_output(circuit, fixtures))

    def unit_of(self, trace: str, check: Check) -> Unit:
        source = check.fixture(self.source)
        return VOLTS / (AMPERES if isinstance(source, Source) and source.quantity == "current" else VOLTS)

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        point, natural = prepared.points(matrix)
        grids, run = self.grids(prepared, point, natural), _Run(self, prepared)
        narrow = [light(roots) for roots in run.roots(point, natural)]
        alike = all(grid is grids[0] for grid in grids) and not any(map(len, narrow))
        shared = ac_at(point, grids[0], run.outputs) if alike else None
        for row in range(len(point.values)):
            if not point.path(row).solved:
                yield RowResult(None, (), Cause.NOT_SOLVED)
                continue
            if shared is not None:
                frequency, values = run.refined(point, row, grids[row], shared.values[row])
            else:
                own = crowded(grids[row], narrow[row])
                first = ac_at(one_row(point, row), own, run.outputs).values[0]
                frequency, values = run.refined(point, row, own, first)
            axis = Axis("frequency", HERTZ, frequency, logarithmic=True)
            findings = prepared.structure.topology.findings()
            findings += stability(natural[row], Severity.ERROR, "this response cannot be measured on it")
            cause = Cause.UNSTABLE if len(natural[row].unstable) else Cause.NUMBER
            if not np.all(np.isfinite(values)):
                cause = Cause.NOT_SOLVED
                findings.append(not_everywhere("the response"))
            yield RowResult(run.phasors(one_row(point, row), axis, values), tuple(findings), cause)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        trace = signals.others[RESPONSE]
        frequency, values = trace.along().values, np.asarray(trace.values, complex)
        ends = []
        for name, corner in (("above", lower_cutoff), ("below", upper_cutoff)):
            try:
                ends.append(f"{name} {format_value(corner(frequency, values), 'Hz', 3)}")
            except MeasurementError:
                continue
        level = passband_gain(frequency, values)
        amount = f"{20 * math.log10(level):.3g} dB" if trace.unit == NONE else format_value(level, trace.unit.name, 3)
        where = " and ".join(ends)
        return f"{self.output} follows {self.source} by {amount}{f', {where} (-3 dB)' if where else ''}."

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        return (usual_card(check.title, f"db({RESPONSE})", f"phase({RESPONSE})"),)

    @classmethod
    def taken(cls, command: Command, netlist: Taking) -> Self | None:
        if not isinstance(command, Statement):
            return None
        driver = next((f for f in netlist.fixtures if isinstance(f, Source) and parse_value(f.ac)), None)
        ends = taken_range(command.range, netlist.number(command.range.start), netlist.number(command.range.stop))
        if driver is None or ends is None:
            return None
        return cls.model_validate({**ends, "source": driver.name, "output": netlist.likely_output(driver)})

    def written(self, prepared: Prepared, names: Naming) -> str:
        return f".ac {self.written_range(prepared.scale)}"


class _Run:
    """One run of a response: its outputs, and the drive as the last of them where that is a voltage."""

    def __init__(self, settings: FrequencyResponse, prepared: Prepared) -> None:
        self.settings, self.prepared = settings, prepared
        self.drive = self._drive()
        self.outputs: _Outputs = [*prepared.outputs, *([self.drive] if isinstance(self.drive, tuple) else [])]

    def _drive(self) -> tuple[str, str] | complex:
        """The voltage inside the source as an output, or the current of a source of current."""
        source = self.prepared.check.fixture(self.settings.source)
        assert source is not None  # the document does not take a response without its source
        if isinstance(source, Source) and source.quantity == "current":
            if not (amperes := parse_value(source.ac)):
                raise BoardError(f"source {source.name} has no AC magnitude", remedy="Give it one, such as 1.")
            return cmath.rect(amperes, math.radians(parse_value(source.phase)))
        own = next(element for element in self.prepared.structure.elements if element.name == source.name)
        return drive_node(source.name), own.nodes[1]

    def phasors(self, point: OperatingPoint, axis: Axis, values: Complexes) -> Signals:
        """Signals of phasors [outputs, F] of one row; how they change with the frequency is found when it is asked."""

        @cache
        def steep() -> Signals:
            return self._signals(axis, values, self._slopes(point, axis.values))

        return replace(self._signals(axis, values, None), steep=steep)

    def _signals(self, axis: Axis, values: Complexes, slopes: Complexes | None) -> Signals:
        """Signals of phasors [outputs, F], and the response, the output by what drives it."""
        signals, nets = self.prepared.signals(axis, values), self.prepared.nets
        length = len(axis.values)
        output, steep = np.zeros(length, complex), None if slopes is None else np.zeros(length, complex)
        if self.settings.output in nets:
            place = nets.index(self.settings.output)
            output, steep = values[place], None if slopes is None else slopes[place]
        driven = isinstance(self.drive, tuple)
        reference, unit = (values[-1], VOLTS) if isinstance(self.drive, tuple) else (self.drive, AMPERES)
        response = Trace(output / reference, VOLTS / unit, axis)
        if slopes is not None and steep is not None:
            moving = slopes[-1] if driven else 0.0
            response = replace(response, slope=(steep - response.values * moving) / reference)
            named = (*nets, *self.prepared.metered)
            signals = replace(signals, slopes=dict(zip(named, slopes, strict=False)))
        return replace(signals, others={RESPONSE: response})

    def _slopes(self, point: OperatingPoint, frequency: Floats) -> Complexes:
        """How phasors [outputs, F] of one row change with the frequency, per hertz.

        Of solutions a millionth above and below: a derivative of the solution, whatever the points of the sweep.
        """
        above, below = (
            ac_at(point, frequency * (1.0 + side), self.outputs).values[0] for side in (BESIDE, -BESIDE)
        )  # fmt: skip
        return np.asarray((above - below) / (2.0 * BESIDE * frequency))

    def roots(self, point: OperatingPoint, natural: list[Poles]) -> list[Complexes]:
        """Poles, and the zeros of the output where it has lightly damped ones, of every row."""
        poles_of = [found.values for found in natural]
        output, source = self.settings.output, self.settings.source
        if output not in self.prepared.nets:
            return poles_of
        # Those that are none lie beyond every sweep.
        others = possible_zeros(one_row(point, 0), source, (output, GROUND))
        if not len(light(others[0].values)):
            return poles_of
        if len(natural) > 1:
            others = possible_zeros(point, source, (output, GROUND))
        return [np.concatenate([found, other.values]) for found, other in zip(poles_of, others, strict=True)]

    def refined(
        self, point: OperatingPoint, row: int, frequency: Floats, values: Complexes
    ) -> tuple[Floats, Complexes]:
        """More points wherever the phase of an output turns too far between two: behind a line, for one."""
        while len(frequency) < MOST_REFINED:
            with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
                turn = np.abs(np.angle(values[:, 1:] / values[:, :-1]))
            wide = np.flatnonzero(np.any(turn > TURN, axis=0) & (np.diff(frequency) > 1e-9 * frequency[1:]))
            if not len(wide):
                break
            more = np.sqrt(frequency[wide] * frequency[wide + 1])[: MOST_REFINED - len(frequency)]
            found = ac_at(one_row(point, row), more, self.outputs).values[0]
            order = np.argsort(np.concatenate([frequency, more]), kind="stable")
            frequency = np.concatenate([frequency, more])[order]
            values = np.concatenate([values, found], axis=1)[:, order]
        return frequency, values
