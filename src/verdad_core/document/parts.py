"""Parts of a circuit: what goes on the board, into the parts list."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from verdad_core.devices import FAMILY_OF
from verdad_core.errors import BoardError
from verdad_core.intake.generic import GENERIC_PARTS
from verdad_core.schema import (
    Degrees,
    Designator,
    Document,
    Name,
    Net,
    PartFarads,
    PartHenries,
    PartOhms,
    PerDegree,
    PerSquareDegree,
    Quantity,
    RatedAmperes,
    RatedWatts,
    Slug,
    VoltsAboveZero,
)

#: Pins that all units in one package share.
SHARED_ROLES = ("v+", "v-", "ground")
UNIT_LETTERS = "ABCD"

#: Values of parameters by name, as they were typed.
Settings = dict[Name, Quantity]


class Rating(Document):
    """What a part must not be asked to bear: watts, volts between any two of its pins, amperes into any of them."""

    power: RatedWatts | None = None
    voltage: VoltsAboveZero | None = None
    current: RatedAmperes | None = None


class _Part(Document):
    designator: Designator
    rating: Rating | None = None


class _Warmed(_Part):
    """A part that can be warmer than what is around it, by its `rise`: beside a heat sink, or by what it takes."""

    rise: Degrees | None = None


class TwoPin(_Warmed):
    """A part between two nets, with a value that follows temperature: v (1 + tempco·Δ + tempco2·Δ²), Δ from 27 °C."""

    pins: Annotated[tuple[Net, ...], Field(min_length=2, max_length=2)]
    tempco: PerDegree | None = None
    tempco2: PerSquareDegree | None = None


class Resistor(TwoPin):
    kind: Literal["resistor"] = "resistor"
    value: PartOhms


class Capacitor(TwoPin):
    kind: Literal["capacitor"] = "capacitor"
    value: PartFarads


class Inductor(TwoPin):
    kind: Literal["inductor"] = "inductor"
    value: PartHenries


class ModelReference(Document):
    """A model on the shelf, one version of it: its identifier, and its name as the sheet shows it."""

    id: Slug
    name: Name


class Modelled(_Warmed):
    """A part whose behaviour is a model: nets by pin role ("in+", "out", ...).

    With several `units` in one package, such as a dual op-amp, the model describes one of them: pins are then
    "A.in+", "B.in+", ..., but for those in SHARED_ROLES, which the package has once.
    """

    kind: Literal["modelled"] = "modelled"
    model: ModelReference
    pins: dict[Name, Net]
    units: Annotated[int, Field(ge=1, le=len(UNIT_LETTERS))] = 1
    settings: Settings = Field(default_factory=dict)
    #: Errors that the model does not have (checks/error_sources.py), by name.
    errors: Settings | None = None


class Generic(_Warmed):
    """A generic device or built-in block, by its key: nets by pin, and parameters that differ from its defaults."""

    kind: Literal["generic"] = "generic"
    part: Name
    pins: dict[Name, Net]
    settings: Settings = Field(default_factory=dict)

    @model_validator(mode="after")
    def _known(self) -> Self:
        generic = GENERIC_PARTS.get(self.part)
        if generic is None:
            raise BoardError(f"there is no generic part '{self.part}'", remedy="Choose one under Models.")
        if sorted(self.pins) != sorted(generic.pins):
            raise BoardError(f"a {generic.title} has the pins {', '.join(generic.pins)}", remedy="Connect these.")
        if unknown := sorted(set(self.settings) - {setting.name for setting in generic.settings}):
            raise BoardError(f"a {generic.title} has no parameter '{unknown[0]}'", remedy="Remove it.")
        return self


class Statement(_Part):
    """A part that is said as an element statement of the netlist language: what follows its name and its nodes.

    Nets that the text names stay what they are called, so they need a name on the sheet.
    """

    kind: Literal["statement"] = "statement"
    pins: Annotated[tuple[Net, ...], Field(max_length=200)]
    text: Annotated[str, StringConstraints(max_length=20_000, pattern=r"^[^\x00-\x08\x0b-\x1f]*$")]


Part = Annotated[Resistor | Capacitor | Inductor | Modelled | Generic | Statement, Field(discriminator="kind")]
Valued = Resistor | Capacitor | Inductor

#: The units of values.
PART_UNITS = {"resistor": "Ω", "capacitor": "F", "inductor": "H"}

#: What follows temperature, by what it is called of a part: its unit, and the element parameter that holds it.
WARMTH = {"tempco": ("1/°C", "tc1"), "tempco2": ("1/°C²", "tc2"), "rise": ("°C", "rise")}

#: The element parameter that holds the value of each kind of part.
VALUE_PARAMETER = {family: FAMILY_OF[family].value for family in ("resistor", "capacitor", "inductor")}


def pins_of(part: Part) -> dict[str, str]:
    """The net of each pin; pins without a role are counted from 1."""
    if isinstance(part, Modelled | Generic):
        return dict(part.pins)
    return {str(k): net for k, net in enumerate(part.pins, 1)}


def nets_of(part: Part) -> tuple[str, ...]:
    """The nets a part touches, in pin order."""
    return tuple(pins_of(part).values())


def unit_names(units: int) -> Sequence[str]:
    """What the units of a package are called; the only one has no name."""
    return UNIT_LETTERS[:units] if units > 1 else ("",)


def package_pins(roles: Sequence[str], units: int) -> tuple[str, ...]:
    """The pins of a package of `units`, each with a model's roles."""
    if units == 1:
        return tuple(roles)
    own = [f"{unit}.{role}" for unit in unit_names(units) for role in roles if role not in SHARED_ROLES]
    return (*own, *(role for role in roles if role in SHARED_ROLES))


def unit_pins(pins: Mapping[str, str], unit: str) -> dict[str, str]:
    """The nets of one unit, by role."""
    if not unit:
        return dict(pins)
    own = {pin.removeprefix(f"{unit}."): net for pin, net in pins.items() if pin.startswith(f"{unit}.")}
    return own | {pin: net for pin, net in pins.items() if pin in SHARED_ROLES}
