"""Fixtures: supplies, sources, loads and ports on nets, from outside the board edge. Never in the parts list."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from verdad_core.document.waveforms import ITS_OWN, Waveform
from verdad_core.errors import BoardError, ValueTextError
from verdad_core.schema import Document, Farads, Net, Ohms, OhmsOrNone, Quantity, Volts, setting
from verdad_core.units import parse_value

FixtureName = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,31}$")]


class _Fixture(Document):
    #: What it is called, and the field that is meant when only the fixture is named.
    title: ClassVar[str]
    main: ClassVar[str] = ""

    name: FixtureName = setting(label="Name")
    plus: Net = setting(label="On net", chooses="terminal")
    minus: Net = setting("gnd", label="Returns to", chooses="terminal")


class Supply(_Fixture):
    """An ideal supply."""

    kind: Literal["supply"] = "supply"
    volts: Volts = setting(label="Volts", unit="V")

    title: ClassVar[str] = "supply"
    main: ClassVar[str] = "volts"


class Source(_Fixture):
    """A signal source with its own resistance: a direct value, a magnitude and a phase in degrees for frequency
    responses, a waveform.

    A voltage stands behind the resistance; a current flows out of the plus terminal, with the resistance across it,
    where 0 means none.
    """

    kind: Literal["source"] = "source"
    quantity: Literal["voltage", "current"] = setting(
        "voltage", label="Gives", titles={"voltage": "a voltage", "current": "a current"}, resets=("dc", "ac")
    )
    dc: Quantity = setting("0", label="Direct value", unit=ITS_OWN, hint="At rest, and where its waveform begins")
    ac: Quantity = setting("1", label="AC magnitude", unit=ITS_OWN, hint="In a frequency response; 0 keeps it silent")
    phase: Quantity = setting("0", label="AC phase", unit="°", hint="In a frequency response, beside other sources")
    resistance: OhmsOrNone = setting(
        label="Resistance", unit="Ω", hint="In series with a voltage; across a current, where 0 means none"
    )
    waveform: Waveform | None = setting(None, label="In time", shown="waveform", empty="none: only the direct value")

    title: ClassVar[str] = "source"
    main: ClassVar[str] = "dc"

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
    resistance: Ohms | None = setting(None, label="Resistance", unit="Ω", empty="none")
    capacitance: Farads | None = setting(None, label="Capacitance", unit="F", empty="none")
    current: Quantity | None = setting(
        None, label="Current", unit="A", empty="none", hint="A direct current that it draws"
    )

    title: ClassVar[str] = "load"
    main: ClassVar[str] = "resistance"

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
    number: Annotated[int, Field(ge=1, le=99)] = setting(1, label="Number")
    impedance: Ohms = setting("50", label="Impedance", unit="Ω")
    reactance: Quantity = setting(
        "0", label="Reactance", unit="Ω", hint="Of the impedance that waves are told at; the port itself is resistive"
    )

    title: ClassVar[str] = "port"
    main: ClassVar[str] = "impedance"


class Written(_Fixture):
    """A source said in the netlist language: what follows its nodes, such as EXP(0 5 1u 1u 10u 2u)."""

    kind: Literal["written source"] = "written source"
    quantity: Literal["voltage", "current"] = setting(
        label="Gives", titles={"voltage": "a voltage", "current": "a current"}
    )
    text: Annotated[str, StringConstraints(max_length=20_000, pattern=r"^[^\x00-\x08\x0b-\x1f]*$")] = setting(
        label="Statement"
    )

    title: ClassVar[str] = "written source"


FIXTURES: tuple[type[_Fixture], ...] = (Supply, Source, Load, Port, Written)
Fixture = Annotated[Supply | Source | Load | Port | Written, Field(discriminator="kind")]
