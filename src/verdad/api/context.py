"""What routes share: the application's context, sessions, and looking up boards and models."""

from __future__ import annotations

import os
import uuid
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy import Engine, event
from sqlalchemy.orm import Session

from verdad.apart import READERS, Apart
from verdad.api.problems import ProblemError
from verdad.api.remembered import Remembered, Runs
from verdad.api.turns import Flights, Turns
from verdad.db.session import Sessions
from verdad.db.tables import BoardRow
from verdad.runs.qualifier import Qualifier
from verdad.runs.runner import Runner
from verdad.shelf.store import load
from verdad_core.checks.at_rest import AtRest
from verdad_core.checks.burden import Burdens
from verdad_core.checks.compensation import Compensated
from verdad_core.checks.elaborate import Models
from verdad_core.checks.run import CheckResult
from verdad_core.document.board import Board, Circuit
from verdad_core.document.parts import Modelled
from verdad_core.engine.structure import Structure
from verdad_core.errors import Finding


@dataclass
class Context:
    """One per application. Results of checks are kept by key, so that equal work is not done twice."""

    engine: Engine
    sessions: Sessions
    runner: Runner
    qualifier: Qualifier
    #: The address of the makers' catalogue, where there is one.
    catalogue: str | None = None
    #: Results by key and metered pins, within so many bytes; what was compiled by shape and metered pins, and circuits
    #: at rest by key, within a number.
    results: Remembered[CheckResult] = field(default_factory=lambda: Remembered(256_000_000))
    structures: Remembered[Structure] = field(default_factory=lambda: Remembered(64))
    rests: Remembered[AtRest | Finding] = field(default_factory=lambda: Remembered(256))
    #: What parts bear, by the key of the check.
    burdens: Remembered[Burdens] = field(default_factory=lambda: Remembered(256))
    #: Ways to more margin, by the key of the check and what was asked of its loop.
    mended: Remembered[Compensated] = field(default_factory=lambda: Remembered(256))
    runs: Runs = field(default_factory=Runs)
    #: Who computes, and what is under way for whom. With one core more than one computes, so that quick ones pass.
    turns: Turns = field(default_factory=lambda: Turns(max(2, os.cpu_count() or 1)))
    flights: Flights[CheckResult] = field(default_factory=Flights)
    #: Where uploads are read.
    apart: Apart = READERS


def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


def _session(context: Annotated[Context, Depends(_context)]) -> Iterator[Session]:
    with context.sessions() as session:
        yield session
        session.commit()


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


def load_models(session: Session, board: Board) -> Models:
    """The models that the board's parts use; one that is not on the shelf is simply missing."""
    return load(session, {model for circuit in board.circuits for model in models_used(circuit)})


def models_used(circuit: Circuit) -> set[str]:
    """Identifiers of the models of a circuit's parts."""
    return {part.model.id for part in circuit.parts if isinstance(part, Modelled)}


def released(session: Session) -> None:
    """Hand the connection back before something long is computed: what computes holds none. The next read takes one."""
    session.commit()


def after_commit(session: Session, wake: Callable[[], None]) -> None:
    """Tell a worker of what this transaction writes, once it is written."""
    event.listen(session, "after_commit", lambda _: wake(), once=True)


def circuit_of(board: Board, circuit_id: str) -> Circuit:
    """A circuit of the board, or ProblemError 404."""
    found = next((circuit for circuit in board.circuits if circuit.id == circuit_id), None)
    if found is None:
        raise ProblemError(404, "There is no such circuit on this board.")
    return found
