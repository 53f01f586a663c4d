"""Noise: its density at any net, referred to the source, and what every part adds to it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import ClassVar, Literal, Self

import numpy as np

from verdad_core.analyses.ac import logarithmic
from verdad_core.analyses.crowding import crowded, light
from verdad_core.analyses.noise import NoiseResult, densities, flicker, integrate, noise_at
from verdad_core.analyses.operating_point import OperatingPoint, one_row
from verdad_core.analyses.poles import Poles
from verdad_core.arrays import Complexes, Floats
from verdad_core.checks.cause import Cause
from verdad_core.checks.feedback import CONTROLS, amplifiers
from verdad_core.checks.kind import First, Naming, Taking
from verdad_core.checks.outputs import likely_driver, likely_output, usual_card
from verdad_core.checks.over_frequency import OverFrequency, not_everywhere, taken_range
from verdad_core.checks.prepared import Look, Prepared, RowResult, Scale
from verdad_core.checks.signals import Mechanism, Share, Signals
from verdad_core.checks.stability import stability
from verdad_core.commands.noise import Noise as Statement
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Source
from verdad_core.document.parts import Generic, Modelled, unit_names
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Finding, MeasurementError, Place, Severity
from verdad_core.measure.density import SIGMAS
from verdad_core.measure.entry import Takes
from verdad_core.measure.expressions import written_name
from verdad_core.measure.response import lower_cutoff, upper_cutoff
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, VOLTS, Unit
from verdad_core.netlist.command import Command
from verdad_core.schema import Name, Net, setting
from verdad_core.units import format_span, format_value, parse_value

#: The density at the output, and the same referred to the source.
NOISE, INPUT_NOISE = "noise", "input_noise"

_ROOT_HERTZ = HERTZ**0.5

#: Points a decade that show where a source is passed on.
_COARSE = 20
#: Where noise is looked at from, where the source is passed on down to nothing: common practice, no source.
_LOWEST = 0.1


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
    begins_with: ClassVar[tuple[First, ...]] = (First("band_rms", NOISE),)

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        output = likely_output(circuit, fixtures)
        try:
            return cls(output=output, source=likely_driver(fixtures, "noise"))
        except BoardError:
            return cls(output=output)

    def traces(self, circuit: Circuit, check: Check) -> frozenset[str]:
        owners = [part.designator for part in circuit.parts] + [fixture.name for fixture in check.fixtures]
        return self.brings | {_trace_of(owner) for owner in owners}

    def range_for(self, point: OperatingPoint, natural: Poles) -> Scale:
        """Around the pass band from the source to the output, where there is one: there lies what is heard of it.

        Far above it there is but the floor of the last amplifier, which would be most of a sum over all frequencies.
        """
        wide = super().range_for(point, natural)
        if not (self.start and self.stop) and self.source and point.path().solved:
            frequency = logarithmic(wide.start, wide.stop, _COARSE)
            found = noise_at(point, frequency, [(self.output, GROUND)], self.source, by=None)
            if found.gain is not None and np.any(np.abs(found.gain) > 0.0):
                return self._around(frequency, found.gain[0, 0], wide)
        return wide

    def _around(self, frequency: Floats, gain: Complexes, wide: Scale) -> Scale:
        corners = [_corner(find, frequency, gain) for find in (lower_cutoff, upper_cutoff)]
        low, high = corners
        start = min(wide.start, _LOWEST) if low is None else 10.0 ** (math.floor(math.log10(low)) - 1)
        stop = wide.stop if high is None else 10.0 ** (math.ceil(math.log10(high) - 1e-9) + 1)
        start = start if self.start is None else parse_value(self.start)
        stop = stop if self.stop is None else parse_value(self.stop)
        if not start < stop:
            return wide
        band = " to ".join(format_value(corner, "Hz", 3) for corner in corners if corner is not None)
        where = f"a decade beyond where {self.source} is passed on, {band}" if band else "all that is passed on"
        return Scale(start, stop, f"{format_span(start, stop, 'Hz')}: {where}")

    def unit_of(self, trace: str, check: Check) -> Unit:
        source = check.fixture(self.source)
        amperes = trace == INPUT_NOISE and isinstance(source, Source) and source.quantity == "current"
        return self.units[1 if amperes else 0]

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        point, natural = prepared.points(matrix)
        grids = self.grids(prepared, point, natural)
        narrow = [light(found.values) for found in natural]
        alike = all(grid is grids[0] for grid in grids) and not any(map(len, narrow))
        shared, mechanisms = self._densities(prepared, point, grids[0]) if alike else None, densities(point)
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
                findings.append(not_everywhere("the noise"))
            axis = Axis("frequency", HERTZ, frequency, logarithmic=True)
            others = {NOISE: Trace.of_lines(np.sqrt(main.total[k, 0]), self.unit_of(NOISE, prepared.check), axis)}
            if self.source:
                unit = self.unit_of(INPUT_NOISE, prepared.check)
                others[INPUT_NOISE] = Trace.of_lines(np.sqrt(main.input_referred[k, 0]), unit, axis)
            parts = _by_part(prepared.circuit, main, flicker(mechanisms[row], frequency), k)
            for owner, kinds in parts.items():
                density = np.sqrt(sum(kinds.values(), np.zeros(len(frequency))))
                others[_trace_of(owner)] = Trace.of_lines(density, self.units[0], axis)
            shares = _shares(frequency, parts)
            findings += _without_noise(prepared.circuit, shares)
            signals = prepared.signals(axis, np.sqrt(all_nets[k]), others, self.units, shares)
            yield RowResult(signals, tuple(findings), cause)

    def _densities(self, prepared: Prepared, point: OperatingPoint, frequency: Floats) -> tuple[Floats, NoiseResult]:
        """Power densities [S, outputs, F] of all that is kept, and those at the output with what adds to them."""
        everywhere = noise_at(point, frequency, prepared.outputs, by=None).total
        return everywhere, noise_at(point, frequency, [(self.output, GROUND)], self.source, by="mechanism")

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        if not signals.shares or signals.axis is None:
            return ""
        frequency, most = signals.axis.values, signals.shares[0]
        total = math.sqrt(sum(share.value**2 for share in signals.shares))
        over = format_span(float(frequency[0]), float(frequency[-1]), "Hz")
        volts = (
            f"{format_value(total, 'V', 3)} rms ({format_value(SIGMAS * total, 'V', 3)} peak to peak) at {self.output}"
        )
        why = f", {most.mechanisms[0].name} noise most of it" if len(most.mechanisms) > 1 else ""
        return f"{volts}, {over}; {100 * most.part:.0f} % of its power is {most.name}'s{why}."

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


def _corner(find: Callable[[Floats, Complexes], float], frequency: Floats, gain: Complexes) -> float | None:
    try:
        return find(frequency, gain)
    except MeasurementError:
        return None


def _trace_of(owner: str) -> str:
    """What the density at the output that one part or fixture makes is called."""
    return f"{NOISE}.{owner.lower()}"


#: Power densities at the output [F], by what makes them.
_Kinds = dict[str, Floats]


def _by_part(circuit: Circuit, found: NoiseResult, falling: Floats, row: int) -> dict[str, _Kinds]:
    """What parts and fixtures add to the output in a row, by mechanism, of which `falling` [mechanisms, F] is 1/f.

    All units of a package are one part.
    """
    packages = {
        part.designator + unit: part.designator
        for part in circuit.parts
        if isinstance(part, Modelled)
        for unit in unit_names(part.units)
    }
    parts: dict[str, _Kinds] = {}
    for k, (element, mechanism) in enumerate(found.contributors):
        owner = element.split(".")[0].split(":")[0]
        own = parts.setdefault(packages.get(owner, owner), {})
        power, flickering = found.contributions[row, 0, k], falling[k]
        for kind, part in ((_plain(mechanism), power * (1.0 - flickering)), ("1/f", power * flickering)):
            if np.any(part):
                own[kind] = own.get(kind, 0.0) + part
    return parts


def _plain(mechanism: str) -> str:
    """What is left of "thermal (RB)" is thermal, of "base shot and flicker" shot."""
    word = mechanism.split(" (", maxsplit=1)[0].split(" and ", maxsplit=1)[0].rsplit(maxsplit=1)[-1]
    return "given" if word == "density" else word


def _shares(frequency: Floats, parts: dict[str, _Kinds]) -> tuple[Share, ...]:
    """What parts add over the whole range, the largest first."""
    powers = {
        owner: {kind: float(integrate(frequency, density)) for kind, density in kinds.items()}
        for owner, kinds in parts.items()
    }
    total = sum(sum(kinds.values()) for kinds in powers.values())
    if not (total > 0.0 and math.isfinite(total)):
        return ()
    shares = []
    for owner, kinds in powers.items():
        own = sum(kinds.values())
        made = [Mechanism(kind, power / own) for kind, power in kinds.items() if own > 0.0]
        within = sorted(made, key=lambda each: -each.part)
        shares.append(Share(owner, math.sqrt(own), own / total, tuple(within), written_name(f"{NOISE}.{owner}")))
    return tuple(sorted(shares, key=lambda share: -share.value))


def _without_noise(circuit: Circuit, shares: tuple[Share, ...]) -> list[Finding]:
    """Parts with a model that makes no noise at all, so that the sum is too small."""
    heard = {share.name for share in shares if share.value > 0.0}
    models = [
        part.designator
        for part in circuit.parts
        if isinstance(part, Modelled | Generic) and (amplifiers(part) or not part.pins.keys().isdisjoint(CONTROLS))
    ]
    return [
        Finding(Severity.WARNING, f"{name} makes no noise: its model has none", Place(part=name),
                remedy="The sum leaves it out. Take a model with noise, or add a source with its density.")
        for name in models
        if shares and name not in heard
    ]  # fmt: skip
