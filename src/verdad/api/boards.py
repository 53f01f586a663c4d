"""Boards: read whole, saved whole, with a revision that guards against lost updates."""

from __future__ import annotations

import re
import uuid
from datetime import datetime

from fastapi import APIRouter, Response, UploadFile
from pydantic import BaseModel
from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.api.context import InContext, InSession, board_row, load_board, released
from verdad.api.problems import ProblemError, problems
from verdad.db.evidence import DatabaseStore
from verdad.db.tables import BoardRow, RevisionRow
from verdad.shelf.board_files import file_of, taken_in
from verdad_core.document.board import Board
from verdad_core.errors import Finding
from verdad_core.interchange.board_file import read_board_file
from verdad_core.interchange.differences import differences
from verdad_core.interchange.parts_list import parts_list
from verdad_core.interchange.parts_taken import take_parts
from verdad_core.schema import Note, Remark, Title
from verdad_core.spreads.spread import Spread

router = APIRouter(prefix="/api/boards", tags=["boards"])


class BoardEntry(BaseModel):
    """One line of the list of boards."""

    id: uuid.UUID
    title: str
    purpose: str
    updated_at: datetime


class BoardView(BaseModel):
    """A board with the revision to send back when it is saved."""

    id: uuid.UUID
    revision: int
    board: Board


class BoardNew(BaseModel):
    """A board to begin with."""

    title: Title
    purpose: Note = ""


class BoardSave(BaseModel):
    """A whole board, the revision that it was made from, and what was done to it."""

    revision: int
    board: Board
    what: Remark = ""


class RevisionEntry(BaseModel):
    """One line of a board's past."""

    revision: int
    what: str
    created_at: datetime


#: Revisions that are listed, the newest first.
LISTED = 200


def _view(row: BoardRow) -> BoardView:
    return BoardView(id=row.id, revision=row.revision, board=Board.model_validate(row.document))


@router.get("")
def list_boards(session: InSession) -> list[BoardEntry]:
    """All boards, the one changed last first."""
    rows = session.scalars(select(BoardRow).order_by(BoardRow.updated_at.desc()))
    return [
        BoardEntry(id=row.id, title=row.document["title"], purpose=row.document["purpose"], updated_at=row.updated_at)
        for row in rows
    ]


@router.post("", status_code=201, responses=problems())
def create_board(new: BoardNew, session: InSession) -> BoardView:
    """Begin a board: with one circuit, and nothing in it."""
    circuit = {"id": "circuit-1", "title": "Circuit 1", "parts": []}
    board = Board.model_validate({"title": new.title, "purpose": new.purpose, "circuits": [circuit]})
    row = BoardRow(document=board.model_dump(mode="json"))
    session.add(row)
    session.flush()
    _keep(session, row, "board begun")
    return _view(row)


@router.post("/file", status_code=201, responses=problems())
def open_board_file(file: UploadFile, session: InSession, context: InContext) -> BoardView:
    """Take in the file of a board, its models included, as a board of its own."""
    name = file.filename or "board.json"
    board = taken_in(session, context.apart.read(read_board_file, name, file.file.read()))
    row = BoardRow(document=board.model_dump(mode="json"))
    session.add(row)
    session.flush()
    _keep(session, row, "opened from a file")
    return _view(row)


@router.get(
    "/{board_id}/file", response_class=Response,
    responses=problems(404) | {200: {"content": {"application/json": {}}}},
)  # fmt: skip
def get_board_file(board_id: uuid.UUID, session: InSession) -> Response:
    """The whole board as one JSON file, its models included."""
    board = load_board(session, board_id)
    name = re.sub(r"[^a-z0-9]+", "-", board.title.lower()).strip("-") or "board"
    return Response(
        file_of(session, board).written(), media_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}.json"'},
    )  # fmt: skip


@router.get("/{board_id}", responses=problems(404))
def get_board(board_id: uuid.UUID, session: InSession) -> BoardView:
    """A board as it is now."""
    return _view(board_row(session, board_id))


@router.put("/{board_id}", responses=problems(404, 409))
def save_board(board_id: uuid.UUID, save: BoardSave, session: InSession) -> BoardView:
    """Save a whole board as the next revision. 409 when somebody else has saved since `revision`."""
    row = board_row(session, board_id, lock=True)
    if row.revision != save.revision:
        raise ProblemError(
            409,
            "The board was changed in another window since you opened it.",
            "Your change was not saved. The board has been loaded again; make the change once more.",
        )
    document = save.board.model_dump(mode="json")
    if document != row.document:
        row.revision += 1
        row.document = document
        _keep(session, row, save.what)
    return _view(row)


@router.delete("/{board_id}", status_code=204, responses=problems(404))
def remove_board(board_id: uuid.UUID, session: InSession) -> None:
    """Remove a board with its revisions and runs, and evidence that no other board's runs are about."""
    session.delete(board_row(session, board_id))
    session.flush()
    DatabaseStore(session).forget_orphans()


@router.get("/{board_id}/revisions", responses=problems(404))
def list_revisions(board_id: uuid.UUID, session: InSession) -> list[RevisionEntry]:
    """The newest revisions of a board, the present one first."""
    board_row(session, board_id)
    rows = session.execute(
        select(RevisionRow.revision, RevisionRow.what, RevisionRow.created_at)
        .where(RevisionRow.board_id == board_id)
        .order_by(RevisionRow.revision.desc())
        .limit(LISTED)
    )
    return [RevisionEntry(revision=number, what=what, created_at=when) for number, what, when in rows]


@router.get("/{board_id}/revisions/{revision}", responses=problems(404))
def get_revision(board_id: uuid.UUID, revision: int, session: InSession) -> BoardView:
    """A board as it once was."""
    # The column's own range; a larger number is no revision either.
    row = session.get(RevisionRow, (board_id, revision)) if 0 < revision < 2**31 else None
    if row is None:
        raise ProblemError(404, "There is no such revision.", "Choose one from the list.")
    return BoardView(id=board_id, revision=revision, board=Board.model_validate(row.document))


@router.get("/{board_id}/revisions/{revision}/changes", responses=problems(404))
def get_changes(board_id: uuid.UUID, revision: int, session: InSession) -> list[str]:
    """What changed since a revision, in words."""
    old = get_revision(board_id, revision, session).board
    return differences(old, load_board(session, board_id))


@router.get("/{board_id}/parts-list", responses=problems(404), response_class=Response)
def get_parts_list(board_id: uuid.UUID, session: InSession) -> Response:
    """All parts of the board in CSV, equal ones in one line. Fixtures are not in it."""
    board = _view(board_row(session, board_id)).board
    return Response(
        parts_list(board.circuits, board.spreads),
        media_type="text/csv",
        headers={"Content-Disposition": 'attachment; filename="parts.csv"'},
    )


class PartsTakenView(BaseModel):
    """What a list of parts says otherwise than the board: values by designator, and spreads; `known` parts of the
    board are in it, and `findings` say which lines could not be taken.
    """

    values: dict[str, str]
    spreads: list[Spread]
    known: int
    findings: list[Finding]


@router.post("/{board_id}/parts-list", responses=problems(404))
def read_parts_list(board_id: uuid.UUID, file: UploadFile, session: InSession, context: InContext) -> PartsTakenView:
    """Read a list of parts in CSV; nothing is stored."""
    board = load_board(session, board_id)
    released(session)
    taken = context.apart.read(take_parts, board, file.filename or "parts.csv", file.file.read())
    return PartsTakenView(
        values=dict(taken.values), spreads=list(taken.spreads), known=taken.known, findings=list(taken.findings)
    )


def _keep(session: Session, row: BoardRow, what: str) -> None:
    session.add(RevisionRow(board_id=row.id, revision=row.revision, document=row.document, what=what))
