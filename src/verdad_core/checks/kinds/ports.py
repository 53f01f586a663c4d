"""Ports: what goes through a network and what comes back, as a network analyser measures it (S-parameters)."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from functools import cache
from typing import ClassVar, Literal, Self

import numpy as np

from verdad_core.analyses import network
from verdad_core.analyses.crowding import crowded, light
from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.poles import Poles
from verdad_core.analyses.scattering import renormalise
from verdad_core.analyses.small_signal import respond
from verdad_core.arrays import Complexes, Floats
from verdad_core.checks.kind import First, Naming
from verdad_core.checks.outputs import usual_card
from verdad_core.checks.over_frequency import OverFrequency, not_everywhere
from verdad_core.checks.prepared import Look, Prepared, RowResult
from verdad_core.checks.signals import Signals
from verdad_core.document.board import Circuit
from verdad_core.document.cards import CardCurve, CheckCard
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Port
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Finding, MeasurementError
from verdad_core.measure.entry import Takes
from verdad_core.measure.response import lower_cutoff, upper_cutoff
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, NONE, VOLTS, Unit
from verdad_core.units import format_value, parse_value

_OHMS, _SIEMENS = VOLTS / AMPERES, AMPERES / VOLTS
#: Ports have a number of one digit here, so that s21 can be read.
_NUMBERS = range(1, 10)
_PAIRS = [f"{j}{k}" for j in _NUMBERS for k in _NUMBERS]

#: What matrices are called, with their unit.
_FORMS = {"s": NONE, "z": _OHMS, "y": _SIEMENS}
_HYBRID = {"h11": _OHMS, "h12": NONE, "h21": NONE, "h22": _SIEMENS}
#: What one port shows, and what is told of two.
_SEEN = {f"zin{k}": _OHMS for k in _NUMBERS}
_OF_TWO = {"rollett": NONE, "mu": NONE, "largest_gain": NONE}
_UNITS: dict[str, Unit] = {f"{f}{pair}": unit for f, unit in _FORMS.items() for pair in _PAIRS}
_UNITS |= _HYBRID | _SEEN | _OF_TWO

#: What takes no power and gives none has a μ of 1, but for so much.
_PASSIVE = 1e-3

#: How far beside a frequency the solutions are that say how it changes there, by the frequency.
_BESIDE = 1e-6


class Ports(OverFrequency):
    """S-parameters between the ports of a check, at their impedances; and Z, Y, H, impedances, stability and gain."""

    kind: Literal["ports"] = "ports"

    title: ClassVar[str] = "S-parameters"
    question: ClassVar[str] = "What goes through, and what comes back at the ports?"
    meaning: ClassVar[str] = (
        "Waves between ports, as a network analyser measures them: S, Z, Y, H, matching, stability."
    )
    has_statement: ClassVar[bool] = False
    looks: ClassVar[str] = ""
    gives: ClassVar[frozenset[Takes]] = frozenset({"number or trace", "trace", "response"})
    brings: ClassVar[frozenset[str]] = frozenset(_UNITS)
    main: ClassVar[str] = "s11"
    relies_on: ClassVar[frozenset[str]] = frozenset({
        "gain_bandwidth", "second_pole", "output_resistance", "input_capacitance", "transition_frequency",
        "collector_capacitance", "reverse_capacitance", "zero_bias_capacitance",
    })  # fmt: skip
    begins_with: ClassVar[tuple[First, ...]] = (First("minimum", "db(s11)"),)

    @classmethod
    def proposed(cls, circuit: Circuit, fixtures: tuple[Fixture, ...]) -> Self:
        _ports(fixtures)
        return cls()

    def traces(self, circuit: Circuit, check: Check) -> frozenset[str]:
        numbers = _numbers(check.fixtures)
        found = {f"{form}{j}{k}" for form in _FORMS for j in numbers for k in numbers} | {f"zin{k}" for k in numbers}
        return frozenset(found | (_HYBRID | _OF_TWO).keys() if len(numbers) == 2 else found)

    def unit_of(self, trace: str, check: Check) -> Unit:
        return _UNITS[trace]

    def rows(self, prepared: Prepared, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        ports = _ports(prepared.check.fixtures)

        def run(point: OperatingPoint, grid: Floats, natural: Poles) -> tuple[Signals | None, list[Finding]]:
            frequency = crowded(grid, light(natural.values))
            values = _scattering(point, ports, frequency)
            if not np.all(np.isfinite(values)):
                return None, [not_everywhere("the waves")]
            axis = Axis("frequency", HERTZ, frequency, logarithmic=True)
            return self._signals(prepared, point, ports, axis, values), []

        return self.row_by_row(prepared, matrix, "what its ports show is no evidence", run)

    def _signals(
        self, prepared: Prepared, point: OperatingPoint, ports: list[Port], axis: Axis, values: Complexes
    ) -> Signals:
        resistances = _resistances(point, ports)
        signals = prepared.signals(axis, np.zeros((0, len(axis.values))), _traces(ports, resistances, axis, values))

        @cache
        def steep() -> Signals:
            above, below = (
                _traces(ports, resistances, axis, _scattering(point, ports, axis.values * (1.0 + side)))
                for side in (_BESIDE, -_BESIDE)
            )
            others = {
                name: replace(trace, slope=(above[name].values - below[name].values) / (2.0 * _BESIDE * axis.values))
                for name, trace in signals.others.items()
            }
            return replace(signals, others=others, steep=None)

        return replace(signals, steep=steep)

    def sentence(self, prepared: Prepared, signals: Signals) -> str:
        numbers = _numbers(prepared.check.fixtures)
        first, last = numbers[0], numbers[-1]
        back = signals.others[f"s{first}{first}"]
        frequency, size = back.along().values, np.abs(back.values)
        if first == last:
            k = int(np.argmin(size))
            best = format_value(float(frequency[k]), "Hz", 3)
            return f"Port {first} is matched best at {best}: {_decibels(size[k])} come back."
        through = np.asarray(signals.others[f"s{last}{first}"].values, complex)
        k, ends = int(np.argmax(np.abs(through))), []
        for name, corner in (("above", lower_cutoff), ("below", upper_cutoff)):
            try:
                ends.append(f"{name} {format_value(corner(frequency, through), 'Hz', 3)}")
            except MeasurementError:
                continue
        where = f", {' and '.join(ends)} (-3 dB)" if ends else ""
        words = (
            f"{_decibels(through[k])} go from port {first} to port {last}{where}; "
            f"where most goes through, {_decibels(size[k])} come back."
        )
        least = float(np.nanmin(signals.others["mu"].values, initial=math.inf)) if "mu" in signals.others else math.inf
        if least < 1.0 - _PASSIVE:
            words += f" A source or load could make it oscillate: μ falls to {least:.2f}."
        return words

    def usual_cards(self, circuit: Circuit, check: Check) -> tuple[CheckCard, ...]:
        numbers = _numbers(check.fixtures)[:4]
        if not numbers:
            return ()
        first, *others = numbers
        through = [f"db(s{other}{first})" for other in others]
        drawn = [CardCurve(expression=f"s{k}{k}") for k in numbers]
        shown = [CardCurve(expression=f"zin{k}", pane=1) for k in numbers]
        return (
            usual_card(check.title, *through, f"db(s{first}{first})"),
            CheckCard(id="smith", title="Matching", shape="smith", curves=(*drawn, *shown)),
        )

    def written(self, prepared: Prepared, names: Naming) -> str:
        return "* the waves between its ports: no statement asks for it"


def _numbers(fixtures: tuple[Fixture, ...]) -> list[int]:
    return sorted(port.number for port in fixtures if isinstance(port, Port))


def _ports(fixtures: tuple[Fixture, ...]) -> list[Port]:
    """The ports in the order of their numbers. Raises BoardError where there are none, or two of one number."""
    ports = sorted((f for f in fixtures if isinstance(f, Port)), key=lambda port: port.number)
    if not ports:
        raise BoardError("there are no ports", remedy="Attach one to each net that waves go into, such as port in 50.")
    numbers = _numbers(fixtures)
    for port in ports:
        if numbers.count(port.number) > 1:
            raise BoardError(f"two ports have the number {port.number}", remedy="Give one of them another number.")
        if port.number not in _NUMBERS:
            raise BoardError(f"{port.name} has the number {port.number}", remedy="Number ports from 1 to 9.")
    return ports


def _resistances(point: OperatingPoint, ports: list[Port]) -> Floats:
    """What closes each port in a row, in Ω."""
    matrix, found = point.matrix, []
    for port in ports:
        column = point.structure.column(f"{port.name}:resistance", "resistance")
        varied = np.flatnonzero(matrix.columns == column)
        found.append(matrix.values[0, varied[0]] if len(varied) else matrix.nominal[column])
    return np.array(found, float)


def _scattering(point: OperatingPoint, ports: list[Port], frequency: Floats) -> Complexes:
    """S [F, ports, ports] at the ports' resistances: each driven by 1 V behind its own, all others closed by theirs.

    With b = (v - R i) / 2√R and a = (v + R i) / 2√R (Kurokawa 1965) the wave into the driven port is 1 / 2√R.
    """
    structure, resistances = point.structure, _resistances(point, ports)
    drives = np.zeros((len(ports), structure.size + 1), complex)
    for k, port in enumerate(ports):
        drives[k, structure.index(f"i({port.name})")] = 1.0
    nets = [tuple(GROUND if net == "gnd" else net for net in (port.plus, port.minus)) for port in ports]
    volts = respond(point, frequency, [(plus, minus) for plus, minus in nets], drives)[0]
    # volts [driven k, seen j, F].
    scale = 2.0 * np.sqrt(resistances[None, :] / resistances[:, None])
    return np.asarray(np.moveaxis(volts, 2, 0).swapaxes(1, 2) * scale - np.eye(len(ports)))


def _traces(ports: list[Port], resistances: Floats, axis: Axis, real: Complexes) -> dict[str, Trace]:
    """All that is told of S-parameters at the ports' resistances; S itself at their whole impedances."""
    numbers = [port.number for port in ports]
    reactances = np.array([parse_value(port.reactance) for port in ports])
    s = renormalise(real, resistances, resistances + 1j * reactances) if np.any(reactances) else real
    found: dict[str, Trace] = {}
    matrices = {"s": s, "z": network.to_z(real, resistances), "y": network.to_y(real, resistances)}
    for form, values in matrices.items():
        for j, row in enumerate(numbers):
            for k, column in enumerate(numbers):
                found[f"{form}{row}{column}"] = Trace(values[:, j, k], _FORMS[form], axis)
    for k, number in enumerate(numbers):
        found[f"zin{number}"] = Trace(network.seen(real, resistances)[:, k], _OHMS, axis)
    if len(ports) == 2:
        hybrid = network.to_h(real, resistances)
        for name, unit in _HYBRID.items():
            found[name] = Trace(hybrid[:, int(name[1]) - 1, int(name[2]) - 1], unit, axis)
        found["rollett"] = Trace.of_lines(network.rollett(real), NONE, axis)
        found["mu"] = Trace.of_lines(network.mu(real), NONE, axis)
        found["largest_gain"] = Trace(network.largest_gain(real), NONE, axis, nature="power")
    return found


def _decibels(wave: complex) -> str:
    """The size of a wave, to a hundredth of a decibel."""
    return f"{round(20.0 * math.log10(max(abs(wave), 1e-30)), 2) + 0.0:g} dB"
