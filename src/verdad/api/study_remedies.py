"""What would help a study's yield: changes of tolerances and values, tried on its own units."""

from __future__ import annotations

import time
import uuid

from fastapi import APIRouter

from verdad.api.context import InContext, InSession, load_board, load_models, released
from verdad.api.presence import Gone
from verdad.api.problems import problems
from verdad.api.study_evidence import Evidence, find_study, present_keys
from verdad_core.studies.remedies import Remedies, remedies

router = APIRouter(prefix="/api/boards/{board_id}/studies/{study_id}", tags=["studies"])

#: Seconds that trying may take.
_SECONDS = 12.0


@router.get("/remedies", responses=problems(404))
def get_remedies(
    board_id: uuid.UUID, study_id: str, session: InSession, context: InContext, gone: Gone
) -> Remedies | None:  # fmt: skip
    """Single changes that give more yield against all limits on the study's checks; null without rows or limits."""
    board = load_board(session, board_id)
    study = find_study(board, study_id)
    models = load_models(session, board)
    evidence = Evidence.of(session, board, study, present_keys(board, study, models))
    released(session)
    with context.turns.turn("", lambda _: None):
        until = time.monotonic() + _SECONDS
        return remedies(board, study, models, evidence.found, lambda: gone() or time.monotonic() > until)
