"""Which of an amplifier's inputs its output is fed back to at direct current."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np

from verdad_core.board.document import Circuit
from verdad_core.board.fixtures import Fixture, Load, Source, Written
from verdad_core.board.parts import Generic, Modelled, Part, pins_of, unit_names, unit_pins
from verdad_core.units import parse_value

#: What a resistor of no ohms and an inductor come to, and what an open input still leaks, in siemens.
_SHORT, _LEAK = 1e6, 1e-12


def amplifiers(part: Part) -> dict[str, dict[str, str]]:
    """The amplifiers in a part: by name ("U1", "U1A"), the nets of in+, in- and out."""
    if not isinstance(part, Modelled | Generic):
        return {}
    units = unit_names(part.units) if isinstance(part, Modelled) else ("",)
    found = {part.designator + unit: unit_pins(part.pins, unit) for unit in units}
    return {name: nets for name, nets in found.items() if {"in+", "in-", "out"} <= nets.keys()}


def feedback(circuit: Circuit, fixtures: Iterable[Fixture]) -> dict[str, tuple[float, float]]:
    """Of each amplifier, the share of its output that comes back to (in+, in-) at direct current.

    Only resistors, inductors and fixtures count; outputs of the other amplifiers hold still, so a loop through two of
    them is not seen. The shares are the voltage ratios of the resistive network, by nodal analysis.
    """
    every = {name: nets for part in circuit.parts for name, nets in amplifiers(part).items()}
    branches = [*_branches(circuit.parts), *_fixture_branches(fixtures)]
    held = {"gnd"} | {net for nets in every.values() for net in (nets["out"],)}
    for fixture in fixtures:
        if not isinstance(fixture, Load) and not (isinstance(fixture, Source) and parse_value(fixture.resistance)):
            held |= {fixture.plus, fixture.minus} if not _is_current(fixture) else set()
    found = {}
    for name, nets in every.items():
        volts = _solved(branches, held, nets["out"])
        found[name] = (volts.get(nets["in+"], 0.0), volts.get(nets["in-"], 0.0))
    return found


def _is_current(fixture: Fixture) -> bool:
    return isinstance(fixture, Written) and fixture.quantity == "current"


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
        if isinstance(fixture, Load | Source) and (resistance := parse_value(fixture.resistance)):
            yield fixture.plus, fixture.minus, 1.0 / resistance


def _solved(branches: list[tuple[str, str, float]], held: set[str], driven: str) -> Mapping[str, float]:
    """Volts of every net with one volt on `driven` and none on the other nets that are held."""
    nets = sorted({net for a, b, _ in branches for net in (a, b)} - held)
    fixed = dict.fromkeys(held, 0.0) | {driven: 1.0 if driven != "gnd" else 0.0}
    if not nets:
        return fixed
    index = {net: k for k, net in enumerate(nets)}
    matrix, right = np.eye(len(nets)) * _LEAK, np.zeros(len(nets))
    for a, b, conductance in branches:
        for one, other in ((a, b), (b, a)):
            if one not in index:
                continue
            matrix[index[one], index[one]] += conductance
            if other in index:
                matrix[index[one], index[other]] -= conductance
            else:
                right[index[one]] += conductance * fixed.get(other, 0.0)
    return fixed | dict(zip(nets, np.linalg.solve(matrix, right).tolist(), strict=True))
