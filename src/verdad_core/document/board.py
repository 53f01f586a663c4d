"""The Board: circuits with their checks, spreads, studies and limits."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from verdad_core.document.checks import Check, find, unique
from verdad_core.document.connectivity import check_drawing
from verdad_core.document.derating import Derating
from verdad_core.document.drawing import Drawing
from verdad_core.document.parts import PART_UNITS, Part, Valued
from verdad_core.document.studies import Study
from verdad_core.document.upgrades import upgraded
from verdad_core.errors import BoardError
from verdad_core.schema import Document, Note, Quantity, Slug, Title
from verdad_core.spreads.spread import Spread
from verdad_core.units import parse_value


class Circuit(Document):
    """One drawn function on the board. Without a drawing of its own, it is laid out when it is looked at."""

    id: Slug
    title: Title
    parts: Annotated[tuple[Part, ...], Field(max_length=5_000)]
    checks: tuple[Check, ...] = ()
    drawing: Drawing | None = None
    #: Parameters, functions and models in the netlist language, for parts that are statements.
    definitions: Annotated[str, StringConstraints(max_length=200_000)] = ""

    @model_validator(mode="after")
    def _drawn(self) -> Self:
        if self.drawing is not None:
            check_drawing(self.parts, self.drawing)
        return self

    def part(self, designator: str) -> Part:
        found = next((part for part in self.parts if part.designator == designator), None)
        if found is None:
            raise BoardError(f"there is no part {designator} in '{self.title}'")
        return found

    def check(self, check: str) -> Check:
        return find("check", check, self.checks)


class Limit(Document):
    """A bound on a measurement, with the reason for it."""

    id: Slug
    check: Slug
    measurement: Slug
    lower: Quantity | None = None
    upper: Quantity | None = None
    reason: Note = ""

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        lower, upper = self.bounds
        if lower is None and upper is None:
            raise BoardError("a limit needs a lower bound, an upper bound, or both", remedy="Enter one.")
        if lower is not None and upper is not None and lower >= upper:
            raise BoardError(f"the lower bound {self.lower} is not below the upper bound {self.upper}")
        return self

    @property
    def bounds(self) -> tuple[float | None, float | None]:
        """(lower, upper) as numbers."""
        return _number(self.lower), _number(self.upper)


class Baseline(Document):
    """A state of the board that is kept to compare against, by the number of its revision."""

    title: Title
    revision: Annotated[int, Field(ge=1, lt=2**31)]


class Board(Document):
    """What gets signed off."""

    schema_version: Literal[5] = 5
    title: Title
    purpose: Note = ""
    circuits: tuple[Circuit, ...] = ()
    spreads: tuple[Spread, ...] = ()
    studies: Annotated[tuple[Study, ...], Field(max_length=200)] = ()
    limits: tuple[Limit, ...] = ()
    baselines: Annotated[tuple[Baseline, ...], Field(max_length=100)] = ()
    #: A limit that holds with a margin below this, in per cent of the limit, is thin.
    thin_margin: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] = 5.0
    #: How much of their ratings kinds of part are used up to, where that is not the usual.
    derating: Annotated[dict[Slug, Derating], Field(max_length=100)] = Field(default_factory=dict)

    @model_validator(mode="before")
    @classmethod
    def _carried_over(cls, document: Any) -> Any:
        return upgraded(document)

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        designators = [part.designator for circuit in self.circuits for part in circuit.parts]
        unique("designator", designators)
        unique("circuit", (circuit.id for circuit in self.circuits))
        unique("check", (check.id for _, check in self.checks()))
        unique("spread of", (spread.of for spread in self.spreads))
        unique("study", (study.id for study in self.studies))
        unique("study", (study.title for study in self.studies))
        unique("limit", (limit.id for limit in self.limits))
        unique("baseline", (baseline.title for baseline in self.baselines))
        parts = {part.designator: part for circuit in self.circuits for part in circuit.parts}
        fixtures = {fixture.name for _, check in self.checks() for fixture in check.fixtures}
        for spread in self.spreads:
            part = parts.get(spread.owner)
            if isinstance(part, Valued) and spread.of == spread.owner:
                spread.amounts(PART_UNITS[part.kind])
            named = isinstance(part, Valued) if part is not None and spread.of == spread.owner else part is not None
            if not named and spread.owner not in fixtures:
                raise BoardError(
                    f"a spread is given for {spread.of}, which is no part with a value on this board and no fixture",
                    remedy="Remove the spread, or undo what took it away.",
                )
        for study in self.studies:
            for check in study.checks:
                self.check(check)
            unique("check of a study", study.checks)
        for limit in self.limits:
            self.check(limit.check)[1].measurement(limit.measurement)
        return self

    def checks(self) -> Iterator[tuple[Circuit, Check]]:
        """Every check with its circuit."""
        for circuit in self.circuits:
            for check in circuit.checks:
                yield circuit, check

    def circuit(self, circuit: str) -> Circuit:
        """A circuit. Raises BoardError."""
        return find("circuit", circuit, self.circuits)

    def check(self, check: str) -> tuple[Circuit, Check]:
        """A check with its circuit. Raises BoardError."""
        found = next(((circuit, c) for circuit, c in self.checks() if c.id == check), None)
        if found is None:
            raise BoardError(f"there is no check '{check}' on this board")
        return found

    def study(self, study: str) -> Study:
        """A study. Raises BoardError."""
        return find("study", study, self.studies)


def _number(text: str | None) -> float | None:
    return None if text is None else parse_value(text)
