"""Subcircuits expanded: cards of a scope to flat elements with names such as `u1.q3` and nodes such as `u1.12`."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from verdad_core.devices.base import Control, Element
from verdad_core.errors import NetlistError
from verdad_core.netlist.cards import Card
from verdad_core.netlist.expressions import Parameters, Value
from verdad_core.netlist.models import is_none
from verdad_core.netlist.reader import Scope

GROUND = "0"

#: A circuit may expand to this many elements, and to this depth of instances.
MAX_ELEMENTS = 100_000
MAX_DEPTH = 30


@dataclass(frozen=True)
class _Frame:
    """A scope that is being expanded: the scopes around its definition, its parameters, and where its pins lead."""

    scope: Scope
    parameters: Parameters
    prefix: str
    pins: Mapping[str, str]
    #: The frame that the scope's definition stands in.
    around: _Frame | None = None

    def node(self, name: str) -> str:
        return GROUND if name == GROUND else self.pins.get(name, self.prefix + name)

    def of(self, scope: Scope) -> _Frame:
        """The frame of a scope at or around this one."""
        frame: _Frame | None = self
        while frame is not None and frame.scope is not scope:
            frame = frame.around
        return frame or self


def flatten(scope: Scope, prefix: str = "", pins: Mapping[str, str] | None = None) -> list[Element]:
    """The elements of `scope`, with its parameters' defaults, and of all instances inside it.

    `prefix` (such as "u1.") goes before every name, `pins` maps the scope's own nodes to nodes outside.
    Raises NetlistError, at the statement, for a model, subcircuit or parameter that is not defined, an expression
    without a value, a node count that does not match, a subcircuit that contains itself, and a circuit that grows
    too large.
    """
    elements: list[Element] = []
    _expand(_frame(scope, {}, prefix, pins or {}), elements, ())
    return elements


def _frame(
    scope: Scope, given: Mapping[str, Value], prefix: str, pins: Mapping[str, str], caller: _Frame | None = None
) -> _Frame:
    around = None
    if scope.parent is not None:
        around = caller.of(scope.parent) if caller else _frame(scope.parent, {}, "", {})
    parameters = Parameters({**scope.parameters, **given}, scope.functions, around.parameters if around else None)
    return _Frame(scope, parameters, prefix, pins, around)


def _expand(frame: _Frame, elements: list[Element], inside: tuple[Scope, ...]) -> None:
    for card in frame.scope.cards:
        values = {name: _number(card, name, value, frame.parameters) for name, value in card.values.items()}
        if card.subcircuit:
            inner = _definition(frame.scope, card)
            if any(inner is outer for outer in inside) or len(inside) >= MAX_DEPTH:
                raise _at(card, f"subcircuit {card.subcircuit} contains itself", "Remove the recursion.")
            if unknown := sorted(set(values) - set(inner.parameters)):
                raise _at(
                    card,
                    f"subcircuit {card.subcircuit} has no parameter {unknown[0]}",
                    f"It has {', '.join(inner.parameters) or 'none'}.",
                )
            pins = dict(zip(inner.pins, map(frame.node, card.nodes), strict=True))
            _expand(_frame(inner, values, f"{frame.prefix}{card.name}.", pins, frame), elements, (*inside, inner))
            continue
        if len(elements) >= MAX_ELEMENTS:
            raise _at(card, f"the circuit expands to more than {MAX_ELEMENTS:,} elements", "Simplify it.")
        element = Element(
            name=frame.prefix + card.name,
            family=card.family,
            nodes=tuple(map(frame.node, card.nodes)),
            values=values,
            controls=tuple(
                Control(source=frame.prefix + c.source)
                if c.source
                else Control(frame.node(c.plus), frame.node(c.minus))
                for c in card.controls
            ),
            line=card.statement.line,
        )
        elements.append(_with_model(frame, card, element) if card.model else element)


def _number(card: Card, name: str, value: Value, parameters: Parameters) -> float:
    if isinstance(value, float):
        return value
    try:
        return value.evaluate(parameters)
    except NetlistError as error:
        raise NetlistError(f"{card.name}: {error.message}", place=value.place, remedy=error.remedy) from None


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


def _with_model(frame: _Frame, card: Card, element: Element) -> Element:
    owner = next((scope for scope in frame.scope.outwards() if card.model in scope.models), None)
    if owner is None:
        raise _at(card, f"model {card.model} is not defined", f"Add .model {card.model}, or correct the name.")
    model = owner.models[card.model]
    expected = "diode" if card.name[0] == "d" else "bipolar"
    if model.family != expected:
        raise _at(
            card, f"model {card.model} is for a {model.family}, not for a {expected}", "Correct the model's name."
        )
    parameters = frame.of(owner).parameters
    values = {name: _number(card, name, value, parameters) for name, value in model.values.items()}
    values = {name: value for name, value in values.items() if not is_none(name, value)}
    return replace(element, family=model.family, values={**values, **element.values})


def _at(card: Card, message: str, remedy: str) -> NetlistError:
    return card.statement.error(f"{card.name}: {message}" if card.name not in message else message, remedy)
