"""The verdict matrix: limits down, evidence across."""

from __future__ import annotations

import uuid

from fastapi import APIRouter
from pydantic import BaseModel

from verdad.api.computing import nominal
from verdad.api.context import InContext, InSession, load_board, load_models, released
from verdad.api.numbers import Number
from verdad.api.problems import problems
from verdad.db.evidence import DatabaseStore
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.studies.evidence import AsDrawn, evidence, judged
from verdad_core.studies.verdict import Cell, State

router = APIRouter(prefix="/api/boards/{board_id}/verdict", tags=["verdict"])


class CellView(BaseModel):
    """One cell: a state, the worst value and its margin in the measurement's unit and in per cent of the limit."""

    column: str
    study: str | None
    state: State
    worst: Number
    margin: Number
    margin_percent: Number
    why: str

    @classmethod
    def of(cls, column: str, study: str | None, cell: Cell) -> CellView:
        return cls(
            column=column,
            study=study,
            state=cell.state,
            worst=cell.worst,
            margin=cell.margin,
            margin_percent=cell.margin_percent,
            why=cell.why,
        )


class VerdictRow(BaseModel):
    """One limit with its cells; a study that does not cover its check has none."""

    limit: str
    check: str
    check_id: str
    circuit: str
    measurement: str
    measurement_id: str
    unit: str
    lower: Number
    upper: Number
    reason: str
    cells: list[CellView]


class ColumnHead(BaseModel):
    """A column of the matrix: the nominal run (no study), or a study."""

    title: str
    study: str | None


class VerdictView(BaseModel):
    """The matrix. A limit with a margin below `thin_margin` per cent is thin."""

    thin_margin: float
    columns: list[ColumnHead]
    rows: list[VerdictRow]


@router.get("", responses=problems(404))
def get_verdict(board_id: uuid.UUID, session: InSession, context: InContext) -> VerdictView:
    """The verdict on the board as it is now. Evidence from other contents counts as none."""
    board = load_board(session, board_id)
    models = load_models(session, board)
    released(session)

    def drawn(check: str) -> AsDrawn:
        return AsDrawn.of(nominal(context, board, check, models)[1])

    matrix = evidence(board, models, DatabaseStore(session), drawn)
    heads = [ColumnHead(title="Nominal", study=None)]
    heads += [ColumnHead(title=study.title, study=study.id) for study in judged(board)]
    rows = []
    for found in matrix:
        limit = found.limit
        circuit, check = board.check(limit.check)
        measurement = check.measurement(limit.measurement)
        lower, upper = limit.bounds
        cells = [(heads[0], found.nominal), *zip(heads[1:], found.cells, strict=True)]
        rows.append(
            VerdictRow(
                limit=limit.id,
                check=check.title,
                check_id=check.id,
                circuit=circuit.title,
                measurement=measurement.title,
                measurement_id=measurement.id,
                unit=unit_of_measurement(circuit, check, measurement),
                lower=lower,
                upper=upper,
                reason=limit.reason,
                cells=[CellView.of(head.title, head.study, cell) for head, cell in cells if cell is not None],
            )
        )
    return VerdictView(thin_margin=board.thin_margin, columns=heads, rows=rows)
