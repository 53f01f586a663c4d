"""What a check measures, and the hand value beside it."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated

from pydantic import Field, StringConstraints, ValidationInfo, field_validator

from verdad_core.errors import BoardError, MeasurementError, ValueTextError
from verdad_core.measure.entry import Settings, WithinBand
from verdad_core.measure.expressions import LONGEST, read_expression
from verdad_core.measure.registry import MEASUREMENTS
from verdad_core.schema import Document, Name, Remark, Slug
from verdad_core.units import parse_value

#: The trace that a frequency response is: v(output) over the source.
RESPONSE = "response"

#: The text of an expression over traces; whether it can be read is seen where it is used, so that it can be mended.
ExpressionText = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=LONGEST, pattern=r"^[^\x00-\x1f]*$")
]


def _read(text: str) -> str:
    """A text that can be read as an expression. Raises BoardError."""
    try:
        read_expression(text)
    except MeasurementError as error:
        raise BoardError(f"{text}: {error.message}", remedy=error.remedy) from None
    except ValueTextError as error:
        raise BoardError(error.message, remedy=error.remedy) from None
    return text


class HandValue(Document):
    """The designer's formula for a measurement, over values of parts ("R3"), of fixtures ("geophone.resistance") and
    other measurements by their titles in quotes; and where it is from, or under which assumption it holds.
    """

    formula: ExpressionText
    source: Remark = ""

    @field_validator("formula")
    @classmethod
    def _readable(cls, formula: str) -> str:
        return _read(formula)


class Measurement(Document):
    """One number out of a check: a measurement by its key in the registry, of a trace, and the hand value beside it.

    `settings` are those of its entry in the registry.
    """

    id: Slug
    key: str
    of: ExpressionText = RESPONSE
    settings: dict[Name, str | int] = Field(default_factory=dict)
    hand: HandValue | None = None

    @field_validator("key")
    @classmethod
    def _known(cls, key: str) -> str:
        if key not in MEASUREMENTS:
            raise BoardError(f"there is no measurement '{key}'", remedy=f"Use one of {', '.join(MEASUREMENTS)}.")
        return key

    @field_validator("of")
    @classmethod
    def _readable(cls, of: str) -> str:
        return _read(of)

    @field_validator("settings")
    @classmethod
    def _fitting(cls, settings: dict[str, str | int], info: ValidationInfo) -> dict[str, str | int]:
        if (key := info.data.get("key")) is not None:
            MEASUREMENTS[key].settings.model_validate(settings)
        return settings

    @cached_property
    def asked(self) -> Settings:
        """The settings as the registry's entry takes them."""
        return MEASUREMENTS[self.key].settings.model_validate(self.settings)

    @property
    def settles_to(self) -> float | None:
        """The band in per cent that its trace must have settled to; None where it needs none."""
        return parse_value(self.asked.band) if isinstance(self.asked, WithinBand) else None

    @property
    def title(self) -> str:
        """What it is called: "Upper -3 dB frequency", "Value of v(out) at 1m"."""
        of = f" of {self.of}" if self.of != RESPONSE else ""
        return MEASUREMENTS[self.key].title + of + self.asked.words
