"""The envelope of a study: a curve as drawn, and the bands within which it lies in the units that are built."""

from __future__ import annotations

import time
import uuid

import numpy as np
from fastapi import APIRouter
from pydantic import BaseModel

from verdad.api.computing import nominal
from verdad.api.context import InContext, InSession, load_board, load_models, released
from verdad.api.numbers import Number
from verdad.api.problems import ProblemError, problems
from verdad.api.study_evidence import Evidence, find_study, present_keys
from verdad_core.arrays import Floats
from verdad_core.checks.cards import cards_of
from verdad_core.checks.signals import Names, Needed
from verdad_core.measure.expressions import read_expression
from verdad_core.studies.envelope import BORDERS, envelope

router = APIRouter(prefix="/api/boards/{board_id}/studies/{study_id}", tags=["studies"])

#: Rows at the most, and seconds that they may take.
_ROWS, _SECONDS = 200, 6.0


class BandView(BaseModel):
    """A border of the bands: below it lie so many per cent of the units."""

    percent: float
    values: list[Number]


class EnvelopeView(BaseModel):
    """Of the curves that a check shows, `choices`, one, `of`, over the first `rows`; `left_out` more are no evidence.

    Computed when it is asked for: a study keeps numbers, not curves.
    """

    choices: list[str]
    of: str
    axis: str
    axis_unit: str
    unit: str
    logarithmic: bool
    places: list[float]
    nominal: list[Number]
    bands: list[BandView]
    rows: int
    left_out: int


@router.get("/envelope", responses=problems(404))
def get_envelope(
    board_id: uuid.UUID, study_id: str, session: InSession, context: InContext, check: str, of: str = ""
) -> EnvelopeView | None:  # fmt: skip
    """The envelope of a curve of a check, the first that it shows where none is named; null where it shows none."""
    board = load_board(session, board_id)
    study = find_study(board, study_id)
    if check not in study.checks:
        raise ProblemError(404, "There is no such check in this study.")
    circuit, own = board.check(check)
    choices = list(dict.fromkeys(curve.expression for card in cards_of(circuit, own) for curve in card.curves))
    models = load_models(session, board)
    evidence = Evidence.of(session, board, study, present_keys(board, study, models))
    released(session)
    of = of or next(iter(choices), "")
    if of not in choices or not evidence.rows_done:
        return None
    pins = Needed.by([of], circuit, Names.of(circuit, own)).pins
    result = nominal(context, board, check, models, frozenset(pins))[1]
    if result.signals is None or result.objection is not None:
        why = result.objection.message if result.objection is not None else "it gave no curve"
        raise ProblemError(422, f"The circuit as drawn is no evidence: {why}.", "Mend it on the sheet first.")
    drawn = result.signals.evaluate(read_expression(of))
    with context.turns.turn("", lambda _: None):
        until = time.monotonic() + _SECONDS
        rows = min(evidence.rows_done, _ROWS)
        found = envelope(board, study, check, of, drawn, models, rows, evidence.found, lambda: time.monotonic() > until)
    return EnvelopeView(
        choices=choices, of=of, axis=found.axis.title, axis_unit=found.axis.unit.name, unit=found.unit.name,
        logarithmic=found.axis.logarithmic, places=found.axis.values.tolist(), nominal=_numbers(found.nominal),
        bands=[
            BandView(percent=percent, values=_numbers(values))
            for percent, values in zip(BORDERS, found.bands, strict=True)
        ],
        rows=found.rows, left_out=found.left_out,
    )  # fmt: skip


def _numbers(values: Floats) -> list[float | None]:
    return [value if np.isfinite(value) else None for value in values.tolist()]
