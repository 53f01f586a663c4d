"""What a check measures, and the hand value beside it."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import StringConstraints, model_validator

from verdad_core.errors import BoardError, MeasurementError, ValueTextError
from verdad_core.handcalc.forms import CLOSED_FORMS
from verdad_core.measure.expressions import LONGEST, read_expression
from verdad_core.measure.registry import MEASUREMENTS
from verdad_core.schema import Document, Name, Quantity, Slug

#: The trace that a frequency response is: v(output) over the source.
RESPONSE = "response"

#: The text of an expression over traces; whether it can be read is seen where it is used, so that it can be mended.
ExpressionText = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=LONGEST, pattern=r"^[^\x00-\x1f]*$")
]


class HandValue(Document):
    """A closed form; its symbols stand for values of parts ("R3") or of fixtures ("geophone.resistance")."""

    form: str
    inputs: dict[Name, Name]

    @model_validator(mode="after")
    def _known(self) -> Self:
        if self.form not in CLOSED_FORMS:
            raise BoardError(f"there is no closed form '{self.form}'", remedy=f"Use one of {', '.join(CLOSED_FORMS)}.")
        if set(self.inputs) != set(CLOSED_FORMS[self.form].inputs):
            raise BoardError(
                f"'{self.form}' needs {', '.join(CLOSED_FORMS[self.form].inputs)}",
                remedy="Say which part stands for each symbol.",
            )
        return self


class Measurement(Document):
    """One number out of a check: a measurement by its key in the registry, of a trace, and the hand value beside it.

    `at` is the place or level that some measurements need.
    """

    id: Slug
    key: str
    of: ExpressionText = RESPONSE
    at: Quantity | None = None
    hand: HandValue | None = None

    @model_validator(mode="after")
    def _known(self) -> Self:
        if self.key not in MEASUREMENTS:
            raise BoardError(f"there is no measurement '{self.key}'", remedy=f"Use one of {', '.join(MEASUREMENTS)}.")
        try:
            read_expression(self.of)
        except MeasurementError as error:
            raise BoardError(f"{self.of}: {error.message}", remedy=error.remedy) from None
        except ValueTextError as error:
            raise BoardError(error.message, remedy=error.remedy) from None
        return self

    @property
    def title(self) -> str:
        """What it is called: "Upper -3 dB frequency", "Value of v(out) at 1m"."""
        place = f" at {self.at}" if self.at is not None else ""
        return MEASUREMENTS[self.key].title + (f" of {self.of}" if self.of != RESPONSE else "") + place
