"""Checks: experiments on a circuit."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Annotated, Protocol, Self, TypeVar

from pydantic import Field, model_validator

from verdad_core.document.analyses import Analysis, FrequencySweep
from verdad_core.document.cards import CheckCard
from verdad_core.document.fixtures import Fixture, Port, Source
from verdad_core.document.measurements import RESPONSE, Measurement
from verdad_core.errors import BoardError
from verdad_core.schema import Celsius, Document, Net, Slug, Title


class _HasId(Protocol):
    @property
    def id(self) -> str: ...


Identified = TypeVar("Identified", bound=_HasId)


class Check(Document):
    """One experiment on a circuit: fixture, temperature, analysis, what is measured and what is shown.

    A frequency response is v(output) over its source: the voltage inside it, before its own resistance, or its current.
    `cards` is None as long as the usual ones of the analysis are shown.
    """

    id: Slug
    title: Title
    fixtures: Annotated[tuple[Fixture, ...], Field(max_length=500)]
    analysis: Analysis
    output: Net | None = None
    source: str | None = None
    temperature: Celsius = "27"
    measurements: Annotated[tuple[Measurement, ...], Field(max_length=200)] = ()
    cards: Annotated[tuple[CheckCard, ...], Field(max_length=50)] | None = None

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        unique("fixture", (fixture.name for fixture in self.fixtures))
        unique("measurement", (measurement.id for measurement in self.measurements))
        unique("card", (card.id for card in self.cards or ()))
        if not isinstance(self.analysis, FrequencySweep):
            if lost := [m for m in self.measurements if m.of == RESPONSE]:
                raise BoardError(
                    f"check '{self.title}' has no frequency response to measure {lost[0].title} on",
                    remedy="Say what it is a measurement of, such as v(out).",
                )
            return self
        if self.output is None:
            raise BoardError(f"check '{self.title}' has no output", remedy="Name the net to look at.")
        if not any(isinstance(fixture, Source | Port) and fixture.name == self.source for fixture in self.fixtures):
            raise BoardError(f"check '{self.title}' has no source '{self.source}'", remedy="Name one of its sources.")
        return self

    def measurement(self, measurement: str) -> Measurement:
        return find("measurement", measurement, self.measurements)

    def fixture(self, name: str | None) -> Fixture | None:
        return next((fixture for fixture in self.fixtures if fixture.name == name), None)


def unique(what: str, names: Iterable[str]) -> None:
    """Raise BoardError for a name that occurs twice."""
    for name, count in Counter(names).items():
        if count > 1:
            raise BoardError(f"the {what} {name} occurs twice", remedy="Rename one of the two.")


def find(what: str, name: str, among: Sequence[Identified]) -> Identified:
    """The one of that id. Raises BoardError."""
    for item in among:
        if item.id == name:
            return item
    raise BoardError(f"there is no {what} '{name}' on this board")
