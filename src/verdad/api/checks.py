"""Running a check as drawn. Equal contents are answered from memory."""

from __future__ import annotations

import uuid

import numpy as np
from fastapi import APIRouter
from pydantic import BaseModel

from verdad.api.context import Context, InContext, InSession, load_board, load_models
from verdad.api.numbers import Number
from verdad.api.problems import ProblemError, problems
from verdad.shelf.findings import model_findings
from verdad_core.board.document import Board
from verdad_core.board.elaborate import Models
from verdad_core.board.keys import check_key
from verdad_core.board.run import CheckResult, Measured, Response, run_check
from verdad_core.errors import Finding

router = APIRouter(prefix="/api/boards/{board_id}/checks", tags=["checks"])

#: Results that are kept in memory; the oldest goes first.
KEPT = 64


class HandView(BaseModel):
    """The hand value beside a measurement; `deviation` is the simulated value's distance from it in per cent."""

    formula: str
    source: str
    value: Number
    deviation: Number


class MeasuredView(BaseModel):
    """One measurement; `value` is null when the response does not hold it."""

    id: str
    title: str
    unit: str
    value: Number
    hand: HandView | None

    @classmethod
    def of(cls, measured: Measured) -> MeasuredView:
        hand = measured.hand and HandView(
            formula=measured.hand.formula,
            source=measured.hand.source,
            value=measured.hand.value,
            deviation=measured.hand.deviation,
        )
        return cls(id=measured.id, title=measured.title, unit=measured.unit, value=measured.value, hand=hand)


class ResponseView(BaseModel):
    """A frequency response: `frequency` in hertz, `magnitude` in decibels, `phase` in degrees, continuous."""

    frequency: list[float]
    magnitude: list[float]
    phase: list[float]

    @classmethod
    def of(cls, response: Response) -> ResponseView:
        return cls(
            frequency=response.frequency.tolist(),
            magnitude=(20 * np.log10(np.maximum(np.abs(response.ratio), 1e-15))).tolist(),
            phase=np.degrees(np.unwrap(np.angle(response.ratio))).tolist(),
        )


class CheckView(BaseModel):
    """The operating point, `voltages` in volts by net, and the response with what was measured on it."""

    key: str
    solved_by: str
    voltages: dict[str, float]
    response: ResponseView | None
    measured: list[MeasuredView]
    findings: list[Finding]


def nominal(context: Context, board: Board, check_id: str, models: Models) -> tuple[str, CheckResult]:
    """The key and the result of a check as drawn, computed unless an equal one is remembered."""
    key = check_key(board, check_id, models)
    with context.lock:
        result = context.results.pop(key, None)
    result = result or run_check(board, check_id, models)
    with context.lock:
        context.results[key] = result
        while len(context.results) > KEPT:
            del context.results[next(iter(context.results))]
    return key, result


@router.get("/{check_id}", responses=problems(404))
def get_check(board_id: uuid.UUID, check_id: str, session: InSession, context: InContext) -> CheckView:
    """Run a check on the board as it is now."""
    board = load_board(session, board_id)
    if all(check.id != check_id for _, check in board.checks()):
        raise ProblemError(404, "There is no such check on this board.")
    key, result = nominal(context, board, check_id, load_models(session, board))
    circuit, check = board.check(check_id)
    return CheckView(
        key=key,
        solved_by=result.path.title,
        voltages=result.voltages,
        response=result.response and ResponseView.of(result.response),
        measured=[MeasuredView.of(measured) for measured in result.measured],
        findings=[*result.findings, *model_findings(session, circuit, check.analysis.kind)],
    )
