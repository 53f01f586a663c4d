"""What there is to choose from: kinds, measurements, functions, series; and what typed texts mean."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, StringConstraints

from verdad.api.problems import problems
from verdad_core.checks.kinds import KINDS
from verdad_core.document.attachments import ATTACHMENTS, FRESH_WAVEFORMS
from verdad_core.document.fixtures import FIXTURES, Fixture
from verdad_core.document.waveforms import Waveform
from verdad_core.handcalc.forms import CLOSED_FORMS, ClosedForm
from verdad_core.handcalc.series import SERIES
from verdad_core.measure.entry import Takes
from verdad_core.measure.functions import FUNCTIONS
from verdad_core.measure.registry import FAMILY, MEASUREMENTS
from verdad_core.spreads.contributors import CONTRIBUTORS
from verdad_core.spreads.distribution import Form
from verdad_core.spreads.distributions import DISTRIBUTIONS
from verdad_core.studies.kinds import KINDS as STUDY_KINDS
from verdad_core.units import parse_value


class FunctionEntry(BaseModel):
    """A function that expressions can call; one `of_numbers` has a meaning in hand formulas, too."""

    name: str
    written: str
    meaning: str
    of_numbers: bool


class MeasurementEntry(BaseModel):
    """A measurement of the registry: what it takes, and the JSON schema of its settings.

    `family` is what it is taken of, such as a step.
    """

    key: str
    family: str
    title: str
    meaning: str
    source: str
    takes: Takes
    settings: dict[str, Any]


class SymbolEntry(BaseModel):
    """A symbol of a closed form: what it is, and in which unit."""

    symbol: str
    unit: str
    meaning: str


class ClosedFormEntry(BaseModel):
    """A closed form of the library, the unit of what it gives, and under which assumption it holds.

    `pieces` joined are its formula; what takes a symbol's place is put in for the piece that the symbol is.
    """

    key: str
    title: str
    pieces: list[str]
    symbols: list[SymbolEntry]
    unit: str
    holds: str
    source: str

    @classmethod
    def of(cls, form: ClosedForm) -> ClosedFormEntry:
        symbols = [SymbolEntry(symbol=name, unit=unit, meaning=said) for name, (unit, said) in form.symbols.items()]
        return cls(
            key=form.key, title=form.title, pieces=list(form.pieces), symbols=symbols, unit=form.unit, holds=form.holds,
            source=form.source,
        )  # fmt: skip


class KindEntry(BaseModel):
    """A kind of check: what it answers, the JSON schema of its settings, and the traces that it brings by name.

    `looks` is what a click on the sheet adds to its cards, {} standing for v(net) or i(pin); empty without curves.
    `main` is the trace that is measured first; empty for volts of a net.
    """

    kind: str
    title: str
    question: str
    meaning: str
    settings: dict[str, Any]
    looks: str
    main: str
    gives: list[Takes]


class StudyKindEntry(BaseModel):
    """A kind of study: what it answers, and the JSON schema of its settings."""

    kind: str
    title: str
    question: str
    meaning: str
    settings: dict[str, Any]


class DistributionEntry(BaseModel):
    """How values can lie between the limits of a tolerance, and the number that its form is chosen by, if any."""

    key: str
    title: str
    meaning: str
    form: Form | None


class ContributorEntry(BaseModel):
    """Why a quantity can differ from its nominal value; what is not shared is each one's own within a group."""

    key: str
    title: str
    meaning: str
    shared: bool


class FixtureEntry(BaseModel):
    """A kind of fixture: the field that is meant by its name alone, and a form for it."""

    kind: str
    title: str
    main: str
    settings: dict[str, Any]


class WaveformEntry(BaseModel):
    """What a source can do in time: a form for it, and what it is to begin with."""

    kind: str
    title: str
    settings: dict[str, Any]
    fresh: Waveform


class AttachmentEntry(BaseModel):
    """What one attaches to a net: where it is drawn, and the fixture, whose name and net are its own affair."""

    key: str
    title: str
    side: Literal["left", "right", "top"]
    fixture: Fixture


class Vocabulary(BaseModel):
    """What expressions and measurements can be made of, and the series of preferred values, from 1 to 10."""

    functions: list[FunctionEntry]
    closed_forms: list[ClosedFormEntry]
    checks: list[KindEntry]
    studies: list[StudyKindEntry]
    distributions: list[DistributionEntry]
    contributors: list[ContributorEntry]
    fixtures: list[FixtureEntry]
    waveforms: list[WaveformEntry]
    attachments: list[AttachmentEntry]
    measurements: list[MeasurementEntry]
    series: dict[str, list[float]]


router = APIRouter(prefix="/api", tags=["vocabulary"])


@router.get("/vocabulary")
def get_vocabulary() -> Vocabulary:
    """Functions of expressions, kinds of check, and the registry of measurements."""
    return Vocabulary(
        closed_forms=[ClosedFormEntry.of(form) for form in CLOSED_FORMS.values()],
        functions=[
            FunctionEntry(name=f.name, written=f.written, meaning=f.meaning, of_numbers=f.of_numbers)
            for f in FUNCTIONS.values()
        ],
        checks=[
            KindEntry(
                kind=kind.key(),
                title=kind.title,
                question=kind.asked(None),
                meaning=kind.meaning,
                settings=kind.model_json_schema(),
                looks=kind.looks,
                main=kind.main,
                gives=sorted(kind.gives),
            )
            for kind in KINDS
        ],
        studies=[
            StudyKindEntry(
                kind=kind.key(),
                title=kind.name,
                question=kind.question,
                meaning=kind.meaning,
                settings=kind.model_json_schema(),
            )
            for kind in STUDY_KINDS
        ],
        distributions=[
            DistributionEntry(key=each.key, title=each.title, meaning=each.meaning, form=each.form)
            for each in DISTRIBUTIONS.values()
        ],
        contributors=[
            ContributorEntry(key=c.key, title=c.title, meaning=c.meaning, shared=c.shared)
            for c in CONTRIBUTORS.values()
        ],
        fixtures=[
            FixtureEntry(kind=_kind_of(f), title=f.title, main=f.main, settings=f.model_json_schema()) for f in FIXTURES
        ],
        waveforms=[
            WaveformEntry(kind=wave.kind, title=wave.title, settings=type(wave).model_json_schema(), fresh=wave)
            for wave in FRESH_WAVEFORMS
        ],
        attachments=[
            AttachmentEntry.model_validate(
                {
                    "key": each.key,
                    "title": each.title,
                    "side": each.side,
                    "fixture": {"name": each.key, "plus": "net", **each.fields},
                }
            )
            for each in ATTACHMENTS
        ],
        measurements=[
            MeasurementEntry(
                key=m.key,
                family=FAMILY[m.key],
                title=m.title,
                meaning=m.meaning,
                source=m.source,
                takes=m.takes,
                settings=m.settings.model_json_schema(),
            )
            for m in MEASUREMENTS.values()
        ],
        series={name: list(values) for name, values in SERIES.items()},
    )


def _kind_of(fixture: type[BaseModel]) -> str:
    return str(fixture.model_fields["kind"].default)


@router.get("/number", responses=problems())
def read_number(
    text: Annotated[str, StringConstraints(max_length=40)], unit: Annotated[str, StringConstraints(max_length=10)] = ""
) -> float:
    """What a typed quantity is, in its base unit."""
    return parse_value(text, unit)
