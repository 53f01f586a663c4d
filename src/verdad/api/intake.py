"""Intake: files are read, pins proposed and tried out; nothing is stored here."""

from __future__ import annotations

import time
from datetime import UTC, date, datetime
from typing import Annotated, TypeVar

import httpx
from fastapi import APIRouter, UploadFile
from pydantic import Base64Bytes, BaseModel, Field, StringConstraints, TypeAdapter, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.apart import Apart
from verdad.api.context import InContext, InSession, released
from verdad.api.problems import ProblemError, problems
from verdad.db.tables import BundleRow
from verdad.shelf.store import newest
from verdad_core.errors import Finding, NetlistError
from verdad_core.intake.bundle import MAX_BYTES, MAX_FILES, MAX_NAME, Bundle, ModelText, bundle
from verdad_core.intake.effect import Effect, effect
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.model import Model
from verdad_core.intake.reading import Entry, read_bundle
from verdad_core.intake.symbols import Symbol, default_symbol
from verdad_core.netlist.lines import MAX_TEXT
from verdad_core.qualification.bench import figure_types
from verdad_core.qualification.conditions import CONDITIONS, Condition
from verdad_core.qualification.datasheet import DataSheet, read_csv
from verdad_core.schema import Name, Remark

router = APIRouter(prefix="/api", tags=["intake"])

Answer = TypeVar("Answer")

#: Seconds and bytes that an answer of the catalogue may take.
CATALOGUE_SECONDS, CATALOGUE_BYTES = 10.0, 20_000_000


class FileView(BaseModel):
    """One file of a bundle, as text."""

    name: Annotated[str, StringConstraints(min_length=1, max_length=MAX_NAME, pattern=r'^[^\x00-\x1f/\\"]+$')]
    text: Annotated[str, StringConstraints(max_length=MAX_TEXT)]
    encoding: Annotated[str, StringConstraints(max_length=40)] = ""

    @classmethod
    def of(cls, file: ModelText) -> FileView:
        return cls(name=file.name, text=file.text, encoding=file.encoding)


Files = Annotated[list[FileView], Field(min_length=1, max_length=MAX_FILES)]


def bundle_of(files: list[FileView]) -> Bundle:
    """The bundle that a client hands back. ProblemError 422 for names that collide."""
    names = [file.name.lower() for file in files]
    if len(set(names)) < len(names):
        raise ProblemError(422, "Two files have the same name.", "Rename one of them.")
    return Bundle(tuple(ModelText(file.name, file.text, file.encoding) for file in files))


class EntryView(BaseModel):
    """What can be placed from a bundle, the symbol it would get, and the model of that name that is on the shelf."""

    entry: Entry
    symbol: Symbol
    on_shelf: str | None


class OriginView(BaseModel):
    """Where files came from."""

    source: Annotated[Remark, StringConstraints(min_length=1)]
    link: Remark = ""
    obtained_on: date
    obtained_by: Remark = ""


class ReadingView(BaseModel):
    """The reading report of a bundle. `stored_as` names the same bundle, where it is stored already."""

    files: list[FileView]
    entries: list[EntryView]
    findings: list[Finding]
    terms: str
    stored_as: str | None
    #: What a catalogue says of its files.
    origin: OriginView | None = None
    data_sheet: str = ""
    model: str = ""


def reading_view(session: Session, handed: list[tuple[str, bytes]], apart: Apart) -> ReadingView:
    """What a bundle of files holds, read in a process of its own."""
    files, findings = apart.read(bundle, handed)
    released(session)
    reading = apart.read(read_bundle, files)
    entries = []
    for entry in reading.entries:
        before = newest(session, entry.name)
        symbol = default_symbol(entry.kind.kind, entry.roles, KINDS[entry.kind.kind].roles, inverted=entry.inverted)
        entries.append(EntryView(entry=entry, symbol=symbol, on_shelf=before.id if before else None))
    same = session.scalar(select(BundleRow).where(BundleRow.sha256 == files.digest))
    return ReadingView(
        files=[FileView.of(file) for file in files.files],
        entries=entries,
        findings=[*findings, *reading.findings],
        terms=reading.terms,
        stored_as=same.id if same else None,
    )


@router.post("/readings", responses=problems())
def read_files(files: list[UploadFile], session: InSession, context: InContext) -> ReadingView:
    """Read uploaded or pasted files, or a .zip of them, and store nothing."""
    handed = [(file.filename or "pasted text", file.file.read(MAX_BYTES + 1)) for file in files[: MAX_FILES + 1]]
    return reading_view(session, handed, context.apart)


class Trial(BaseModel):
    """An assignment of roles to be tried out."""

    files: Files
    file: Annotated[str, StringConstraints(max_length=MAX_NAME)]
    name: Name
    kind: str
    roles: Annotated[list[Name], Field(max_length=200)]


class TrialView(BaseModel):
    """What the assignment does, where a quick experiment can tell, and the symbol with it."""

    effect: Effect | None
    symbol: Symbol


@router.post("/trials", responses=problems())
def try_roles(trial: Trial) -> TrialView:
    """What a model does with these roles."""
    if trial.kind not in KINDS:
        raise ProblemError(422, f"There is no kind '{trial.kind}'.", f"Use one of {', '.join(KINDS)}.")
    model = Model(bundle_of(trial.files), trial.file, trial.name, tuple(trial.roles))
    check_roles(model, trial.roles)
    return TrialView(effect=effect(model, trial.kind), symbol=model.symbol(trial.kind))


def check_roles(model: Model, roles: list[str]) -> None:
    """ProblemError 422 unless the model is in its file and each of its nodes has a role of its own."""
    nodes = model.nodes()
    if len(roles) != len(nodes):
        raise ProblemError(
            422, f"{model.name} has {len(nodes)} nodes, but {len(roles)} roles were given.", "Give each one."
        )
    twice = next((role for role in roles if roles.count(role) > 1), None)
    if twice is not None:
        raise ProblemError(
            422, f"The role {twice} is given to two nodes of {model.name}.", "Give each node its own role."
        )


class FigureView(BaseModel):
    """A figure that a kind's bench measures."""

    key: str
    title: str
    unit: str
    meaning: str


class KindView(BaseModel):
    """A kind of component: its pins, its bench's conditions and figures."""

    key: str
    title: str
    roles: list[str]
    more: list[str]
    conditions: list[Condition]
    figures: list[FigureView]


@router.get("/kinds")
def list_kinds() -> list[KindView]:
    """All kinds of components."""
    return [
        KindView(
            key=kind.key, title=kind.title, roles=list(kind.roles), more=list(kind.more),
            conditions=list(CONDITIONS.get(kind.key, ())),
            figures=[
                FigureView(key=f.key, title=f.title, unit=f.unit, meaning=f.meaning)
                for f in figure_types(kind.key).values()
            ],
        )
        for kind in KINDS.values()
    ]  # fmt: skip


class PastedDataSheet(BaseModel):
    """A data sheet's table as CSV."""

    kind: str
    csv: Annotated[str, StringConstraints(max_length=100_000)]


@router.post("/data-sheets", responses=problems())
def read_data_sheet(pasted: PastedDataSheet) -> DataSheet:
    """Read a pasted table; lines that are not understood are findings."""
    return read_csv(pasted.csv, figure_types(pasted.kind))


class ListingView(BaseModel):
    """A part in the makers' catalogue."""

    slug: str
    part: str
    maker: str
    kind: str
    summary: str
    released: date
    link: str


class CatalogueView(BaseModel):
    """The makers' catalogue: its address, and what it lists; `trouble` says why it lists nothing."""

    address: str
    listings: list[ListingView]
    trouble: str = ""


class _Sent(BaseModel):
    name: str
    data: Base64Bytes


class _Delivery(BaseModel):
    listing: ListingView
    model: str
    data_sheet: str
    files: list[_Sent]


def _catalogue(address: str | None, path: str, form: TypeAdapter[Answer]) -> Answer:
    """An answer of the catalogue, whose address only the settings give. ProblemError 502 when it does not answer, and
    when it answers too slowly, too much, or something else.
    """
    if address is None:
        raise ProblemError(404, "No makers' catalogue is set up.", "Start Verdad with ./verdad demo.")
    ends, got = time.monotonic() + CATALOGUE_SECONDS, bytearray()
    try:
        with httpx.stream("GET", f"{address}{path}", timeout=CATALOGUE_SECONDS) as answer:
            for part in answer.iter_bytes():
                got += part
                if len(got) > CATALOGUE_BYTES or time.monotonic() > ends:
                    raise ProblemError(
                        502, "The makers' catalogue sends too much, or too slowly.", "Try later, or paste the file."
                    )
    except httpx.HTTPError as error:
        raise ProblemError(
            502, "The makers' catalogue does not answer.", "Start it again with ./verdad demo, or paste the file."
        ) from error
    if answer.status_code == 404:
        raise ProblemError(404, "The catalogue has no such part.", "Choose another one.")
    trouble = ProblemError(502, "The makers' catalogue has trouble of its own.", "Try again later, or paste the file.")
    if answer.status_code != 200:
        raise trouble
    try:
        return form.validate_json(bytes(got))
    except ValidationError:
        raise trouble from None


@router.get("/catalogue", responses=problems(404, 502))
def browse_catalogue(context: InContext) -> CatalogueView:
    """What the makers' catalogue lists."""
    listings = _catalogue(context.catalogue, "/listings.json", TypeAdapter(list[ListingView]))
    return CatalogueView(address=context.catalogue or "", listings=listings)


@router.post("/catalogue/{slug}/reading", responses=problems(404, 502))
def fetch_from_catalogue(
    slug: Annotated[str, StringConstraints(pattern=r"^[a-z0-9-]{1,40}$")], context: InContext, session: InSession
) -> ReadingView:
    """Fetch a part's files and read them; where they come from is filled in."""
    delivery = _catalogue(context.catalogue, f"/parts/{slug}.json", TypeAdapter(_Delivery))
    try:
        view = reading_view(session, [(file.name, file.data) for file in delivery.files], context.apart)
    except NetlistError as error:
        raise ProblemError(422, f"{delivery.listing.part}: {error.message}.", error.remedy) from error
    view.origin = OriginView(
        source=f"{delivery.listing.maker}, released {delivery.listing.released}", link=delivery.listing.link,
        obtained_on=datetime.now(UTC).date(),
    )  # fmt: skip
    view.data_sheet = delivery.data_sheet
    view.model = delivery.model
    return view
