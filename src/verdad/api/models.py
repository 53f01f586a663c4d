"""Model files: read, stored whole, and their pins given roles."""

from __future__ import annotations

import hashlib
import re
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, UploadFile
from pydantic import BaseModel, StringConstraints
from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.api.context import InSession
from verdad.api.problems import ProblemError, problems
from verdad.db.tables import BoardRow, ModelFileRow
from verdad_core.errors import Finding, Severity
from verdad_core.intake.decode import decode
from verdad_core.intake.pins import Role
from verdad_core.intake.reading import ModelReading, Reading, SubcircuitReading, read_models
from verdad_core.netlist.lines import MAX_TEXT
from verdad_core.schema import Name, Remark, Slug, Title

router = APIRouter(prefix="/api/models", tags=["models"])

Roles = dict[Name, list[Name]]


class ReadingView(BaseModel):
    """What a model file holds. With an error among the findings it cannot be stored."""

    text: str
    subcircuits: list[SubcircuitReading]
    models: list[ModelReading]
    findings: list[Finding]
    storable: bool
    roles_known: list[str]

    @classmethod
    def of(cls, text: str, reading: Reading) -> ReadingView:
        return cls(
            text=text,
            subcircuits=list(reading.subcircuits),
            models=list(reading.models),
            findings=list(reading.findings),
            storable=not any(finding.severity is Severity.ERROR for finding in reading.findings),
            roles_known=[role.value for role in Role],
        )


class ModelSave(BaseModel):
    """A model file to be stored: its text exactly as read, where it came from, and the roles of its pins."""

    name: Title
    text: Annotated[str, StringConstraints(max_length=MAX_TEXT)]
    source: Annotated[Remark, StringConstraints(min_length=1)]
    link: Remark = ""
    roles: Roles


class ModelEntry(BaseModel):
    """One stored model file on the shelf."""

    id: str
    name: str
    sha256: str
    source: str
    link: str
    added_at: datetime
    subcircuits: list[str]
    used_by: list[str]


class ModelDetail(BaseModel):
    """A stored model file with its text, its reading and the roles given to its pins."""

    entry: ModelEntry
    reading: ReadingView
    roles: Roles


class RolesSave(BaseModel):
    """New roles for the pins of a stored file's subcircuits."""

    roles: Roles


@router.post("/readings", responses=problems())
def read_file(file: UploadFile) -> ReadingView:
    """Read an uploaded or pasted model file, and store nothing."""
    text = decode(file.file.read(MAX_TEXT + 1))
    return ReadingView.of(text, read_models(text))


@router.get("")
def list_models(session: InSession) -> list[ModelEntry]:
    """The shelf: all stored model files, by name."""
    return [_entry(session, row) for row in session.scalars(select(ModelFileRow).order_by(ModelFileRow.name))]


@router.get("/{model_id}", responses=problems(404))
def get_model(model_id: Slug, session: InSession) -> ModelDetail:
    """A stored model file."""
    return _detail(session, _row(session, model_id))


@router.post("", status_code=201, responses=problems(409))
def store_model(save: ModelSave, session: InSession) -> ModelDetail:
    """Store a model file. It must read without errors, and each node needs a role of its own."""
    reading = read_models(save.text)
    for finding in reading.findings:
        if finding.severity is Severity.ERROR:
            raise ProblemError(422, f"Line {finding.place.line or '?'}: {finding.message}", finding.remedy)
    _check_roles(reading, save.roles)
    digest = hashlib.sha256(save.text.encode()).hexdigest()
    if (same := session.scalar(select(ModelFileRow).where(ModelFileRow.sha256 == digest))) is not None:
        raise ProblemError(409, f"This very file is stored already, as {same.name}.", "Use the stored one.")
    slug = re.sub(r"[^a-z0-9]+", "-", save.name.lower()).strip("-")[:40] or "model"
    row = ModelFileRow(
        id=f"{slug}-{digest[:8]}",
        name=save.name,
        sha256=digest,
        text=save.text,
        source=save.source,
        link=save.link,
        roles=save.roles,
    )
    session.add(row)
    session.flush()
    return _detail(session, row)


@router.put("/{model_id}/roles", responses=problems(404))
def set_roles(model_id: Slug, save: RolesSave, session: InSession) -> ModelDetail:
    """Correct the roles of a stored file's pins. Evidence that rests on them is then out of date."""
    row = _row(session, model_id)
    _check_roles(read_models(row.text), save.roles)
    row.roles = save.roles
    return _detail(session, row)


def _row(session: Session, model_id: str) -> ModelFileRow:
    row = session.get(ModelFileRow, model_id)
    if row is None:
        raise ProblemError(404, "There is no such model file.", "Choose one from the shelf.")
    return row


def _check_roles(reading: Reading, roles: Roles) -> None:
    for subcircuit in reading.subcircuits:
        given = roles.get(subcircuit.name)
        if given is None:
            continue
        nodes = [pin.node for pin in subcircuit.pins]
        if len(given) != len(nodes):
            raise ProblemError(
                422, f"{subcircuit.name} has {len(nodes)} nodes, but {len(given)} roles were given.", "Give one each."
            )
        for role in given:
            if given.count(role) > 1:
                raise ProblemError(
                    422, f"The role {role} is given to two nodes of {subcircuit.name}.", "Give each node its own role."
                )
    known = {subcircuit.name for subcircuit in reading.subcircuits}
    if unknown := sorted(set(roles) - known):
        raise ProblemError(
            422, f"The file has no subcircuit {unknown[0]}.", f"It has {', '.join(sorted(known)) or 'none'}."
        )


def _entry(session: Session, row: ModelFileRow) -> ModelEntry:
    boards = session.scalars(select(BoardRow))
    used_by = [
        board.document["title"]
        for board in boards
        if any(
            part.get("model", {}).get("file") == row.id
            for circuit in board.document["circuits"]
            for part in circuit["parts"]
        )
    ]
    return ModelEntry(
        id=row.id,
        name=row.name,
        sha256=row.sha256,
        source=row.source,
        link=row.link,
        added_at=row.added_at,
        subcircuits=[subcircuit.name for subcircuit in read_models(row.text).subcircuits],
        used_by=used_by,
    )


def _detail(session: Session, row: ModelFileRow) -> ModelDetail:
    return ModelDetail(
        entry=_entry(session, row), reading=ReadingView.of(row.text, read_models(row.text)), roles=row.roles
    )
