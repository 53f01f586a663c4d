"""The verdict matrix: limits down, evidence across."""

from __future__ import annotations

import uuid

import numpy as np
from fastapi import APIRouter
from pydantic import BaseModel

from verdad.api.computing import nominal
from verdad.api.context import InContext, InSession, load_board, load_models, released
from verdad.api.numbers import Number
from verdad.api.problems import problems
from verdad.api.studies import newest_run, table_of
from verdad.db.tables import RunState
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.errors import VerdadError
from verdad_core.studies.keys import study_key
from verdad_core.studies.table import Column
from verdad_core.studies.verdict import Cell, State, judge, unproven

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
    """One limit with its cells."""

    limit: str
    check: str
    circuit: str
    measurement: str
    unit: str
    lower: Number
    upper: Number
    reason: str
    cells: list[CellView]


class VerdictView(BaseModel):
    """The matrix. A limit with a margin below `thin_margin` per cent is thin."""

    thin_margin: float
    rows: list[VerdictRow]


@router.get("", responses=problems(404))
def get_verdict(board_id: uuid.UUID, session: InSession, context: InContext) -> VerdictView:
    """The verdict on the board as it is now. Evidence from other contents counts as none."""
    board = load_board(session, board_id)
    models = load_models(session, board)
    rows = []
    for limit in board.limits:
        circuit, check = board.check(limit.check)
        column = [measurement.id for measurement in check.measurements].index(limit.measurement)
        measurement = check.measurements[column]
        try:
            released(session)
            _, result = nominal(context, board, check.id, models)
            if result.objection is not None:
                cell = unproven(result.objection.message)
            elif not result.measured:
                cell = unproven("there is no result to measure")
            else:
                cell = judge(limit, Column.of(np.array([result.measured[column].value])), board.thin_margin)
        except VerdadError as error:
            cell = unproven(str(error))
        cells = [CellView.of("Nominal", None, cell)]
        for study in board.studies:
            if study.check == check.id:
                key = study_key(board, study, models)
                run = newest_run(session, board_id, study, key)
                if run is None:
                    cell = unproven("not run yet")
                elif run.key != key:
                    cell = unproven("out of date: parts, models or spreads have changed since the last run")
                elif run.state != RunState.DONE:
                    cell = unproven(f"the run is {run.state}")
                else:
                    cell = judge(limit, table_of(run, len(check.measurements)).column(column), board.thin_margin)
                cells.append(CellView.of("Monte Carlo", study.id, cell))
        lower, upper = limit.bounds
        rows.append(
            VerdictRow(
                limit=limit.id,
                check=check.title,
                circuit=circuit.title,
                measurement=measurement.title,
                unit=unit_of_measurement(circuit, check, measurement),
                lower=lower,
                upper=upper,
                reason=limit.reason,
                cells=cells,
            )
        )
    return VerdictView(thin_margin=board.thin_margin, rows=rows)
