"""Fixtures: supplies, sources and loads attached to nets from outside the board edge. Never in the parts list."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from verdad_core.schema import Document, Net, Ohms, OhmsOrNone, Volts

FixtureName = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,31}$")]


class _Fixture(Document):
    name: FixtureName
    plus: Net
    minus: Net = "gnd"


class Supply(_Fixture):
    """An ideal supply."""

    kind: Literal["supply"] = "supply"
    volts: Volts


class Source(_Fixture):
    """A signal source behind its own resistance: a direct value, and a magnitude for the frequency response."""

    kind: Literal["source"] = "source"
    dc: Volts = "0"
    ac: Volts = "1"
    resistance: OhmsOrNone


class Load(_Fixture):
    """A resistance that the circuit drives."""

    kind: Literal["load"] = "load"
    resistance: Ohms


class Written(_Fixture):
    """A source said in the netlist language: what follows its nodes, such as PULSE(0 5 0 1u 1u 10u 20u)."""

    kind: Literal["written source"] = "written source"
    quantity: Literal["voltage", "current"]
    text: Annotated[str, StringConstraints(max_length=20_000, pattern=r"^[^\x00-\x08\x0b-\x1f]*$")]


Fixture = Annotated[Supply | Source | Load | Written, Field(discriminator="kind")]
