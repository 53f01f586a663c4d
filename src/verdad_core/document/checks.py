"""Checks: experiments on a circuit."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Annotated, Protocol, Self, TypeVar

from pydantic import Field, model_validator

from verdad_core.document.analysis import Analysis
from verdad_core.document.cards import CheckCard
from verdad_core.document.fixtures import Fixture, Port, Source
from verdad_core.document.measurements import Measurement
from verdad_core.document.overlays import Overlay
from verdad_core.errors import BoardError
from verdad_core.schema import Celsius, Document, Slug, Title


class _HasId(Protocol):
    @property
    def id(self) -> str: ...


Identified = TypeVar("Identified", bound=_HasId)


class Check(Document):
    """One experiment on a circuit: fixture, temperature, analysis, what is measured and what is shown.

    `cards` is None as long as the usual ones of the analysis are shown.
    """

    id: Slug
    title: Title
    fixtures: Annotated[tuple[Fixture, ...], Field(max_length=500)]
    analysis: Analysis
    temperature: Celsius = "27"
    measurements: Annotated[tuple[Measurement, ...], Field(max_length=200)] = ()
    cards: Annotated[tuple[CheckCard, ...], Field(max_length=50)] | None = None
    #: What was measured, to lie over what is computed.
    overlays: Annotated[tuple[Overlay, ...], Field(max_length=8)] = ()

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        unique("fixture", (fixture.name for fixture in self.fixtures))
        unique("measurement", (measurement.id for measurement in self.measurements))
        unique("card", (card.id for card in self.cards or ()))
        unique("measured response", (overlay.name for overlay in self.overlays))
        for measurement in self.measurements:
            if (name := measurement.of) in _brought(self.analysis) - self.analysis.brings:
                raise BoardError(
                    f"check '{self.title}' has no {name.replace('_', ' ')} to measure {measurement.title} on",
                    remedy="Say what it is a measurement of, such as v(out).",
                )
        drivers = [fixture.name for fixture in self.fixtures if isinstance(fixture, Source | Port)]
        for name in self.analysis.drivers:
            if name not in drivers:
                raise BoardError(
                    f"check '{self.title}' has no source '{name}'",
                    remedy=f"Name one of its sources: {', '.join(drivers)}." if drivers else "Attach a source first.",
                )
        return self

    def measurement(self, measurement: str) -> Measurement:
        return find("measurement", measurement, self.measurements)

    def fixture(self, name: str | None) -> Fixture | None:
        return next((fixture for fixture in self.fixtures if fixture.name == name), None)


def _brought(analysis: Analysis) -> frozenset[str]:
    """The traces that any kind of check brings by a name of their own."""
    return frozenset[str]().union(*(kind.brings for kind in analysis.kinds().values()))


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
