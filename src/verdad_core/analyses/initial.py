"""Initial conditions of a transient: whether they can all be true at once."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.devices import Element
from verdad_core.devices.waveforms import PWL, Waveform
from verdad_core.engine.structure import GROUND, Structure
from verdad_core.errors import CircuitError, Place
from verdad_core.units import format_value

#: Voltages and currents that differ by less, relative to their size or in V and A, agree.
AGREE = 1e-6

#: What a node that is held at a voltage may be away from it, in V, before something else is said to hold it.
_HELD = 1e-3


@dataclass(frozen=True)
class _Tie:
    """v(plus) - v(minus) = volts, and who says so."""

    plus: str
    minus: str
    volts: float
    who: str
    line: int | None


def check_held(point: OperatingPoint, initial: Mapping[str, float]) -> None:
    """Raise CircuitError where a node of a solved nominal row is held elsewhere than asked."""
    if not initial or not point.path(0).solved:
        return
    for node, volts in initial.items():
        found = point.value(node)
        if abs(found - volts) > _HELD + _HELD * abs(volts):
            parts = ", ".join(point.structure.parts_at(node)[:4])
            raise CircuitError(
                f"the initial condition {format_value(volts, 'V')} at node {node} cannot hold: the circuit keeps the "
                f"node at {format_value(found, 'V')}. Parts there: {parts}",
                place=Place(nodes=(node,)),
                remedy="Remove the condition, or what holds the node.",
            )


def check_conditions(structure: Structure, initial: Mapping[str, float]) -> None:
    """Raise CircuitError where conditions on nodes, capacitors, inductors and sources contradict each other."""
    for node in initial:
        structure.index(node)
    ties = list(_ties(structure, initial))
    # Nodes that ties connect, each with its voltage against its group's first one, and the ties in between.
    above: dict[str, tuple[str, float]] = {}

    def root(node: str) -> tuple[str, float]:
        volts = 0.0
        while node in above:
            node, more = above[node]
            volts += more
        return node, volts

    said: dict[str, list[str]] = {}
    for tie in ties:
        (one, plus), (other, minus) = root(tie.plus), root(tie.minus)
        if one != other:
            above[one] = (other, tie.volts + minus - plus)
            said[other] = said.get(other, []) + said.pop(one, []) + [tie.who]
        elif abs(plus - minus - tie.volts) > AGREE * (1.0 + abs(tie.volts)):
            others = ", ".join(dict.fromkeys(said.get(one, [])))
            between = tie.plus if tie.minus == GROUND else f"{tie.plus} and {tie.minus}"
            raise CircuitError(
                f"initial conditions contradict: {tie.who} asks for {format_value(tie.volts, 'V')} at {between}, but "
                f"{others} for {format_value(plus - minus, 'V')}",
                place=Place(line=tie.line, nodes=tuple(n for n in (tie.plus, tie.minus) if n != GROUND)),
                remedy="Give each voltage once.",
            )
    _check_currents(structure)


def _ties(structure: Structure, initial: Mapping[str, float]) -> Iterator[_Tie]:
    for element in structure.elements:
        if element.family == "voltage source":
            volts = _at_start(element)
            if volts is not None:
                yield _Tie(element.nodes[0], element.nodes[1], volts, element.name, element.line)
    for element in structure.elements:
        if element.family == "capacitor" and not math.isnan(element.values.get("ic", math.nan)):
            yield _Tie(element.nodes[0], element.nodes[1], element.values["ic"], element.name, element.line)
    for node, volts in initial.items():
        yield _Tie(node, GROUND, volts, f"the condition at node {node}", None)


def _at_start(element: Element) -> float | None:
    """An independent source's value at t = 0, where it is plain."""
    waveform: Waveform | None = element.extra
    if waveform is None:
        return element.values.get("dc", 0.0)
    if waveform.kind == PWL:
        return element.values.get("y1", waveform.values[2]) if waveform.values[1] >= 0 else None
    return None


def _check_currents(structure: Structure) -> None:
    """At a node with nothing but inductors, their currents must add up to nothing."""
    at: dict[str, list[tuple[Element, float]]] = {}
    for element in structure.elements:
        for k, node in enumerate(element.nodes):
            at.setdefault(node, []).append((element, 1.0 if k == 0 else -1.0))
    for node, there in at.items():
        if node == GROUND or any(e.family != "inductor" or math.isnan(e.values.get("ic", math.nan)) for e, _ in there):
            continue
        total = sum(sign * element.values["ic"] for element, sign in there)
        if abs(total) > AGREE * (1.0 + max(abs(e.values["ic"]) for e, _ in there)):
            names = ", ".join(element.name for element, _ in there)
            raise CircuitError(
                f"initial conditions contradict: {format_value(abs(total), 'A')} more flow into node {node} than out "
                f"of it, and only inductors are there ({names})",
                place=Place(line=there[-1][0].line, nodes=(node,)),
                remedy="Give inductors in series the same current.",
            )
