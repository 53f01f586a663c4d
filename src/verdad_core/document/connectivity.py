"""Which pins a drawing connects, and whether that is what the parts say."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from verdad_core.document.drawing import Drawing, pin_end
from verdad_core.document.parts import Modelled, Part, pins_of, unit_names
from verdad_core.errors import BoardError, Place


def drawn_groups(drawing: Drawing, pins: Iterable[str]) -> list[set[str]]:
    """The pins and marks that wires and equal names connect, group by group; `pins` as ends of wires ("R1.2").

    Raises BoardError for a wire to what is not on the sheet.
    """
    known = [*pins, *(mark.id for mark in drawing.marks), *(joint.id for joint in drawing.joints)]
    leader = {end: end for end in known}
    if len(leader) < len(known):
        raise BoardError("the drawing gives two things one name", remedy="Undo the last change.")

    def find(end: str) -> str:
        while leader[end] != end:
            leader[end] = leader[leader[end]]
            end = leader[end]
        return end

    for wire in drawing.wires:
        for end in wire.ends:
            if end not in leader:
                raise BoardError(
                    f"a wire ends at {end}, which is not on the sheet",
                    place=Place(part=end.split(".")[0]), remedy="Remove the wire.",
                )  # fmt: skip
        a, b = map(find, wire.ends)
        leader[a] = b
    first_of_net: dict[str, str] = {}
    for mark in drawing.marks:
        first = first_of_net.setdefault(mark.net, mark.id)
        leader[find(mark.id)] = find(first)
    groups: dict[str, set[str]] = {}
    for end in known:
        groups.setdefault(find(end), set()).add(end)
    return list(groups.values())


def check_drawing(parts: Iterable[Part], drawing: Drawing) -> None:
    """Raises BoardError where the drawing lacks a part, has one too many, or connects other pins than the parts do."""
    parts = list(parts)
    _check_symbols(parts, drawing)
    nets = {pin_end(part.designator, pin): net for part in parts for pin, net in pins_of(part).items()}
    nets_and_marks = nets | {mark.id: mark.net for mark in drawing.marks}
    shown: dict[str, set[str]] = {}
    for group in drawn_groups(drawing, nets):
        named = {end: nets_and_marks[end] for end in sorted(group) if end in nets_and_marks}
        if len(set(named.values())) > 1:
            raise BoardError(
                f"the drawing connects {_differing(named)}",
                place=Place(nodes=tuple(sorted(set(named.values())))), remedy="Undo the last change.",
            )  # fmt: skip
        for end, net in named.items():
            if net in shown and end not in shown[net]:
                raise BoardError(
                    f"net {net} is in two pieces on the drawing: {end} is not connected to {min(shown[net])}",
                    place=Place(nodes=(net,)), remedy="Join the pieces by a wire or by its name.",
                )  # fmt: skip
            shown[net] = group


def _check_symbols(parts: list[Part], drawing: Drawing) -> None:
    wanted = {
        f"{part.designator}.{unit}" if unit else part.designator
        for part in parts
        for unit in (unit_names(part.units) if isinstance(part, Modelled) else ("",))
    }
    for name in sorted(wanted ^ set(drawing.symbols)):
        trouble = "is not on the drawing" if name in wanted else "is drawn, but is no part"
        raise BoardError(f"{name} {trouble}", place=Place(part=name), remedy="Undo the last change.")


def _differing(named: Mapping[str, str]) -> str:
    """Two ends that are on different nets."""
    (first, net), *others = named.items()
    other, another = next((end, name) for end, name in others if name != net)
    return f"{first} on net {net} with {other} on net {another}"
