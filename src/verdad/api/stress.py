"""What parts bear: watts of a check on the sheet, and the use of all ratings of a board."""

from __future__ import annotations

import time
import uuid

from fastapi import APIRouter
from pydantic import BaseModel
from sqlalchemy.orm import Session

from verdad.api.checks import board_with
from verdad.api.context import Context, InContext, InSession, load_board, load_models, models_used, released
from verdad.api.presence import Gone
from verdad.api.problems import problems
from verdad.api.remembered import PATIENCE
from verdad.shelf.store import model_of, rows_of
from verdad_core.checks.burden import Burdens, burdens
from verdad_core.checks.elaborate import Models
from verdad_core.checks.keys import check_key
from verdad_core.document.board import Board
from verdad_core.document.derating import Derating
from verdad_core.errors import ConvergenceError, MeasurementError
from verdad_core.studies.stress import SOURCE, Use, kind_of_part, rules_of, stress

router = APIRouter(prefix="/api/boards/{board_id}", tags=["stress"])


class WattsView(BaseModel):
    """Watts that parts take, on average over a run in time; what fixtures give, loads take, and the part of it."""

    parts: dict[str, float]
    given: dict[str, float]
    taken: dict[str, float]
    efficiency: float | None
    axis: str


class StressView(BaseModel):
    """All uses, the worst first; parts without a rating by circuit; checks that tell nothing, with why; the rules for
    the kinds of part that are on the board, and where the usual ones are from.
    """

    uses: tuple[Use, ...]
    unrated: dict[str, list[str]]
    silent: dict[str, str]
    rules: dict[str, Derating]
    source: str


@router.get("/checks/{check_id}/watts", responses=problems(404))
def get_watts(board_id: uuid.UUID, check_id: str, session: InSession, context: InContext, gone: Gone) -> WattsView:
    """What takes the power of a check, and how much of what is given its loads take."""
    board = board_with(session, board_id, check_id)
    used = models_used(board.check(check_id)[0])
    models = {key: model_of(row) for key, row in rows_of(session, used).items()}
    released(session)
    found = burdens_of(context, board, check_id, models, gone)
    return WattsView(
        parts={part: burden.watts for part, burden in found.parts.items()}, given=dict(found.given),
        taken=dict(found.taken), efficiency=found.efficiency, axis=found.axis.title if found.axis else "",
    )  # fmt: skip


@router.get("/stress", responses=problems(404))
def get_stress(board_id: uuid.UUID, session: InSession, context: InContext, gone: Gone) -> StressView:
    """What rated parts bear in all checks of the board, as they are drawn."""
    board = load_board(session, board_id)
    models = load_models(session, board)
    kinds = _kinds(session, board)
    released(session)
    found = stress(board, kinds, lambda check: burdens_of(context, board, check, models, gone))
    present = {kind_of_part(part, kinds) for circuit in board.circuits for part in circuit.parts}
    return StressView(
        uses=found.uses, silent=dict(found.silent), source=SOURCE,
        unrated={circuit: list(parts) for circuit, parts in found.unrated.items()},
        rules={kind: rule for kind, rule in rules_of(board).items() if kind in present},
    )  # fmt: skip


def _kinds(session: Session, board: Board) -> dict[str, str]:
    used = {model for circuit in board.circuits for model in models_used(circuit)}
    return {key: row.kind for key, row in rows_of(session, used).items()}


def burdens_of(context: Context, board: Board, check_id: str, models: Models, gone: Gone) -> Burdens:
    """Kept like other results: as long as the check is what it was."""
    key = f"burdens {check_key(board, check_id, models)}"
    known = context.burdens.get(key)
    if known is not None:
        return known

    with context.turns.turn("", lambda _: None):
        until = time.monotonic() + PATIENCE

        def look(_: float) -> None:
            if gone():
                raise ConvergenceError("nobody waits for it any more")
            if time.monotonic() > until:
                raise ConvergenceError(f"it takes longer than {PATIENCE:g} s")

        found = burdens(board, check_id, models, look)
    if gone():
        raise MeasurementError("it was broken off")
    return context.burdens.keep(key, found)
