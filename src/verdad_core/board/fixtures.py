"""Fixtures: supplies, sources and loads attached to nets from outside the board edge. Never in the parts list."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from verdad_core.schema import Document, Net, Ohms, Volts

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
    resistance: Ohms


class Load(_Fixture):
    """A resistance that the circuit drives."""

    kind: Literal["load"] = "load"
    resistance: Ohms


Fixture = Annotated[Supply | Source | Load, Field(discriminator="kind")]
