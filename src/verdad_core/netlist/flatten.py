"""Subcircuits expanded: cards of a scope to flat elements with names such as `u1.q3` and nodes such as `u1.12`."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from verdad_core.devices.base import Control, Element
from verdad_core.errors import NetlistError
from verdad_core.netlist.cards import Card
from verdad_core.netlist.reader import Scope

GROUND = "0"

#: A circuit may expand to this many elements, and to this depth of instances.
MAX_ELEMENTS = 100_000
MAX_DEPTH = 30


def flatten(scope: Scope, prefix: str = "", pins: Mapping[str, str] | None = None) -> list[Element]:
    """The elements of `scope` and of all instances inside it.

    `prefix` (such as "u1.") goes before every name, `pins` maps the scope's own nodes to nodes outside.
    Raises NetlistError, at the statement, for a model or subcircuit that is not defined, a node count that does not
    match, a subcircuit that contains itself, and a circuit that grows too large.
    """
    elements: list[Element] = []
    _expand(scope, prefix, pins or {}, elements, ())
    return elements


def _expand(
    scope: Scope, prefix: str, pins: Mapping[str, str], elements: list[Element], inside: tuple[Scope, ...]
) -> None:
    def node(name: str) -> str:
        return GROUND if name == GROUND else pins.get(name, prefix + name)

    for card in scope.cards:
        if card.subcircuit:
            inner = _definition(scope, card)
            if any(inner is outer for outer in inside) or len(inside) >= MAX_DEPTH:
                raise _at(card, f"subcircuit {card.subcircuit} contains itself", "Remove the recursion.")
            outer_nodes = dict(zip(inner.pins, map(node, card.nodes), strict=True))
            _expand(inner, f"{prefix}{card.name}.", outer_nodes, elements, (*inside, inner))
            continue
        if len(elements) >= MAX_ELEMENTS:
            raise _at(card, f"the circuit expands to more than {MAX_ELEMENTS:,} elements", "Simplify it.")
        elements.append(
            Element(
                name=prefix + card.name,
                family=card.family,
                nodes=tuple(map(node, card.nodes)),
                values=card.values,
                controls=tuple(
                    Control(source=prefix + c.source) if c.source else Control(node(c.plus), node(c.minus))
                    for c in card.controls
                ),
                line=card.statement.line,
            )
        )
        if card.model:
            elements[-1] = _with_model(scope, card, elements[-1])


def _definition(scope: Scope, card: Card) -> Scope:
    inner = scope.subcircuit(card.subcircuit)
    if inner is None:
        raise _at(card, f"subcircuit {card.subcircuit} is not defined", "Add the file that defines it.")
    if len(inner.pins) != len(card.nodes):
        raise _at(
            card,
            f"{card.name} has {len(card.nodes)} nodes, subcircuit {card.subcircuit} has {len(inner.pins)}",
            f"Its nodes are: {' '.join(inner.pins)} (line {inner.line}).",
        )
    return inner


def _with_model(scope: Scope, card: Card, element: Element) -> Element:
    model = scope.model(card.model)
    if model is None:
        raise _at(card, f"model {card.model} is not defined", f"Add .model {card.model}, or correct the name.")
    expected = "diode" if card.name[0] == "d" else "bipolar"
    if model.family != expected:
        raise _at(
            card, f"model {card.model} is for a {model.family}, not for a {expected}", "Correct the model's name."
        )
    return replace(element, family=model.family, values={**model.values, **card.values})


def _at(card: Card, message: str, remedy: str) -> NetlistError:
    return card.statement.error(f"{card.name}: {message}" if card.name not in message else message, remedy)
