"""Fixtures: supplies, sources, loads and ports on nets, from outside the board edge. Never in the parts list."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from verdad_core.document.waveforms import Waveform
from verdad_core.errors import BoardError, ValueTextError
from verdad_core.schema import Document, Farads, Net, Ohms, OhmsOrNone, Quantity, Volts
from verdad_core.units import parse_value

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
    """A signal source with its own resistance: a direct value, a magnitude and a phase in degrees for frequency
    responses, a waveform.

    A voltage stands behind the resistance; a current flows out of the plus terminal, with the resistance across it,
    where 0 means none.
    """

    kind: Literal["source"] = "source"
    quantity: Literal["voltage", "current"] = "voltage"
    dc: Quantity = "0"
    ac: Quantity = "1"
    phase: Quantity = "0"
    resistance: OhmsOrNone
    waveform: Waveform | None = None

    @model_validator(mode="after")
    def _units(self) -> Self:
        unit = "V" if self.quantity == "voltage" else "A"
        for text in (self.dc, self.ac):
            try:
                parse_value(text, unit)
            except ValueTextError as error:
                raise BoardError(f"{self.name}: {error.message}", remedy=error.remedy) from None
        return self


class Load(_Fixture):
    """What the circuit drives: a resistance, a capacitance and a direct current that it draws, side by side."""

    kind: Literal["load"] = "load"
    resistance: Ohms | None = None
    capacitance: Farads | None = None
    current: Quantity | None = None

    @model_validator(mode="after")
    def _some(self) -> Self:
        if self.resistance is None and self.capacitance is None and self.current is None:
            raise BoardError(f"load {self.name} draws nothing", remedy="Give it ohms, farads or amperes.")
        if self.current is not None:
            parse_value(self.current, "A")
        return self


class Port(_Fixture):
    """A port of a measuring instrument: a generator of 1 V behind its impedance where the check drives it."""

    kind: Literal["port"] = "port"
    number: Annotated[int, Field(ge=1, le=99)] = 1
    impedance: Ohms = "50"


class Written(_Fixture):
    """A source said in the netlist language: what follows its nodes, such as EXP(0 5 1u 1u 10u 2u)."""

    kind: Literal["written source"] = "written source"
    quantity: Literal["voltage", "current"]
    text: Annotated[str, StringConstraints(max_length=20_000, pattern=r"^[^\x00-\x08\x0b-\x1f]*$")]


Fixture = Annotated[Supply | Source | Load | Port | Written, Field(discriminator="kind")]

#: The field that is meant when only a fixture is named.
MAIN_FIELD = {"supply": "volts", "source": "dc", "load": "resistance", "port": "impedance"}
