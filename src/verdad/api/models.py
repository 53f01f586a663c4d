"""The shelf: models stored, corrected, compared from version to version, exported."""

from __future__ import annotations

import io
import zipfile
from datetime import date, datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field, StringConstraints
from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.api.context import InSession
from verdad.api.intake import Files, FileView, OriginView, bundle_of, check_roles
from verdad.api.numbers import Number
from verdad.api.problems import ProblemError, problems
from verdad.db.tables import BoardRow, ModelRow
from verdad.shelf.qualification import badge, current, figures_of, lines_as_json, lines_of
from verdad.shelf.report import report
from verdad.shelf.store import Chosen, Origin, identifier_of, model_of, store
from verdad.shelf.store import bundle_of as stored_bundle
from verdad_core.errors import Finding, VerdadError
from verdad_core.intake.bundle import MAX_NAME
from verdad_core.intake.difference import Difference, difference
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.model import Model
from verdad_core.intake.pins import PinProposal
from verdad_core.intake.reading import read_bundle
from verdad_core.intake.symbols import Symbol
from verdad_core.qualification.bench import figure_types
from verdad_core.qualification.conditions import conditions_for
from verdad_core.qualification.datasheet import DataSheetLine
from verdad_core.qualification.judgement import Badge
from verdad_core.schema import Name, Slug

router = APIRouter(prefix="/api/models", tags=["models"])

Roles = Annotated[list[Name], Field(max_length=200)]
DataSheetLines = Annotated[list[DataSheetLine], Field(max_length=200)]
Conditions = dict[Annotated[str, StringConstraints(max_length=40)], Annotated[float, Field(allow_inf_nan=False)]]


class ChosenView(BaseModel):
    """A model of a bundle that goes onto the shelf."""

    file: Annotated[str, StringConstraints(max_length=MAX_NAME)]
    name: Name
    kind: str
    roles: Roles
    description: Annotated[str, StringConstraints(max_length=200)] = ""
    data_sheet: DataSheetLines = []


class ModelsSave(BaseModel):
    """A bundle exactly as read, where it came from, and what of it goes onto the shelf."""

    files: Files
    origin: OriginView
    chosen: Annotated[list[ChosenView], Field(min_length=1, max_length=100)]


class ModelEntry(BaseModel):
    """One model on the shelf. `figures` holds what the bench measured, where it speaks of the model as it is."""

    id: str
    name: str
    kind: str
    description: str
    file: str
    source: str
    link: str
    obtained_on: date
    obtained_by: str
    added_at: datetime
    roles: list[str]
    symbol: Symbol
    badge: Badge
    badge_text: str
    figures: dict[str, Number]
    used_by: list[str]
    #: The version before it, and the one that took its place.
    supersedes: str | None
    superseded_by: str | None


class ModelDetail(BaseModel):
    """A model with its texts, what was found in them, and what the designer has said of it."""

    entry: ModelEntry
    files: list[FileView]
    sha256: str
    terms: str
    findings: list[Finding]
    line: int
    nodes: list[str]
    roles: list[str]
    symbol: Symbol
    data_sheet: list[DataSheetLine]
    conditions: dict[str, float]


class ModelChange(BaseModel):
    """What may be corrected of a model; what is not given stays."""

    kind: str | None = None
    roles: Roles | None = None
    symbol: Symbol | None = None
    data_sheet: DataSheetLines | None = None
    conditions: Conditions | None = None


@router.get("")
def list_models(session: InSession) -> list[ModelEntry]:
    """The shelf: all models, by name, the newest version first."""
    rows = session.scalars(select(ModelRow).order_by(ModelRow.name, ModelRow.added_at.desc())).unique().all()
    users = _users(session)
    return [_entry(session, row, users) for row in rows]


@router.post("", status_code=201, responses=problems(409))
def store_models(save: ModelsSave, session: InSession) -> list[ModelEntry]:
    """Store a bundle whole and put models of it onto the shelf: all of them, or nothing where one is wrong."""
    bundle = bundle_of(save.files)
    for chosen in save.chosen:
        _check_kind(chosen.kind)
        model = Model(bundle, chosen.file, chosen.name, tuple(chosen.roles))
        check_roles(model, chosen.roles)
        try:
            model.check()
        except VerdadError as error:
            where = f"line {error.place.line}: " if error.place.line else ""
            raise ProblemError(422, f"{chosen.name} cannot be used: {where}{error.message}.", error.remedy) from error
        if session.get(ModelRow, identifier_of(bundle, chosen.name)) is not None:
            raise ProblemError(
                409,
                f"This very model is on the shelf already, as {chosen.name.upper()}.",
                "Open it, and correct it there.",
            )
    rows = store(
        session, bundle, Origin(**save.origin.model_dump()),
        [
            Chosen(c.file, c.name.lower(), c.kind, c.roles, c.description, lines_as_json(_known(c.kind, c.data_sheet)))
            for c in save.chosen
        ],
    )  # fmt: skip
    users = _users(session)
    return [_entry(session, row, users) for row in rows]


@router.get("/{model_id}", responses=problems(404))
def get_model(model_id: Slug, session: InSession) -> ModelDetail:
    """A model on the shelf."""
    return _detail(session, model_row(session, model_id))


@router.patch("/{model_id}", responses=problems(404))
def change_model(model_id: Slug, change: ModelChange, session: InSession) -> ModelDetail:
    """Correct what is said of a model. Evidence and qualification that rest on its pins are then out of date."""
    row = model_row(session, model_id)
    if change.kind is not None:
        _check_kind(change.kind)
        row.kind = change.kind
        row.conditions = {}
        row.data_sheet = [line for line in row.data_sheet if line["figure"] in figure_types(change.kind)]
    if change.roles is not None:
        check_roles(model_of(row), change.roles)
        row.roles = list(change.roles)
    if change.conditions is not None:
        conditions_for(row.kind, change.conditions)
        row.conditions = dict(change.conditions)
    if change.data_sheet is not None:
        row.data_sheet = lines_as_json(_known(row.kind, change.data_sheet))
    if change.symbol is not None:
        if sorted(pin.role for pin in change.symbol.pins) != sorted(row.roles):
            raise ProblemError(422, "The symbol has to show each pin of the model once.", "Add or remove pins.")
        row.symbol = change.symbol.model_dump(mode="json")
    elif change.kind is not None or change.roles is not None:
        row.symbol = model_of(row).symbol(row.kind).model_dump(mode="json")
    return _detail(session, row)


@router.delete("/{model_id}", status_code=204, responses=problems(404, 409))
def remove_model(model_id: Slug, session: InSession) -> None:
    """Take a model off the shelf, and its bundle with the last of its models. Refused while a board uses it."""
    row = model_row(session, model_id)
    if boards := _users(session).get(row.id):
        raise ProblemError(409, f"{', '.join(boards)} uses {row.name}.", "Choose another model there first.")
    bundle = row.bundle
    session.delete(row)
    session.flush()
    if session.scalar(select(ModelRow.id).where(ModelRow.bundle_id == bundle.id).limit(1)) is None:
        session.delete(bundle)


@router.get("/{model_id}/pins", responses=problems(404))
def get_pins(model_id: Slug, session: InSession) -> list[PinProposal]:
    """What the file and the bench say of each node, with the reason and how sure it is."""
    row = model_row(session, model_id)
    entry = read_bundle(stored_bundle(row.bundle), only=row.name).entry(row.name)
    return list(entry.pins) if entry else []


@router.get("/{model_id}/difference", responses=problems(404))
def get_difference(model_id: Slug, session: InSession, since: Annotated[Slug, Query()]) -> Difference:
    """What changed in a model's files since another version of it."""
    new, old = model_row(session, model_id), model_row(session, since)
    return difference(stored_bundle(old.bundle), stored_bundle(new.bundle))


@router.get("/{model_id}/export", responses=problems(404), response_class=Response)
def export(model_id: Slug, session: InSession) -> Response:
    """The model's files as they were handed in, its data sheet and its report, in a .zip."""
    row = model_row(session, model_id)
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        for file in row.bundle.files:
            archive.writestr(f"model/{file['name']}", file["text"])
        for name, text in report(row, current(session, row)).items():
            archive.writestr(name, text)
    return Response(
        target.getvalue(),
        media_type="application/zip",
        headers={"Content-Disposition": f'attachment; filename="{row.id}.zip"'},
    )


def model_row(session: Session, model_id: str) -> ModelRow:
    """A model, or ProblemError 404."""
    row = session.get(ModelRow, model_id)
    if row is None:
        raise ProblemError(404, "There is no such model.", "Choose one from the shelf.")
    return row


def _check_kind(kind: str) -> None:
    if kind not in KINDS:
        raise ProblemError(422, f"There is no kind '{kind}'.", f"Use one of {', '.join(KINDS)}.")


def _known(kind: str, lines: list[DataSheetLine]) -> list[DataSheetLine]:
    types = figure_types(kind)
    for line in lines:
        if line.figure not in types:
            raise ProblemError(
                422, f"The bench of this kind measures no '{line.figure}'.", "Choose one of its figures."
            )
        if line.least is None and line.typical is None and line.most is None:
            raise ProblemError(
                422, f"{types[line.figure].title} has no number.", "Give at least one of least, typical and most."
            )
    if len({line.figure for line in lines}) < len(lines):
        raise ProblemError(422, "A figure is given twice.", "Give each figure one line.")
    return lines


def _users(session: Session) -> dict[str, list[str]]:
    """Titles of the boards that use a model, by the model."""
    users: dict[str, list[str]] = {}
    for document in session.scalars(select(BoardRow.document).order_by(BoardRow.created_at)):
        parts = [part for circuit in document["circuits"] for part in circuit["parts"]]
        for model in dict.fromkeys(part["model"]["id"] for part in parts if "model" in part):
            users.setdefault(model, []).append(document["title"])
    return users


def _entry(session: Session, row: ModelRow, users: dict[str, list[str]]) -> ModelEntry:
    qualification = current(session, row)
    summary = badge(row, qualification)
    figures = figures_of(qualification) if qualification else []
    after = session.scalar(select(ModelRow.id).where(ModelRow.supersedes == row.id).limit(1))
    return ModelEntry(
        id=row.id, name=row.name, kind=row.kind, description=row.description, file=row.file, source=row.bundle.source,
        link=row.bundle.link, obtained_on=row.bundle.obtained_on, obtained_by=row.bundle.obtained_by,
        added_at=row.added_at, roles=row.roles, symbol=Symbol.model_validate(row.symbol),
        badge=summary.badge, badge_text=summary.text,
        figures={figure.key: figure.value for figure in figures}, used_by=users.get(row.id, []),
        supersedes=row.supersedes, superseded_by=after,
    )  # fmt: skip


def _detail(session: Session, row: ModelRow) -> ModelDetail:
    session.flush()
    bundle = stored_bundle(row.bundle)
    reading = read_bundle(bundle, experiment=False)
    entry = reading.entry(row.name)
    return ModelDetail(
        entry=_entry(session, row, _users(session)), files=[FileView.of(file) for file in bundle.files],
        sha256=bundle.digest, terms=row.bundle.terms, findings=list(reading.findings),
        line=entry.line if entry else 1, nodes=list(model_of(row).nodes()), roles=row.roles,
        symbol=Symbol.model_validate(row.symbol), data_sheet=lines_of(row), conditions=row.conditions,
    )  # fmt: skip
