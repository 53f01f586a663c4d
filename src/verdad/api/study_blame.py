"""Which quantities a variation comes from: for a measurement of a study, and by part for the sheet."""

from __future__ import annotations

import uuid

from fastapi import APIRouter
from pydantic import BaseModel

from verdad.api.context import InSession, load_board
from verdad.api.problems import ProblemError, problems
from verdad.api.study_rows import Listing, listing_of
from verdad_core.document.checks import Check
from verdad_core.document.measurements import Measurement
from verdad_core.studies.blame import Blame, blame
from verdad_core.studies.kind import kind_of
from verdad_core.studies.table import Column

router = APIRouter(prefix="/api/boards/{board_id}", tags=["studies"])

#: Rows that shares of the variation are taken from: more make them no better than their use.
_ROWS = 5000


class PartShares(BaseModel):
    """How much of the variance of what a check measures each part or fixture carries, the largest first, and the study
    and the measurement that say so.
    """

    study: str
    measurement: str
    explained: float
    shares: dict[str, float]


@router.get("/studies/{study_id}/blame", responses=problems(404))
def get_blame(board_id: uuid.UUID, study_id: str, session: InSession, check: str, measurement: str) -> Blame | None:
    """Which quantities the variation of a measurement comes from; null where too few rows tell."""
    listing = listing_of(session, board_id, study_id)
    found = {(own.id, each.id): column for _, own, each, column in listing.evidence.measured()}
    column = found.get((check, measurement))
    if column is None:
        raise ProblemError(404, "There is no such measurement in this study.")
    return _blame(listing, check, column)


@router.get("/checks/{check_id}/shares", responses=problems(404))
def get_part_shares(board_id: uuid.UUID, check_id: str, session: InSession) -> PartShares | None:
    """Shares by part of what is limited first in a check, of the first study of units that has rows; null without."""
    board = load_board(session, board_id)
    for study in board.studies:
        if check_id not in study.checks or kind_of(study).shape != "distribution":
            continue
        listing = listing_of(session, board_id, study.id)
        found = _looked_at(listing, check_id)
        shares = _blame(listing, check_id, found[2]) if found is not None and len(listing.known) else None
        if found is not None and shares is not None:
            by_part: dict[str, float] = {}
            for each in shares.shares:
                part = each.name.partition(".")[0]
                by_part[part] = by_part.get(part, 0.0) + each.share
            ordered = dict(sorted(by_part.items(), key=lambda item: -item[1]))
            return PartShares(
                study=study.title, measurement=found[1].title, explained=shares.explained, shares=ordered
            )  # fmt: skip
    return None


def _looked_at(listing: Listing, check_id: str) -> tuple[Check, Measurement, Column] | None:
    """What is measured of a check, first of all what is limited."""
    limited = {(limit.check, limit.measurement) for limit in listing.board.limits}
    own = [(check, each, column) for _, check, each, column in listing.evidence.measured() if check.id == check_id]
    return next((each for each in own if (check_id, each[1].id) in limited), own[0] if own else None)


def _blame(listing: Listing, check: str, column: Column) -> Blame | None:
    rows = listing.known[:_ROWS]
    own = listing.by_check[check] if len(rows) else {}
    return blame({name: values[rows] for name, values in own.items()}, column.values[rows])
