"""What a check computes: the analysis with its settings. A setting that is left out is chosen from the circuit."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import Discriminator, Field, Tag, model_validator

from verdad_core.errors import BoardError
from verdad_core.schema import Document, Hertz, Name, Quantity, Seconds, SecondsOrNone
from verdad_core.units import parse_value


class OperatingPoint(Document):
    """The voltages and currents at rest."""

    kind: Literal["operating point"] = "operating point"


class DcSweep(Document):
    """Points at rest while one quantity takes values from start to stop, and back again where that is wanted.

    `over` names the quantity: a part (R1), a fixture or one of its fields (bias, bias.resistance), or "temperature".
    """

    kind: Literal["dc sweep"] = "dc sweep"
    over: Name | None = None
    start: Quantity | None = None
    stop: Quantity | None = None
    points: Annotated[int, Field(ge=2, le=5_000)] = 201
    and_back: bool = False

    @model_validator(mode="after")
    def _moves(self) -> Self:
        if self.start is not None and self.stop is not None and parse_value(self.start) == parse_value(self.stop):
            raise BoardError(f"the sweep stays at {self.start}", remedy="Stop at another value.")
        return self


class FrequencySweep(Document):
    """A logarithmic sweep."""

    kind: Literal["frequency response"] = "frequency response"
    start: Hertz | None = None
    stop: Hertz | None = None
    points_per_decade: Annotated[int, Field(ge=1, le=500)] = 50

    @model_validator(mode="after")
    def _ascending(self) -> Self:
        if self.start is None or self.stop is None:
            return self
        start, stop = parse_value(self.start, "Hz"), parse_value(self.stop, "Hz")
        if not start < stop <= start * 1e15:
            raise BoardError(
                f"the sweep from {self.start} to {self.stop} does not rise", remedy="Stop above the start frequency."
            )
        return self


class Transient(Document):
    """The circuit in time, from its operating point or cold: everything at zero but what a statement gives an initial
    condition (ic). Points are kept from `since` on.
    """

    kind: Literal["transient"] = "transient"
    stop: Seconds | None = None
    since: SecondsOrNone = "0"
    longest: Seconds | None = None
    begin: Literal["operating point", "cold"] = "operating point"

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.stop is not None and not parse_value(self.since) < parse_value(self.stop):
            raise BoardError(
                f"points are kept from {self.since} on, but the run ends at {self.stop}",
                remedy="Keep them from an earlier time on.",
            )
        return self


#: In time and over frequency, what floats and what is shorted for direct current has a meaning.
MOVING = (FrequencySweep, Transient)


def _kind(value: Any) -> str:
    kind = value.get("kind") if isinstance(value, dict) else getattr(value, "kind", None)
    return str(kind or "frequency response")


ANALYSES = (OperatingPoint, DcSweep, FrequencySweep, Transient)
Analysis = Annotated[
    Annotated[OperatingPoint, Tag("operating point")]
    | Annotated[DcSweep, Tag("dc sweep")]
    | Annotated[FrequencySweep, Tag("frequency response")]
    | Annotated[Transient, Tag("transient")],
    Discriminator(_kind),
]
