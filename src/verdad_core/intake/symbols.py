"""Symbols: the shape of a kind (IEC 60617 / IEEE 315) and where its pins come out, or a box for what has none."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from verdad_core.errors import BoardError
from verdad_core.schema import Document, Name

Side = Literal["left", "right", "top", "bottom"]


class SymbolPin(Document):
    """A pin: its role, the name it is shown with, and the side it comes out at; pins of a side are in order."""

    role: Name
    label: Annotated[str, StringConstraints(strip_whitespace=True, max_length=24)]
    side: Side


class Symbol(Document):
    """A shape with its pins. `shape` is a kind's own drawing, or "box"."""

    shape: Annotated[str, StringConstraints(pattern=r"^[a-z-]{1,24}$")]
    pins: Annotated[tuple[SymbolPin, ...], Field(min_length=1, max_length=200)]

    @model_validator(mode="after")
    def _once(self) -> Self:
        roles = [pin.role for pin in self.pins]
        if len(set(roles)) < len(roles):
            raise BoardError("a symbol shows a pin twice", remedy="Show every pin once.")
        return self


#: Sides of the roles that have a place of their own; all other pins of a box go left and right in turn.
_SIDES: dict[str, Side] = {
    "in+": "left", "in-": "left", "out": "right", "v+": "top", "v-": "bottom", "ground": "bottom", "in": "left",
    "anode": "left", "cathode": "right", "collector": "top", "base": "left", "emitter": "bottom",
    "drain": "top", "gate": "left", "source": "bottom", "a": "left", "b": "right", "control": "bottom",
    "primary+": "left", "primary-": "left", "secondary+": "right", "secondary-": "right", "enable": "bottom",
    "adjust": "bottom", "substrate": "bottom", "bulk": "right", "trim": "bottom", "tap": "right",
}  # fmt: skip

#: Kinds that have a shape; those drawn as boxes are missing.
SHAPES = {
    "op-amp": "amplifier", "comparator": "amplifier", "diode": "diode", "clamp": "clamp", "bipolar": "bipolar",
    "jfet": "jfet", "mosfet": "mosfet", "switch": "switch", "transformer": "transformer",
}  # fmt: skip


#: Shapes that have another one for transistors whose currents flow the other way.
INVERTED = {"bipolar": "bipolar-p", "jfet": "jfet-p", "mosfet": "mosfet-p"}


def default_symbol(kind: str, roles: Sequence[str], required: Sequence[str] = (), *, inverted: bool = False) -> Symbol:
    """The symbol of a kind with a model's roles in their order; a box where a pin of the shape is missing.

    An `inverted` transistor (PNP, P-channel) stands with its emitter or source on top.
    """
    fits = kind in SHAPES and set(required) <= set(roles)
    shape = SHAPES[kind] if fits else "box"
    pins = []
    for k, role in enumerate(roles):
        side = _SIDES.get(role) or ("left" if k < (len(roles) + 1) // 2 else "right")
        pins.append(SymbolPin(role=role, label=role[:24], side=side))
    return Symbol(shape=INVERTED.get(shape, shape) if inverted else shape, pins=tuple(pins))
