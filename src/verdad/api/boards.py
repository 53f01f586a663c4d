"""Boards: read whole, saved whole, with a revision that guards against lost updates."""

from __future__ import annotations

import uuid
from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel
from sqlalchemy import select

from verdad.api.context import InSession, board_row
from verdad.api.problems import ProblemError, problems
from verdad.db.tables import BoardRow, RevisionRow
from verdad_core.board.document import Board

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


class BoardSave(BaseModel):
    """A whole board, and the revision that it was made from."""

    revision: int
    board: Board


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
        session.add(RevisionRow(board_id=row.id, revision=row.revision, document=document))
    return _view(row)
