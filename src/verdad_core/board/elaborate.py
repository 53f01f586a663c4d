"""A circuit of the board with one check's fixture around it, turned into the engine's elements."""

from __future__ import annotations

from collections.abc import Mapping

from verdad_core.board.document import Check, Circuit
from verdad_core.board.fixtures import Fixture, Source, Supply
from verdad_core.board.parts import VALUE_PARAMETER, Modelled, Part
from verdad_core.devices import Element
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Place
from verdad_core.intake.model import Model
from verdad_core.units import parse_value

#: Models by the identifier that the board's parts use.
Models = Mapping[str, Model]


def elaborate(circuit: Circuit, check: Check, models: Models) -> list[Element]:
    """The flat circuit of a check.

    Elements of parts have the part's designator as name, those inside a model `U1.name`; fixtures keep their own.
    Raises BoardError for a model that is missing or whose pins do not match, NetlistError for one that is broken.
    """
    elements: list[Element] = []
    for part in circuit.parts:
        elements += _part(part, models)
    for fixture in check.fixtures:
        elements += _fixture(fixture)
    return elements


def drive_node(source: str) -> str:
    """The node inside a source, in front of its own resistance: the reference of the response."""
    return f"{source}:drive"


def _node(net: str) -> str:
    return GROUND if net == "gnd" else net


def value_key(part: Part) -> tuple[str, str]:
    """The element and parameter that hold a part's value."""
    return part.designator, VALUE_PARAMETER[part.kind]


def _part(part: Part, models: Models) -> list[Element]:
    if isinstance(part, Modelled):
        return _modelled(part, models)
    nodes = tuple(_node(net) for net in part.pins)
    return [Element(part.designator, part.kind, nodes, {VALUE_PARAMETER[part.kind]: parse_value(part.value)})]


def _modelled(part: Modelled, models: Models) -> list[Element]:
    place = Place(part=part.designator)
    model = models.get(part.model.id)
    if model is None:
        raise BoardError(
            f"{part.designator}: its model {part.model.name} is not on the shelf",
            place=place,
            remedy="Take it in again under Models, or choose another one.",
        )
    if sorted(model.roles) != sorted(part.pins):
        raise BoardError(
            f"{part.designator} has the pins {', '.join(sorted(part.pins))}, "
            f"its model {', '.join(sorted(model.roles))}",
            place=place,
            remedy=f"Correct the pins of {model.name} under Models.",
        )
    return model.elements(part.designator, {role: _node(net) for role, net in part.pins.items()})


def _fixture(fixture: Fixture) -> list[Element]:
    nodes = (_node(fixture.plus), _node(fixture.minus))
    if isinstance(fixture, Supply):
        return [Element(fixture.name, "voltage source", nodes, {"dc": parse_value(fixture.volts)})]
    if isinstance(fixture, Source):
        inner = drive_node(fixture.name)
        values = {"dc": parse_value(fixture.dc), "ac": parse_value(fixture.ac)}
        series = {"resistance": parse_value(fixture.resistance)}
        return [
            Element(fixture.name, "voltage source", (inner, nodes[1]), values),
            Element(f"{fixture.name}:resistance", "resistor", (inner, nodes[0]), series),
        ]
    return [Element(fixture.name, "resistor", nodes, {"resistance": parse_value(fixture.resistance)})]
