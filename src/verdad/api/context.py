"""What routes share: the application's context, sessions, and looking up boards and model files."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from verdad.api.problems import ProblemError
from verdad.db.session import Sessions
from verdad.db.tables import BoardRow, ModelFileRow
from verdad.runs.runner import Runner
from verdad_core.board.document import Board
from verdad_core.board.elaborate import ModelFile, ModelFiles
from verdad_core.board.parts import Modelled
from verdad_core.board.run import CheckResult


@dataclass
class Context:
    """One per application. `results` keeps the newest check results by key, so that equal work is not done twice."""

    engine: Engine
    sessions: Sessions
    runner: Runner
    results: dict[str, CheckResult] = field(default_factory=dict)
    lock: threading.Lock = field(default_factory=threading.Lock)


def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


def _session(context: Annotated[Context, Depends(_context)]) -> Iterator[Session]:
    with context.sessions.begin() as session:
        yield session


InContext = Annotated[Context, Depends(_context)]
#: A transaction that is committed when the route returns, and rolled back when it raises.
InSession = Annotated[Session, Depends(_session, scope="function")]


def board_row(session: Session, board_id: uuid.UUID, *, lock: bool = False) -> BoardRow:
    row = session.get(BoardRow, board_id, with_for_update=lock)
    if row is None:
        raise ProblemError(404, "There is no such board.", "Go back to the list of boards.")
    return row


def load_board(session: Session, board_id: uuid.UUID) -> Board:
    """The board as it is now. ProblemError 404 when there is none."""
    return Board.model_validate(board_row(session, board_id).document)


def load_models(session: Session, board: Board) -> ModelFiles:
    """The model files that the board's parts use; one that is not stored is simply missing."""
    used = {part.model.file for circuit in board.circuits for part in circuit.parts if isinstance(part, Modelled)}
    rows = session.scalars(select(ModelFileRow).where(ModelFileRow.id.in_(used)))
    return {row.id: ModelFile(row.name, row.text, {k: tuple(v) for k, v in row.roles.items()}) for row in rows}
