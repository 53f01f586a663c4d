"""Parts and sources that are said in the netlist language, turned into elements together."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import replace
from functools import lru_cache

from verdad_core.devices import Element
from verdad_core.devices.base import Control
from verdad_core.document.fixtures import Written
from verdad_core.document.parts import Statement
from verdad_core.engine.structure import GROUND
from verdad_core.errors import BoardError, NetlistError, Place
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read

_PROBE = re.compile(r"\bv\(([^()]*)\)", re.IGNORECASE)
_LIST = re.compile(r"\A(\s*+(?:poly\s*+\(\s*+(\d+)\s*+\)|nullor)\s++)(.*)", re.IGNORECASE | re.DOTALL)


def with_nets_of_text(designator: str, text: str, to: Callable[[str], str]) -> str:
    """A statement's text with every net that it names sent through `to`.

    Nets stand in v(...) of an expression, and in the list of controlling nodes after POLY(n) or NULLOR; all other
    words, numbers above all, only look like one.
    """
    probed = _PROBE.sub(lambda found: f"v({','.join(to(name.strip()) for name in found[1].split(','))})", text)
    found = _LIST.fullmatch(probed) if designator[:1].lower() in "eg" else None
    if found is None:
        return probed
    nodes = iter(range(2 * int(found[2] or 1)))
    rest = re.sub(r"[^\s(),]+", lambda word: to(word[0]) if next(nodes, None) is not None else word[0], found[3])
    return found[1] + rest


def nets_of_text(designator: str, text: str) -> list[str]:
    """The nets that a statement's text names."""
    found: list[str] = []

    def note(net: str) -> str:
        found.append(net)
        return net

    with_nets_of_text(designator, text, note)
    return found


def statement_elements(
    definitions: str, parts: Iterable[Statement], sources: Iterable[Written], nets: Iterable[str], names: Iterable[str]
) -> list[Element]:
    """The elements of statements, named as their part or fixture, on the board's nets.

    The netlist language knows no case: `nets` and `names` (of all other elements) say how the board writes what a
    statement names. Raises BoardError with the part where a statement cannot be read, or its nets differ only in case.
    """
    lines: dict[str, tuple[str, str]] = {}
    for part in parts:
        lines[part.designator.lower()] = part.designator, _line(part.designator, part.pins, part.text)
    for source in sources:
        letter = source.quantity[0].replace("c", "i")
        name = source.name if source.name.startswith(letter) else letter + source.name
        lines[name] = source.name, _line(name, (source.plus, source.minus), source.text)
    if not lines:
        return []
    spelled = _spellings(nets)
    named = {name.lower(): name for name in names} | {written: name for written, (name, _) in lines.items()}
    text = "\n".join([definitions, *(line for _, line in lines.values()), ""])
    try:
        elements = _flattened(text)
    except NetlistError as error:
        raise _of_part(error, definitions, [name for name, _ in lines.values()]) from error

    def node(name: str) -> str:
        return GROUND if name == GROUND else spelled.get(name, name)

    def called(name: str) -> str:
        """`e1` is E1, `e1:derivative1` and `x1.r1` are in it."""
        for k, sign in enumerate(name):
            if sign in ".:":
                return named.get(name[:k], name[:k]) + name[k:]
        return named.get(name, name)

    return [
        replace(
            element,
            name=called(element.name),
            nodes=tuple(map(node, element.nodes)),
            controls=tuple(Control(node(c.plus), node(c.minus), called(c.source)) for c in element.controls),
            line=None,
        )
        for element in elements
    ]


@lru_cache(maxsize=32)
def _flattened(text: str) -> tuple[Element, ...]:
    """The elements of a text. The same one is read again and again while other parts' values are turned."""
    return tuple(flatten(read(text).require()).elements)


def _line(name: str, nets: Iterable[str], text: str) -> str:
    return " ".join([name, *(GROUND if net == "gnd" else net for net in nets), " ".join(text.split())])


def _spellings(nets: Iterable[str]) -> dict[str, str]:
    spelled: dict[str, str] = {}
    for net in nets:
        other = spelled.setdefault(net.lower(), net)
        if other != net:
            raise BoardError(
                f"nets {other} and {net} differ only in case, which statements on this sheet cannot tell apart",
                place=Place(nodes=(other, net)), remedy="Rename one of the two.",
            )  # fmt: skip
    return spelled


def _of_part(error: NetlistError, definitions: str, names: list[str]) -> BoardError:
    """The same error, at the part or source whose statement it is."""
    number = (error.place.line or 0) - len(definitions.split("\n")) - 1
    part = names[number] if 0 <= number < len(names) else None
    return BoardError(error.message, place=Place(part=part), remedy=error.remedy)
