"""Elements that follow what others do: R, C and L of an expression, and currents of elements that have no branch."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace

from verdad_core.devices import FAMILY_OF
from verdad_core.devices.base import Control, Element
from verdad_core.netlist.cards.card import Card
from verdad_core.netlist.expressions import Apply, Call, Choice, Expression, Node, Probe

#: The value of each passive element, the kind of source that stands for it, and what it is of the value and of the
#: voltage across or the current through it.
_PASSIVE = {"r": ("resistance", "current"), "c": ("capacitance", "current"), "l": ("inductance", "voltage")}


def _probes(node: Node) -> Iterator[Probe]:
    match node:
        case Probe():
            yield node
        case Apply(_, operands) | Call(_, operands):
            for operand in operands:
                yield from _probes(operand)
        case Choice(condition, yes, no):
            for each in (condition, yes, no):
                yield from _probes(each)


def varies(card: Card) -> bool:
    """Whether an R, C or L has a value that follows voltages or currents."""
    name, _ = _PASSIVE.get(card.name[0], ("", ""))
    value = card.values.get(name)
    return isinstance(value, Expression) and any(_probes(value.root))


def following(card: Card) -> tuple[str, Expression]:
    """The family and the expression of the source that stands for it. Raises NetlistError."""
    name, output = _PASSIVE[card.name[0]]
    value = card.values[name]
    if others := sorted(set(card.values) - {name}):
        raise card.statement.error(
            f"{card.name}: {others[0]} does not go with a value that follows voltages", "Write it into the expression."
        )
    if not isinstance(value, Expression):
        raise TypeError(card)
    own = Probe("v", *card.nodes) if output == "current" else Probe("i", card.name)
    match card.name[0]:
        case "r":
            root: Node = Apply("div", (own, value.root))
        case _:
            root = Apply("mul", (value.root, Call("ddt", (own,))))
    return f"behavioural {output}", replace(value, root=root)


def with_meters(elements: Sequence[Element]) -> list[Element]:
    """The same circuit with a source of 0 V in series where the current of an element is asked for that has no branch.

    So F, H, W and expressions can look at the current into the first node of any element with two.
    """
    asked = {control.source for element in elements for control in element.controls if control.source}
    metered = {
        element.name
        for element in elements
        if element.name in asked and not FAMILY_OF[element.family].has_branch and len(element.nodes) == 2
    }
    return list(_metered(elements, metered)) if metered else list(elements)


def _metered(elements: Iterable[Element], metered: set[str]) -> Iterator[Element]:
    for element in elements:
        controls = tuple(
            Control(source=f"{control.source}:meter") if control.source in metered else control
            for control in element.controls
        )
        nodes = element.nodes
        if element.name in metered:
            inner = f"{element.name}:metered"
            yield Element(f"{element.name}:meter", "voltage source", (nodes[0], inner), {"dc": 0.0}, line=element.line)
            nodes = (inner, *nodes[1:])
        yield replace(element, nodes=nodes, controls=controls)
