"""Qualification: a model on the bench, its figures beside the data sheet's, its cards."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel
from sqlalchemy.orm import Session

from verdad.api.context import InContext, InSession, after_commit
from verdad.api.models import model_row
from verdad.api.problems import ProblemError, problems
from verdad.db.tables import ModelRow, QualificationRow, RunState
from verdad.shelf.qualification import CARDS, FINDINGS, badge, figures_of, judged, key_of, lines_of
from verdad_core.errors import Finding
from verdad_core.qualification.bench import BENCHES, figure_types
from verdad_core.qualification.datasheet import written
from verdad_core.qualification.figures import Card, Figure
from verdad_core.qualification.judgement import Agreement, Badge
from verdad_core.schema import Slug

router = APIRouter(prefix="/api", tags=["qualification"])

ACTIVE = (RunState.QUEUED, RunState.RUNNING)


class LineView(BaseModel):
    """A figure of the bench beside its line of the data sheet, where there is one."""

    figure: Figure
    title: str
    unit: str
    meaning: str
    data_sheet: str
    conditions: str
    agreement: Agreement | None
    deviation: float | None
    reason: str


class QualificationView(BaseModel):
    """A model's qualification. `current` is false where the model, its pins or the conditions have changed since."""

    model: str
    name: str
    kind: str
    #: Whether there is a bench for this kind.
    bench: bool
    state: RunState | None
    current: bool
    done: int
    experiments: int
    doing: str
    message: str
    finished_at: datetime | None
    badge: Badge
    badge_text: str
    lines: list[LineView]
    cards: list[Card]
    findings: list[Finding]


@router.get("/models/{model_id}/qualification", responses=problems(404))
def get_qualification(model_id: Slug, session: InSession) -> QualificationView:
    """The newest qualification of a model, with progress while it runs."""
    return _view(session, model_row(session, model_id))


@router.post("/models/{model_id}/qualification", responses=problems(404))
def start_qualification(model_id: Slug, session: InSession, context: InContext) -> QualificationView:
    """Put a model on the bench. One that is there already, as it is now, stays there."""
    model = model_row(session, model_id)
    if model.kind not in BENCHES:
        raise ProblemError(422, f"There is no bench for the kind '{model.kind}'.", "Choose another kind.")
    key = key_of(model)
    row = session.get(QualificationRow, model.id, with_for_update=True)
    if row is None:
        row = QualificationRow(model_id=model.id, key=key)
        session.add(row)
    elif row.key == key and row.state in ACTIVE:
        return _view(session, model)
    row.key, row.state, row.message, row.doing = key, RunState.QUEUED, "", ""
    row.done, row.experiments, row.started_at, row.finished_at = 0, len(BENCHES[model.kind]), datetime.now(UTC), None
    row.figures, row.details = [], {}
    session.flush()
    after_commit(session, context.qualifier.wake)
    return _view(session, model)


@router.delete("/models/{model_id}/qualification", responses=problems(404))
def cancel_qualification(model_id: Slug, session: InSession) -> QualificationView:
    """Take a model off the bench."""
    model = model_row(session, model_id)
    row = session.get(QualificationRow, model.id, with_for_update=True)
    if row is not None and row.state in ACTIVE:
        row.state, row.finished_at = RunState.CANCELLED, datetime.now(UTC)
        session.flush()
    return _view(session, model)


@router.get("/comparisons", responses=problems(404))
def compare(
    session: InSession, model: Annotated[list[Slug], Query(min_length=1, max_length=6)]
) -> list[QualificationView]:
    """Several models' qualifications, for a table and overlaid curves."""
    return [_view(session, model_row(session, one)) for one in model]


def _view(session: Session, model: ModelRow) -> QualificationView:
    row = session.get(QualificationRow, model.id)
    now = row is not None and row.key == key_of(model)
    summary = badge(model, row if now else None)
    figures = {figure.key: figure for figure in figures_of(row)} if row else {}
    sheet = {line.figure: line for line in lines_of(model)}
    verdicts = {judgement.figure: judgement for judgement in judged(model, list(figures.values()))} if figures else {}
    lines = []
    for key, figure_type in figure_types(model.kind).items():
        figure, line, verdict = figures.get(key), sheet.get(key), verdicts.get(key)
        if figure is None:
            continue
        lines.append(
            LineView(
                figure=figure, title=figure_type.title, unit=figure_type.unit, meaning=figure_type.meaning,
                data_sheet=written(line, figure_type) if line else "", conditions=line.conditions if line else "",
                agreement=verdict.agreement if verdict else None, deviation=verdict.deviation if verdict else None,
                reason=verdict.reason if verdict else "",
            )
        )  # fmt: skip
    details = row.details if row else {}
    return QualificationView(
        model=model.id, name=model.name, kind=model.kind, bench=model.kind in BENCHES,
        state=RunState(row.state) if row else None, current=now, done=row.done if row else 0,
        experiments=row.experiments if row else 0, doing=row.doing if row else "", message=row.message if row else "",
        finished_at=row.finished_at if row else None, badge=summary.badge, badge_text=summary.text, lines=lines,
        cards=CARDS.validate_python(details.get("cards", [])),
        findings=FINDINGS.validate_python(details.get("findings", [])),
    )  # fmt: skip
