"""What would help a study's yield: changes of tolerances and values, tried on its own units."""

from __future__ import annotations

import time
import uuid

from fastapi import APIRouter
from pydantic import BaseModel

from verdad.api.context import InContext, InSession, load_board, load_models, released
from verdad.api.presence import Gone
from verdad.api.problems import problems
from verdad.api.study_evidence import Evidence, find_study, present_keys
from verdad_core.spreads.spread import Spread
from verdad_core.studies.remedies import remedies
from verdad_core.studies.statistics import Yield

router = APIRouter(prefix="/api/boards/{board_id}/studies/{study_id}", tags=["studies"])

#: Seconds that trying may take.
_SECONDS = 12.0


class RemedyView(BaseModel):
    """A change of a quantity, in words, and the yield with it; what takes the place of its spread or its value."""

    of: str
    words: str
    within: Yield
    spread: Spread | None
    value: str | None


class RemediesView(BaseModel):
    """What helps, the best first, beside the yield of the same units as they are now; `tried` of `known` changes."""

    now: Yield
    found: list[RemedyView]
    tried: int
    known: int


@router.get("/remedies", responses=problems(404))
def get_remedies(
    board_id: uuid.UUID, study_id: str, session: InSession, context: InContext, gone: Gone
) -> RemediesView | None:  # fmt: skip
    """Single changes that give more yield against all limits on the study's checks; null without rows or limits."""
    board = load_board(session, board_id)
    study = find_study(board, study_id)
    models = load_models(session, board)
    evidence = Evidence.of(session, board, study, present_keys(board, study, models))
    released(session)
    with context.turns.turn("", lambda _: None):
        until = time.monotonic() + _SECONDS
        found = remedies(board, study, models, evidence.found, lambda: gone() or time.monotonic() > until)
    if found is None:
        return None
    shown = [
        RemedyView(of=each.of, words=each.words, within=each.within, spread=each.spread, value=each.value)
        for each in found.found
    ]
    return RemediesView(now=found.now, found=shown, tried=found.tried, known=found.known)
