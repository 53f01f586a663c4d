"""What a designer most likely looks at in a circuit, and what drives it."""

from __future__ import annotations

import re
from collections.abc import Sequence

from verdad_core.document.board import Circuit
from verdad_core.document.cards import CardCurve, CheckCard
from verdad_core.document.fixtures import Fixture, Port, Source
from verdad_core.document.parts import Generic, Modelled, Valued, nets_of
from verdad_core.errors import BoardError

#: Pins that tell a part what to do, and carry nothing through it.
_CONTROLS = ("gate", "base", "control", "enable")
#: Nets that nobody has named.
_UNNAMED = re.compile(r"n\d+")


def nets_in_order(circuit: Circuit) -> list[str]:
    """The nets of a circuit but ground, in the order of its parts."""
    return [net for net in dict.fromkeys(net for part in circuit.parts for net in nets_of(part)) if net != "gnd"]


def outputs(circuit: Circuit, fixtures: Sequence[Fixture]) -> list[str]:
    """The nets that are called outputs, those of loads, or the one that the last part is on; at most three."""
    nets = nets_in_order(circuit)
    if called := [net for net in nets if "out" in net.lower()]:
        return called[:3]
    loaded = [fixture.plus for fixture in fixtures if fixture.kind == "load" and fixture.plus in nets]
    named = [net for net in nets if not _UNNAMED.fullmatch(net)]
    return loaded[:3] or (named or nets)[-1:]


def only_controls(circuit: Circuit, net: str) -> bool:
    """Whether a net leads to nothing but gates, bases and other controls, directly or through one part."""
    reached = {net} | {
        other
        for part in circuit.parts
        if isinstance(part, Valued) and net in part.pins
        for other in part.pins
        if other not in (net, "gnd")
    }
    met = [
        pin in _CONTROLS
        for part in circuit.parts
        if isinstance(part, Modelled | Generic)
        for pin, other in part.pins.items()
        if other in reached
    ]
    return bool(met) and all(met)


def likely_output(circuit: Circuit, fixtures: Sequence[Fixture]) -> str:
    """The first of them. Raises BoardError for a circuit without a net."""
    found = outputs(circuit, fixtures)
    if not found:
        raise BoardError("the circuit has no net to look at yet", remedy="Place a part, then ask again.")
    return found[0]


def likely_driver(fixtures: Sequence[Fixture], what: str) -> str:
    """The first fixture that can drive a response. Raises BoardError where there is none."""
    found = next((fixture.name for fixture in fixtures if isinstance(fixture, Source | Port)), None)
    if found is None:
        raise BoardError(
            f"{what} needs a source", remedy="Type source in 50, or draw from a net across the board edge."
        )
    return found


def usual_card(title: str, *expressions: str) -> CheckCard:
    """The card of a check that nobody has chosen any for."""
    return CheckCard(id="usual", title=title, curves=tuple(CardCurve(expression=each) for each in expressions))
