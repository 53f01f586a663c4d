"""The Board: circuits with their checks, spreads, studies and limits."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from typing import Annotated, Any, Literal, Protocol, Self, TypeVar

from pydantic import Discriminator, Field, StringConstraints, Tag, model_validator

from verdad_core.board.connectivity import check_drawing
from verdad_core.board.drawing import Drawing
from verdad_core.board.fixtures import Fixture, Source
from verdad_core.board.parts import Part, Valued
from verdad_core.errors import BoardError
from verdad_core.handcalc.forms import CLOSED_FORMS
from verdad_core.measure.response import RESPONSE_MEASUREMENTS
from verdad_core.schema import Document, Hertz, Name, Net, Note, Quantity, Slug, Title
from verdad_core.spreads.spread import Spread
from verdad_core.units import parse_value


class _HasId(Protocol):
    @property
    def id(self) -> str: ...


Identified = TypeVar("Identified", bound=_HasId)


class FrequencySweep(Document):
    """A logarithmic sweep."""

    kind: Literal["frequency response"] = "frequency response"
    start: Hertz
    stop: Hertz
    points_per_decade: Annotated[int, Field(ge=1, le=500)] = 50

    @model_validator(mode="after")
    def _ascending(self) -> Self:
        start, stop = parse_value(self.start, "Hz"), parse_value(self.stop, "Hz")
        if not start < stop <= start * 1e15:
            raise BoardError(
                f"the sweep from {self.start} to {self.stop} does not rise", remedy="Stop above the start frequency."
            )
        return self


class OperatingPoint(Document):
    """The voltages and currents at rest."""

    kind: Literal["operating point"] = "operating point"


def _analysis_kind(value: Any) -> str:
    kind = value.get("kind") if isinstance(value, dict) else getattr(value, "kind", None)
    return str(kind or "frequency response")


Analysis = Annotated[
    Annotated[FrequencySweep, Tag("frequency response")] | Annotated[OperatingPoint, Tag("operating point")],
    Discriminator(_analysis_kind),
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
    """One number out of a check's response, by its key in the registry, and the hand value beside it."""

    id: Slug
    key: str
    hand: HandValue | None = None

    @model_validator(mode="after")
    def _known(self) -> Self:
        if self.key not in RESPONSE_MEASUREMENTS:
            raise BoardError(
                f"there is no measurement '{self.key}'", remedy=f"Use one of {', '.join(RESPONSE_MEASUREMENTS)}."
            )
        return self


class Check(Document):
    """One experiment on a circuit: fixture, analysis, and what is measured.

    A frequency response is v(output) / v(source), with the voltage inside the source, before its own resistance.
    """

    id: Slug
    title: Title
    fixtures: Annotated[tuple[Fixture, ...], Field(max_length=500)]
    analysis: Analysis
    output: Net | None = None
    source: str | None = None
    measurements: tuple[Measurement, ...] = ()

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        _unique("fixture", (fixture.name for fixture in self.fixtures))
        _unique("measurement", (measurement.id for measurement in self.measurements))
        if isinstance(self.analysis, OperatingPoint):
            if self.measurements:
                raise BoardError("nothing is measured on an operating point", remedy="Remove the measurements.")
            return self
        if self.output is None:
            raise BoardError(f"check '{self.title}' has no output", remedy="Name the net to look at.")
        if not any(isinstance(fixture, Source) and fixture.name == self.source for fixture in self.fixtures):
            raise BoardError(f"check '{self.title}' has no source '{self.source}'", remedy="Name one of its sources.")
        return self

    def measurement(self, measurement: str) -> Measurement:
        return _find("measurement", measurement, self.measurements)


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


class MonteCarlo(Document):
    """A check repeated over rows drawn from the spreads."""

    kind: Literal["monte carlo"] = "monte carlo"
    id: Slug
    check: Slug
    seed: Annotated[int, Field(ge=0, le=2**32 - 1)] = 1
    rows: Annotated[int, Field(ge=10, le=100_000)] = 500


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


class Board(Document):
    """What gets signed off."""

    schema_version: Literal[1] = 1
    title: Title
    purpose: Note = ""
    circuits: tuple[Circuit, ...] = ()
    spreads: tuple[Spread, ...] = ()
    studies: tuple[MonteCarlo, ...] = ()
    limits: tuple[Limit, ...] = ()
    #: A limit that holds with a margin below this, in per cent of the limit, is thin.
    thin_margin: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] = 5.0

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        designators = [part.designator for circuit in self.circuits for part in circuit.parts]
        _unique("designator", designators)
        _unique("circuit", (circuit.id for circuit in self.circuits))
        _unique("check", (check.id for _, check in self.checks()))
        _unique("spread of part", (spread.part for spread in self.spreads))
        _unique("study", (study.id for study in self.studies))
        _unique("limit", (limit.id for limit in self.limits))
        valued = {p.designator for c in self.circuits for p in c.parts if isinstance(p, Valued)}
        for spread in self.spreads:
            if spread.part not in valued:
                raise BoardError(f"a spread is given for {spread.part}, which is no part with a value on this board")
        for study in self.studies:
            self.check(study.check)
        for limit in self.limits:
            self.check(limit.check)[1].measurement(limit.measurement)
        return self

    def checks(self) -> Iterator[tuple[Circuit, Check]]:
        """Every check with its circuit."""
        for circuit in self.circuits:
            for check in circuit.checks:
                yield circuit, check

    def check(self, check: str) -> tuple[Circuit, Check]:
        """A check with its circuit. Raises BoardError."""
        found = next(((circuit, c) for circuit, c in self.checks() if c.id == check), None)
        if found is None:
            raise BoardError(f"there is no check '{check}' on this board")
        return found

    def study(self, study: str) -> MonteCarlo:
        """A study. Raises BoardError."""
        return _find("study", study, self.studies)


def _number(text: str | None) -> float | None:
    return None if text is None else parse_value(text)


def _unique(what: str, names: Iterable[str]) -> None:
    for name, count in Counter(names).items():
        if count > 1:
            raise BoardError(f"the {what} {name} occurs twice", remedy="Rename one of the two.")


def _find(what: str, name: str, among: Iterable[Identified]) -> Identified:
    for item in among:
        if item.id == name:
            return item
    raise BoardError(f"there is no {what} '{name}' on this board")
