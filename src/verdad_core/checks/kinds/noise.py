"""Noise: its density at any net, referred to the source, and what every part adds to it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import ClassVar, Literal, Self

import numpy as np

from verdad_core.analyses.crowding import crowded, light
from verdad_core.analyses.noise import NoiseResult, integrate, noise_at
from verdad_core.analyses.operating_point import OperatingPoint, one_row
from verdad_core.arrays import Floats
from verdad_core.checks.cause import Cause
from verdad_core.checks.kind import Naming, Taking
from verdad_core.checks.outputs import likely_driver, likely_output, usual_card
from verdad_core.checks.over_frequency import OverFrequency, taken_range
from verdad_core.checks.prepared import Look, Prepared, RowResult
from verdad_core.checks.signals import Share, Signals
from verdad_core.checks.stability import stability
from verdad_core.commands.noise import Noise as Statement
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Source
from verdad_core.document.parts import Modelled, unit_names
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Finding, Severity
from verdad_core.measure.entry import Takes
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, VOLTS, Unit
from verdad_core.netlist.command import Command
from verdad_core.schema import Name, Net, setting
from verdad_core.units import format_span, format_value

#: The density at the output, and the same referred to the source.
NOISE, INPUT_NOISE = "noise", "input_noise"

_ROOT_HERTZ = HERTZ**0.5


class NoiseCheck(OverFrequency):
    """Noise at the output, and as if the source were to make all of it. Mechanisms are independent of each other."""

    kind: Literal["noise"] = "noise"
    output: Net = setting(label="At net", chooses="net")
    source: Name | None = setting(
        None, label="Referred to", chooses="driver", empty="nothing", hint="The source that the noise is referred to"
    )

    title: ClassVar[str] = "Noise"
    question: ClassVar[str] = "How much noise is there at {output}, and from what?"
    meaning: ClassVar[str] = "The density of noise at nets and at the source, and what each part adds to it."
    gives: ClassVar[frozenset[Takes]] = frozenset({"number or trace", "trace", "density"})
    units: ClassVar[tuple[Unit, Unit]] = (VOLTS / _ROOT_HERTZ, AMPERES / _ROOT_HERTZ)
    brings: ClassVar[frozenset[str]] = frozenset({NOISE, INPUT_NOISE})
    main: ClassVar[str] = NOISE
    relies_on: ClassVar[frozenset[str]] = frozenset({"voltage_noise", "current_noise", "noise_corner", "noise_density"})
    begins_with: ClassVar[tuple[tuple[str, str], ...]] = (("band_rms", NOISE),)

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        output = likely_output(circuit, fixtures)
        try:
            return cls(output=output, source=likely_driver(fixtures, "noise"))
        except BoardError:
            return cls(output=output)

    def unit_of(self, trace: str, check: Check) -> Unit:
        source = check.fixture(self.source)
        amperes = trace == INPUT_NOISE and isinstance(source, Source) and source.quantity == "current"
        return self.units[1 if amperes else 0]

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        point, natural = prepared.points(matrix)
        grids = self.grids(prepared, point, natural)
        narrow = [light(found.values) for found in natural]
        alike = all(grid is grids[0] for grid in grids) and not any(map(len, narrow))
        shared = self._densities(prepared, point, grids[0]) if alike else None
        for row in range(len(point.values)):
            if not point.path(row).solved:
                yield RowResult(None, (), Cause.NOT_SOLVED)
                continue
            if shared is not None:
                frequency, (all_nets, main), k = grids[row], shared, row
            else:
                frequency, k = crowded(grids[row], narrow[row]), 0
                all_nets, main = self._densities(prepared, one_row(point, row), frequency)
            findings = prepared.structure.topology.findings()
            findings += stability(natural[row], Severity.ERROR, "its noise cannot be measured")
            cause = Cause.UNSTABLE if len(natural[row].unstable) else Cause.NUMBER
            if not (np.all(np.isfinite(all_nets[k])) and np.all(np.isfinite(main.total[k]))):
                cause = Cause.NOT_SOLVED
                findings.append(
                    Finding(Severity.ERROR, "the noise could not be computed at every frequency",
                            remedy="Look for extreme values.")
                )  # fmt: skip
            axis = Axis("frequency", HERTZ, frequency, logarithmic=True)
            others = {NOISE: Trace.of_lines(np.sqrt(main.total[k, 0]), self.unit_of(NOISE, prepared.check), axis)}
            if self.source:
                unit = self.unit_of(INPUT_NOISE, prepared.check)
                others[INPUT_NOISE] = Trace.of_lines(np.sqrt(main.input_referred[k, 0]), unit, axis)
            shares = _shares(prepared.circuit, frequency, main, k)
            signals = prepared.signals(axis, np.sqrt(all_nets[k]), others, self.units, shares)
            yield RowResult(signals, tuple(findings), cause)

    def _densities(self, prepared: Prepared, point: OperatingPoint, frequency: Floats) -> tuple[Floats, NoiseResult]:
        """Power densities [S, outputs, F] of all that is kept, and those at the output with what adds to them."""
        everywhere = noise_at(point, frequency, prepared.outputs, by=None).total
        return everywhere, noise_at(point, frequency, [(self.output, GROUND)], self.source)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        if not signals.shares or signals.axis is None:
            return ""
        frequency, most = signals.axis.values, signals.shares[0]
        total = math.sqrt(sum(share.value**2 for share in signals.shares))
        over = format_span(float(frequency[0]), float(frequency[-1]), "Hz")
        volts = f"{format_value(total, 'V', 3)} rms at {self.output} over {over}"
        return f"{volts}; {100 * most.part:.0f} % of its power is {most.name}'s."

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        curves = (NOISE, INPUT_NOISE) if self.source else (NOISE,)
        parts = CheckCard(id="shares", title=f"Noise at {self.output}, by part", shape="shares")
        return (usual_card(check.title, *curves), parts)

    @classmethod
    def taken(cls, command: Command, netlist: Taking) -> Self | None:
        if not isinstance(command, Statement) or command.range is None or command.output[1] != GROUND:
            return None
        output, source = netlist.net(command.output[0]), netlist.driver(command.source)
        ends = taken_range(command.range, netlist.number(command.range.start), netlist.number(command.range.stop))
        if output is None or ends is None:
            return None
        return cls.model_validate({**ends, "output": output, "source": source})

    def written(self, prepared: Prepared, names: Naming) -> str:
        source = self.source or likely_driver(prepared.check.fixtures, "a statement of noise")
        return f".noise v({names.node(self.output)}) {names.source(source)} {self.written_range(prepared.scale)}"


def _shares(circuit: Circuit, frequency: Floats, found: NoiseResult, row: int) -> tuple[Share, ...]:
    """What parts and fixtures add to the output over the whole range, the largest first.

    All units of a package are one part.
    """
    packages = {
        part.designator + unit: part.designator
        for part in circuit.parts
        if isinstance(part, Modelled)
        for unit in unit_names(part.units)
    }
    power: dict[str, float] = {}
    squares = integrate(frequency, found.contributions[row, 0])
    for (element, _), square in zip(found.contributors, squares, strict=True):
        owner = element.split(".")[0].split(":")[0]
        owner = packages.get(owner, owner)
        power[owner] = power.get(owner, 0.0) + float(square)
    total = sum(power.values())
    if not (total > 0.0 and math.isfinite(total)):
        return ()
    ordered = sorted(power.items(), key=lambda item: -item[1])
    return tuple(Share(owner, math.sqrt(square), square / total) for owner, square in ordered)
