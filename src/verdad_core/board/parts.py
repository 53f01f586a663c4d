"""Parts of a circuit: what goes on the board, into the parts list."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from verdad_core.schema import Designator, Document, Farads, Henries, Name, Net, Ohms, Slug


class TwoPin(Document):
    """A part between two nets."""

    designator: Designator
    pins: Annotated[tuple[Net, ...], Field(min_length=2, max_length=2)]


class Resistor(TwoPin):
    kind: Literal["resistor"] = "resistor"
    value: Ohms


class Capacitor(TwoPin):
    kind: Literal["capacitor"] = "capacitor"
    value: Farads


class Inductor(TwoPin):
    kind: Literal["inductor"] = "inductor"
    value: Henries


class ModelReference(Document):
    """A model on the shelf, one version of it: its identifier, and its name as the sheet shows it."""

    id: Slug
    name: Name


class Modelled(Document):
    """A part whose behaviour is a model: nets by pin role ("in+", "out", ...)."""

    kind: Literal["modelled"] = "modelled"
    designator: Designator
    model: ModelReference
    pins: dict[Name, Net]


Part = Annotated[Resistor | Capacitor | Inductor | Modelled, Field(discriminator="kind")]

#: The element parameter that holds the value of each kind of part.
VALUE_PARAMETER = {"resistor": "resistance", "capacitor": "capacitance", "inductor": "inductance"}


def nets_of(part: Part) -> tuple[str, ...]:
    """The nets a part touches, in pin order."""
    return tuple(part.pins.values()) if isinstance(part, Modelled) else part.pins
