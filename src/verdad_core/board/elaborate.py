"""A circuit of the board with one check's fixture around it, turned into the engine's elements."""

from __future__ import annotations

from collections.abc import Mapping

from verdad_core.board.document import Check, Circuit
from verdad_core.board.fixtures import Fixture, Load, Source, Supply, Written
from verdad_core.board.parts import (
    VALUE_PARAMETER,
    Generic,
    Modelled,
    Part,
    Statement,
    Valued,
    nets_of,
    package_pins,
    unit_names,
    unit_pins,
)
from verdad_core.board.statements import statement_elements
from verdad_core.devices import Element
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Place
from verdad_core.intake.generic import generic_elements
from verdad_core.intake.model import Model
from verdad_core.units import parse_value

#: Models by the identifier that the board's parts use.
Models = Mapping[str, Model]


def elaborate(circuit: Circuit, check: Check, models: Models) -> list[Element]:
    """The flat circuit of a check.

    Elements of parts have the part's designator as name, those inside a model `U1.name`; fixtures keep their own.
    Raises BoardError for a model that is missing or whose pins do not match, and for a fixture on a net that no part
    touches; NetlistError for a model that is broken.
    """
    nets = dict.fromkeys(net for part in circuit.parts for net in nets_of(part))
    attached = dict.fromkeys(net for fixture in check.fixtures for net in (fixture.plus, fixture.minus))
    if missing := [net for net in (*attached, check.output) if net and net not in nets and net != "gnd"]:
        raise BoardError(
            f"check '{check.title}' is attached to net {missing[0]}, which no part touches",
            place=Place(nodes=(missing[0],)), remedy="Attach it to a net of the circuit, or name the net so.",
        )  # fmt: skip
    elements: list[Element] = []
    for part in circuit.parts:
        elements += _part(part, models)
    for fixture in check.fixtures:
        elements += _fixture(fixture)
    return elements + statement_elements(
        circuit.definitions,
        (part for part in circuit.parts if isinstance(part, Statement)),
        (fixture for fixture in check.fixtures if isinstance(fixture, Written)),
        nets,
        [element.name for element in elements],
    )


def drive_node(source: str) -> str:
    """The node inside a source, in front of its own resistance: the reference of the response."""
    return f"{source}:drive"


def _node(net: str) -> str:
    return GROUND if net == "gnd" else net


def value_key(part: Valued) -> tuple[str, str]:
    """The element and parameter that hold a part's value."""
    return part.designator, VALUE_PARAMETER[part.kind]


def _part(part: Part, models: Models) -> list[Element]:
    if isinstance(part, Statement):
        return []
    if isinstance(part, Modelled):
        return _modelled(part, models)
    if isinstance(part, Generic):
        nets = {pin: _node(net) for pin, net in part.pins.items()}
        return generic_elements(part.part, part.designator, nets, _numbers(part.settings))
    if not part.value:
        raise BoardError(f"{part.designator} has no value", place=Place(part=part.designator), remedy="Give it one.")
    nodes = tuple(_node(net) for net in part.pins)
    return [Element(part.designator, part.kind, nodes, {VALUE_PARAMETER[part.kind]: parse_value(part.value)})]


def _numbers(settings: Mapping[str, str]) -> dict[str, float]:
    return {name: parse_value(text) for name, text in settings.items()}


def _modelled(part: Modelled, models: Models) -> list[Element]:
    place = Place(part=part.designator)
    model = models.get(part.model.id)
    if model is None:
        raise BoardError(
            f"{part.designator}: its model {part.model.name} is not on the shelf",
            place=place,
            remedy="Take it in again under Models, or choose another one.",
        )
    if sorted(package_pins(model.roles, part.units)) != sorted(part.pins):
        raise BoardError(
            f"{part.designator} has the pins {', '.join(sorted(part.pins))}, "
            f"its model {', '.join(sorted(model.roles))}",
            place=place,
            remedy=f"Correct the pins of {model.name} under Models.",
        )
    nodes = {pin: _node(net) for pin, net in part.pins.items()}
    return [
        element
        for unit in unit_names(part.units)
        for element in model.elements(part.designator + unit, unit_pins(nodes, unit), _numbers(part.settings))
    ]


def _fixture(fixture: Fixture) -> list[Element]:
    nodes = (_node(fixture.plus), _node(fixture.minus))
    match fixture:
        case Written():
            return []
        case Load():
            return [Element(fixture.name, "resistor", nodes, {"resistance": parse_value(fixture.resistance)})]
        case Supply():
            return [Element(fixture.name, "voltage source", nodes, {"dc": parse_value(fixture.volts)})]
        case Source():
            return _source(fixture, nodes)


def _source(source: Source, nodes: tuple[str, str]) -> list[Element]:
    inner, values = drive_node(source.name), {"dc": parse_value(source.dc), "ac": parse_value(source.ac)}
    series = {"resistance": parse_value(source.resistance)}
    return [
        Element(source.name, "voltage source", (inner, nodes[1]), values),
        Element(f"{source.name}:resistance", "resistor", (inner, nodes[0]), series),
    ]
