"""What the pieces of the board document share: a strict base, identifiers, and quantities kept as they were typed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints

from verdad_core.errors import ValueTextError
from verdad_core.units import format_value, parse_value


class Document(BaseModel):
    """A piece of the board document: immutable, and nothing unknown is accepted."""

    model_config = ConfigDict(frozen=True, extra="forbid")


#: An identifier that is given by Verdad, never typed.
Slug = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,63}$")]
#: A reference designator such as R12 or U1.
Designator = Annotated[str, StringConstraints(pattern=r"^[A-Z]{1,3}[0-9]{1,4}$")]
#: The name of a net on the sheet; "gnd" is ground.
Net = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_+/-]{1,32}$")]
#: The name of a pin, a subcircuit, or a quantity of a part: one word.
Name = Annotated[str, StringConstraints(pattern=r"^[!-~]{1,64}$")]
#: Text that people write: a line that must not be empty, one that may be, and several lines.
Title = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120, pattern=r"^[^\x00-\x1f]*$")
]


def shown_title(text: str) -> str:
    """What a `Title` can show of any text: its first letters, with a blank for what nobody sees; may be empty."""
    return "".join(c if c.isprintable() else " " for c in text[:120]).strip()


Remark = Annotated[str, StringConstraints(strip_whitespace=True, max_length=500, pattern=r"^[^\x00-\x1f]*$")]
Note = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000, pattern=r"^[^\x00-\x08\x0b-\x1f]*$")]


def _quantity(unit: str, *, positive: bool = False, or_none: bool = False, or_empty: bool = False) -> AfterValidator:
    def check(text: str) -> str:
        if or_empty and not text.strip():
            return ""
        value = parse_value(text, unit)
        if positive and (value < 0 or (value == 0 and not or_none)):
            raise ValueTextError(
                f"'{text.strip()}' is {format_value(value, unit)}; it must be above zero", remedy="Enter the size only."
            )
        return text.strip()

    return AfterValidator(check)


def _above_absolute_zero(text: str) -> str:
    if parse_value(text) < -273.15:
        raise ValueTextError(f"'{text}' lies below absolute zero", remedy="Enter degrees Celsius.")
    return text


_Text = Annotated[str, StringConstraints(max_length=32)]
Ohms = Annotated[_Text, _quantity("Ω", positive=True)]
#: A resistance that may be zero.
OhmsOrNone = Annotated[_Text, _quantity("Ω", positive=True, or_none=True)]
#: Values of parts: empty until the designer gives one.
PartOhms = Annotated[_Text, _quantity("Ω", positive=True, or_empty=True)]
PartFarads = Annotated[_Text, _quantity("F", positive=True, or_empty=True)]
PartHenries = Annotated[_Text, _quantity("H", positive=True, or_empty=True)]
Farads = Annotated[_Text, _quantity("F", positive=True)]
Hertz = Annotated[_Text, _quantity("Hz", positive=True)]
Seconds = Annotated[_Text, _quantity("s", positive=True)]
SecondsOrNone = Annotated[_Text, _quantity("s", positive=True, or_none=True)]
Volts = Annotated[_Text, _quantity("V")]
VoltsAboveZero = Annotated[_Text, _quantity("V", positive=True)]
RatedAmperes = Annotated[_Text, _quantity("A", positive=True)]
RatedWatts = Annotated[_Text, _quantity("W", positive=True)]
PerDegree = Annotated[_Text, _quantity("1/°C")]
PerSquareDegree = Annotated[_Text, _quantity("1/°C²")]
Degrees = Annotated[_Text, _quantity("°C")]
Celsius = Annotated[_Text, _quantity("°C"), AfterValidator(_above_absolute_zero)]
#: A number in the unit of whatever it is compared with.
Quantity = Annotated[_Text, _quantity("")]


def setting(
    default: Any = ..., *, label: str, hint: str = "", unit: str = "", chooses: str = "", empty: str = "",
    shown: str = "", titles: dict[str, str] | None = None, resets: tuple[str, ...] = (),
    needs: str = "", **more: Any,
) -> Any:  # fmt: skip
    """A field that a form can fill in.

    `chooses` says what it names: "net", "terminal" (a net or ground), "driver" (what can drive a response), "quantity",
    "swept" (a quantity that can take one value after the other at rest), "check". `empty` is what leaving it out means,
    `titles` what its words are called, `resets` settings that go back to their defaults with another value of it,
    `shown` the piece of the interface that shows it where it is no plain field, `needs` the setting without which it
    means nothing.
    """
    told = {
        "unit": unit, "chooses": chooses, "empty": empty, "shown": shown, "titles": titles, "resets": list(resets),
        "needs": needs,
    }  # fmt: skip
    factory: Callable[..., Any] = Field
    return factory(
        default, title=label, description=hint or None, json_schema_extra={k: v for k, v in told.items() if v}, **more
    )


def chosen(piece: Document, what: str) -> tuple[str, ...]:
    """What a piece's settings name of one sort, in their order: its nets, its drivers, ..."""
    found: list[str] = []
    for name in fields_that_choose(piece, what):
        value = getattr(piece, name)
        found += [value] if isinstance(value, str) else value or ()
    return tuple(found)


def fields_that_choose(piece: Document, *what: str) -> list[str]:
    """The settings of a piece that name something of some sorts."""
    return [name for name in type(piece).model_fields if _told(piece, name).get("chooses") in what]


def unit_of(piece: Document, name: str) -> str:
    """The unit of a setting; empty for one that has none."""
    return str(_told(piece, name).get("unit", ""))


def _told(piece: Document, name: str) -> dict[str, Any]:
    extra = type(piece).model_fields[name].json_schema_extra
    return extra if isinstance(extra, dict) else {}
