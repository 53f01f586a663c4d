"""Which of an amplifier's inputs its output is fed back to at direct current."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence

import numpy as np

from verdad_core.document.board import Circuit
from verdad_core.document.fixtures import Fixture, Port, Source, Supply, Written
from verdad_core.document.parts import Generic, Modelled, Part, pins_of, unit_names, unit_pins
from verdad_core.units import parse_value

#: Pins that control a transistor.
CONTROLS = ("base", "gate")

#: A share of the output that is none; the frequency at which capacitors count, in Hz.
NOTHING, MIDDLE = 1e-6, 1e3

#: What an inductor comes to, in siemens, and which part of its conductances a net leaks besides.
_SHORT, _LEAK = 1e6, 1e-9


def amplifiers(part: Part) -> dict[str, dict[str, str]]:
    """The amplifiers in a part: by name ("U1", "U1A"), the nets of in+, in- and out."""
    if not isinstance(part, Modelled | Generic):
        return {}
    units = unit_names(part.units) if isinstance(part, Modelled) else ("",)
    found = {part.designator + unit: unit_pins(part.pins, unit) for unit in units}
    return {name: nets for name, nets in found.items() if {"in+", "in-", "out"} <= nets.keys()}


def feedback(circuit: Circuit, fixtures: Iterable[Fixture]) -> dict[str, tuple[float, float]]:
    """Of each amplifier, the share of its output that comes back to (in+, in-) at direct current.

    Resistors, inductors and fixtures count, and what follows a voltage: an amplifier whose output is its own in-, a
    transistor with its collector or drain at a supply. Where nothing comes back at direct current, capacitors count as
    they do at MIDDLE hertz. Outputs of the other amplifiers hold still. The shares are the voltage ratios of that
    network, by nodal analysis.
    """
    return {name: seen[name] for name, seen in reaches(circuit, fixtures).items()}


def loops(circuit: Circuit, fixtures: Iterable[Fixture]) -> list[tuple[str, ...]]:
    """The amplifiers around which there is a loop, each with the others that it goes through: strongly connected.

    In the order of the parts; with those that are fed back to their own inverting input first.
    """
    shares = reaches(circuit, fixtures)
    linked = {a: {b for b, ends in seen.items() if max(map(abs, ends)) > NOTHING} for a, seen in shares.items()}

    def from_(start: str) -> set[str]:
        found, pending = set[str](), [start]
        while pending:
            new = linked[pending.pop()] - found
            found |= new
            pending += new
        return found

    beyond = {name: from_(name) for name in linked}
    closed = [name for name in linked if name in beyond[name]]
    ordered = sorted(closed, key=lambda name: abs(shares[name][name][1]) <= NOTHING)
    return [(name, *(other for other in closed if other != name and other in beyond[name] and name in beyond[other]))
            for name in ordered]  # fmt: skip


def reaches(circuit: Circuit, fixtures: Iterable[Fixture]) -> dict[str, dict[str, tuple[float, float]]]:
    """Of each amplifier, the share of its output at (in+, in-) of every amplifier, as in `feedback`."""
    given = tuple(fixtures)
    every = {name: nets for part in circuit.parts for name, nets in amplifiers(part).items()}
    branches = [*_branches(circuit.parts), *_fixture_branches(given)]
    supplied = {net for fixture in given if isinstance(fixture, Supply) for net in (fixture.plus, fixture.minus)}
    grounded = {"gnd"} | {net for fixture in given if _holds(fixture) for net in (fixture.plus, fixture.minus)}
    followers = {nets["out"]: nets["in+"] for nets in every.values() if nets["in-"] == nets["out"]}
    followers |= dict(_transistors(circuit.parts, supplied))
    found = {}
    for name, nets in every.items():
        links = {out: seen for out, seen in followers.items() if out != nets["out"] and out not in grounded}
        held = grounded | ({other["out"] for other in every.values()} - set(links))
        seen: dict[str, tuple[float, float]] = {}
        for more in ((), tuple(_capacitors(circuit.parts))):
            volts = _Network([*branches, *more], held, links).volts(nets["out"])
            seen = {other: (volts(ends["in+"]), volts(ends["in-"])) for other, ends in every.items()}
            if max(map(abs, seen[name])) > NOTHING:
                break
        found[name] = seen
    return found


def _transistors(parts: Iterable[Part], supplied: set[str]) -> Iterable[tuple[str, str]]:
    """What follows a transistor's base or gate: its emitter or source, where the third pin is at a supply."""
    for part in parts:
        pins = pins_of(part)
        for follows, leads, rests in (("emitter", "base", "collector"), ("source", "gate", "drain")):
            if {follows, leads, rests} <= pins.keys() and pins[rests] in supplied and pins[follows] not in supplied:
                yield pins[follows], pins[leads]


def _capacitors(parts: Iterable[Part]) -> Iterable[tuple[str, str, float]]:
    for part in parts:
        if part.kind == "capacitor" and part.value:
            a, b = list(pins_of(part).values())
            yield a, b, 2.0 * math.pi * MIDDLE * parse_value(part.value)


def _holds(fixture: Fixture) -> bool:
    """Whether it keeps its nets at a voltage, whatever current flows."""
    match fixture:
        case Supply():
            return True
        case Source() | Written() if fixture.quantity == "current":
            return False
        case Source():
            return not parse_value(fixture.resistance)
        case Written():
            return True
    return False


def _branches(parts: Iterable[Part]) -> Iterable[tuple[str, str, float]]:
    """Conductances between nets."""
    for part in parts:
        pins = list(pins_of(part).values())
        if part.kind == "resistor" and part.value:
            yield pins[0], pins[1], 1.0 / parse_value(part.value)
        elif part.kind == "inductor":
            yield pins[0], pins[1], _SHORT


def _fixture_branches(fixtures: Iterable[Fixture]) -> Iterable[tuple[str, str, float]]:
    for fixture in fixtures:
        text = fixture.impedance if isinstance(fixture, Port) else getattr(fixture, "resistance", None)
        if text and (resistance := parse_value(text)):
            yield fixture.plus, fixture.minus, 1.0 / resistance


class _Network:
    """Nets between conductances; those that are `held` are at no volts, but for the one that is driven.

    A net of `links` is at the volts of another one.
    """

    def __init__(self, branches: Sequence[tuple[str, str, float]], held: set[str], links: Mapping[str, str]) -> None:
        touched = {net for a, b, _ in branches if a != b for net in (a, b)} | {*links, *links.values()}
        nets = sorted(touched - held)
        self.index = {net: k for k, net in enumerate(nets)}
        self.into = {net: np.zeros(len(nets)) for net in held}
        matrix = np.zeros((len(nets), len(nets)))
        for a, b, conductance in branches:
            for one, other in ((a, b), (b, a)):
                if one not in self.index or one == other:
                    continue
                row = self.index[one]
                matrix[row, row] += conductance
                if other in self.index:
                    matrix[row, self.index[other]] -= conductance
                else:
                    self.into[other][row] += conductance
        for target, seen in links.items():
            row = self.index[target]
            matrix[row] = 0.0
            matrix[row, row] = 1.0
            for volts in self.into.values():
                volts[row] = 0.0
            if seen in self.index:
                matrix[row, self.index[seen]] -= 1.0
            elif seen in self.into:
                self.into[seen][row] = 1.0
        # What hangs on nothing leaks a little, in proportion, so that it has a solution: no volts.
        diagonal = np.arange(len(nets))
        matrix[diagonal, diagonal] = np.where(
            matrix[diagonal, diagonal] == 0.0, 1.0, matrix[diagonal, diagonal] * (1.0 + _LEAK)
        )
        self.inverse = np.linalg.inv(matrix) if nets else matrix

    def volts(self, driven: str) -> Callable[[str], float]:
        """Volts of a net with one volt on `driven`."""
        solved = self.inverse @ self.into[driven] if driven != "gnd" else np.zeros(len(self.index))

        def of(net: str) -> float:
            return float(solved[self.index[net]]) if net in self.index else float(net == driven != "gnd")

        return of
