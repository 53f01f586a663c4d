"""A circuit of the board with one check's fixture around it, turned into the engine's elements."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from verdad_core.board.document import Check, Circuit
from verdad_core.board.fixtures import Fixture, Source, Supply
from verdad_core.board.parts import VALUE_PARAMETER, Modelled, Part
from verdad_core.devices import Element
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, Place
from verdad_core.netlist.flatten import flatten_subcircuit
from verdad_core.netlist.reader import read
from verdad_core.units import parse_value


@dataclass(frozen=True)
class ModelFile:
    """The text of a stored model file, and the role of each node of its subcircuits, in node order."""

    name: str
    text: str
    roles: Mapping[str, tuple[str, ...]]


#: Model files by the identifier that the board's parts use.
ModelFiles = Mapping[str, ModelFile]


def elaborate(circuit: Circuit, check: Check, models: ModelFiles) -> list[Element]:
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


def _part(part: Part, models: ModelFiles) -> list[Element]:
    if isinstance(part, Modelled):
        return _modelled(part, models)
    nodes = tuple(_node(net) for net in part.pins)
    return [Element(part.designator, part.kind, nodes, {VALUE_PARAMETER[part.kind]: parse_value(part.value)})]


def _modelled(part: Modelled, models: ModelFiles) -> list[Element]:
    place = Place(part=part.designator)
    file = models.get(part.model.file)
    if file is None:
        raise BoardError(
            f"{part.designator}: its model file is not stored",
            place=place,
            remedy="Take the file in again under Models.",
        )
    name = part.model.subcircuit
    scope = read(file.text).top.subcircuit(name.lower())
    roles = file.roles.get(name)
    if scope is None or roles is None:
        raise BoardError(
            f"{part.designator}: {file.name} has no subcircuit {name}", place=place, remedy="Choose one of its own."
        )
    if sorted(roles) != sorted(part.pins):
        raise BoardError(
            f"{part.designator} has the pins {', '.join(sorted(part.pins))}, its model {', '.join(sorted(roles))}",
            place=place,
            remedy=f"Correct the pins of {name} under Models.",
        )
    pins = {node: _node(part.pins[role]) for node, role in zip(scope.pins, roles, strict=True)}
    return flatten_subcircuit(scope, f"{part.designator}.", pins).elements


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
