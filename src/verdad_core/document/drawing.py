"""The drawing of a circuit: where its parts stand, and which wires and marks show its nets.

What is connected stands in the parts' pins; the drawing shows it, and a circuit whose drawing shows anything else is
refused (`connectivity.py`). Lengths are in units of the sheet, of which the grid has ten; y points down.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from verdad_core.schema import Document, Name, Net, Note, Slug

Coordinate = Annotated[int, Field(ge=-100_000, le=100_000)]
Point = tuple[Coordinate, Coordinate]
#: Quarter turns, clockwise.
Turn = Literal[0, 1, 2, 3]

#: A symbol on the sheet: "R1", or one unit of a package, "U1.A".
SymbolName = Annotated[str, StringConstraints(pattern=r"^[A-Z]{1,3}[0-9]{1,4}(\.[A-D])?$")]
#: Where a wire ends: at a pin such as "R1.2" or "U1.in+", or at a mark or joint by its identifier.
End = Annotated[str, StringConstraints(pattern=r"^([A-Z]{1,3}[0-9]{1,4}\.[!-~]{1,64}|[a-z][a-z0-9-]{0,63})$")]


class Placed(Document):
    """Where a symbol's origin lies, how it is turned, and whether it is mirrored (left to right, before turning)."""

    x: Coordinate
    y: Coordinate
    turn: Turn = 0
    mirrored: bool = False


class Mark(Document):
    """A sign that says which net it is on: ground, a supply rail, or a name. Marks of one net are connected."""

    id: Slug
    kind: Literal["ground", "rail", "label"]
    net: Net
    x: Coordinate
    y: Coordinate
    turn: Turn = 0


class Joint(Document):
    """A point where wires meet."""

    id: Slug
    x: Coordinate
    y: Coordinate


class Wire(Document):
    """A wire from end to end; `points` is the way it goes, with both ends."""

    ends: tuple[End, End]
    points: Annotated[tuple[Point, ...], Field(min_length=1, max_length=200)]


class SheetNote(Document):
    """Words on the sheet."""

    id: Slug
    x: Coordinate
    y: Coordinate
    text: Annotated[Note, Field(min_length=1)]


class Drawing(Document):
    """Everything on the sheet inside the board edge."""

    symbols: Annotated[dict[SymbolName, Placed], Field(max_length=6_000)]
    marks: tuple[Mark, ...] = ()
    joints: tuple[Joint, ...] = ()
    wires: Annotated[tuple[Wire, ...], Field(max_length=20_000)] = ()
    notes: Annotated[tuple[SheetNote, ...], Field(max_length=500)] = ()


def pin_end(designator: str, pin: Name) -> str:
    """The end of a wire at a pin."""
    return f"{designator}.{pin}"
