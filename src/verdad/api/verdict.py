"""The verdict matrix: limits down, evidence across."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime

from fastapi import APIRouter, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session

from verdad.api.computing import nominal
from verdad.api.context import Context, InContext, InSession, board_row, load_board, load_models, released
from verdad.api.numbers import Number
from verdad.api.presence import Gone
from verdad.api.problems import problems
from verdad.api.stress import burdens_of
from verdad.db.evidence import DatabaseStore
from verdad.report.matrix import Verdict
from verdad.report.page import Provenance, page
from verdad.shelf.store import rows_of
from verdad_core.checks.elaborate import Models
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.document.board import Board
from verdad_core.document.parts import Modelled
from verdad_core.studies.evidence import AsDrawn, MatrixRow, evidence, judged
from verdad_core.studies.stress import stress
from verdad_core.studies.verdict import WORST_FIRST, Cell, State, worst

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
    """One limit with its cells, and the worst of their states; a study that does not cover its check has none."""

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
    state: State
    cells: list[CellView]


class ColumnHead(BaseModel):
    """A column of the matrix: the nominal run (no study), or a study."""

    title: str
    study: str | None


class Count(BaseModel):
    """How many limits come to a state, by their worst cell."""

    state: State
    limits: int


class VerdictView(BaseModel):
    """The matrix. A limit with a margin below `thin_margin` per cent is thin; `counts` are worst first."""

    thin_margin: float
    counts: list[Count]
    columns: list[ColumnHead]
    rows: list[VerdictRow]


@router.get("", responses=problems(404))
def get_verdict(board_id: uuid.UUID, session: InSession, context: InContext) -> VerdictView:
    """The verdict on the board as it is now. Evidence from other contents counts as none."""
    board = load_board(session, board_id)
    matrix = _matrix(context, session, board, load_models(session, board))
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
                state=worst(cell.state for _, cell in cells if cell is not None),
                cells=[CellView.of(head.title, head.study, cell) for head, cell in cells if cell is not None],
            )
        )
    counts = [Count(state=state, limits=sum(row.state is state for row in rows)) for state in WORST_FIRST]
    return VerdictView(
        thin_margin=board.thin_margin, counts=[c for c in counts if c.limits], columns=heads, rows=rows
    )  # fmt: skip


def _matrix(context: Context, session: Session, board: Board, models: Models) -> tuple[MatrixRow, ...]:
    released(session)

    def drawn(check: str) -> AsDrawn:
        return AsDrawn.of(nominal(context, board, check, models)[1])

    return evidence(board, models, DatabaseStore(session), drawn)


@router.get("/report", response_class=Response, responses=problems(404) | {200: {"content": {"text/html": {}}}})
def get_report(board_id: uuid.UUID, session: InSession, context: InContext, gone: Gone) -> Response:
    """The report on a board as one HTML file that needs nothing besides itself."""
    row = board_row(session, board_id)
    board, revision = Board.model_validate(row.document), f"Revision {row.revision}"
    models = load_models(session, board)
    used = {part.model.id for circuit in board.circuits for part in circuit.parts if isinstance(part, Modelled)}
    known = sorted(rows_of(session, used).values(), key=lambda each: each.name)
    told = [
        Provenance(each.name.upper(), each.kind, each.file, each.bundle.source, each.bundle.obtained_on.isoformat())
        for each in known
    ]
    kinds = {each.id: each.kind for each in known}
    matrix = _matrix(context, session, board, models)
    verdict = Verdict(board, ("Nominal", *(study.title for study in judged(board))), matrix)
    borne = stress(board, kinds, lambda check: burdens_of(context, board, check, models, gone))
    text = page(
        verdict, lambda check: nominal(context, board, check, models, gone=gone)[1], borne, told,
        datetime.now(UTC).date(), revision,
    )  # fmt: skip
    return Response(
        text, media_type="text/html", headers={"Content-Disposition": 'attachment; filename="verdict.html"'}
    )
