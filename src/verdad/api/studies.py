"""Studies: start, watch and cancel runs, and read what their rows say."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from datetime import UTC, datetime

import numpy as np
from fastapi import APIRouter
from pydantic import BaseModel
from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.api.context import InContext, InSession, after_commit, board_row, load_board, load_models, released
from verdad.api.numbers import Number
from verdad.api.problems import problems
from verdad.api.study_evidence import Evidence, find_study, newest_run, present_keys
from verdad.db.evidence import DatabaseStore
from verdad.db.tables import RunRow, RunState
from verdad.runs.block import pack
from verdad_core.arrays import Floats
from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import Models
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.checks.quantities import TEMPERATURE
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board, Limit
from verdad_core.document.checks import Check
from verdad_core.document.studies import Study
from verdad_core.errors import VerdadError
from verdad_core.studies.corners import Corners
from verdad_core.studies.drift import Drift, drift
from verdad_core.studies.keys import column_key, study_key
from verdad_core.studies.kind import Places, Shape, StudyKind, kind_of
from verdad_core.studies.seek import Reached, reached
from verdad_core.studies.statistics import (
    Capability,
    Summary,
    Yield,
    capability,
    histogram,
    passing,
    summarise,
    yield_of,
)
from verdad_core.studies.table import Column
from verdad_core.studies.together import Together, together
from verdad_core.units import parse_value

router = APIRouter(prefix="/api/boards/{board_id}/studies", tags=["studies"])

ACTIVE = (RunState.QUEUED, RunState.RUNNING)


class HistogramView(BaseModel):
    """Counts of rows between neighbouring edges, in the measurement's unit."""

    edges: list[float]
    counts: list[int]


class LimitView(BaseModel):
    """A limit on a measurement, as numbers."""

    id: str
    lower: Number
    upper: Number
    reason: str
    within: Yield | None
    capability: Capability | None
    #: Where it is met, along what is turned.
    reached: list[Reached]


class ColumnView(BaseModel):
    """What one measurement of a check gave over the rows; `values` in row order where rows have an order."""

    check: str
    check_title: str
    circuit: str
    id: str
    title: str
    unit: str
    summary: Summary | None
    #: How many rows gave no number, and why; empty where all did.
    without: str
    histogram: HistogramView | None
    values: list[Number]
    #: Where rows are corners, and all of them are computed.
    corners: Corners | None
    #: Where rows stand at temperatures.
    drift: Drift | None
    limits: list[LimitView]


class PlacesView(BaseModel):
    """What rows stand at, where a quantity takes one value after the other; of two axes the first goes faster."""

    title: str
    unit: str
    values: list[float]
    logarithmic: bool


class RunView(BaseModel):
    """A run of a study."""

    id: uuid.UUID
    state: RunState
    message: str
    started_at: datetime
    finished_at: datetime | None
    seconds_left: Number


class StudyView(BaseModel):
    """A study with the evidence there is: that of the board as it is now, or else of its newest run.

    `current` is false for the latter. `trouble` says why the study cannot be run as it stands.
    """

    study: Study
    kind: str
    shape: Shape
    run: RunView | None
    current: bool
    rows: int
    rows_done: int
    columns: list[ColumnView]
    #: Up to two axes.
    places: list[PlacesView]
    #: What units give that are held against all limits at once, where there are several.
    together: Together | None
    trouble: str = ""


def _view(session: Session, board_id: uuid.UUID, board: Board, study: Study, models: Models) -> StudyView:
    run, trouble, current, keys = newest_run(session, board_id, study), "", True, dict[str, str]()
    try:
        keys = present_keys(board, study, models)
        found = Evidence.of(session, board, study, keys)
    except VerdadError as error:
        found, trouble = Evidence(board, study, {}), str(error)
    if not found.rows_done and run is not None and run.row_keys and run.row_keys != keys:
        # Nothing of the board as it is now: what there was is shown as what it is, by the board it was computed for.
        then = Board.model_validate(run.inputs["board"])
        before = Evidence.of(session, then, then.study(study.id), run.row_keys)
        if before.rows_done:
            found, current = before, False
    kind = kind_of(found.study)
    places = kind.places(found.board) if found.found else ()
    return StudyView(
        study=study, kind=kind_of(study).name, shape=kind.shape, run=_run(session, run, found), current=current,
        rows=found.rows or _size(kind, found.board), rows_done=found.rows_done, trouble=trouble,
        columns=_columns(board, found),
        together=together(found.limited(board.limits)) if kind.shape == "distribution" else None,
        places=[
            PlacesView(title=each.title, unit=each.unit, values=each.values.tolist(), logarithmic=each.logarithmic)
            for each in places
        ],
    )  # fmt: skip


def _size(kind: StudyKind, board: Board) -> int:
    """How many rows a study has; 0 where that cannot be told, which its trouble says."""
    try:
        return kind.size_on(board)
    except VerdadError:
        return 0


def _run(session: Session, run: RunRow | None, found: Evidence) -> RunView | None:
    if run is None:
        return None
    left = None
    if run.state in ACTIVE:
        computed = DatabaseStore(session).computed_since(run.row_keys.values(), run.started_at)
        pending = sum(len(column.values) - column.done for column in found.found.values())
        elapsed = (datetime.now(UTC) - run.started_at).total_seconds()
        left = elapsed / computed * pending if computed else None
    return RunView(
        id=run.id, state=RunState(run.state), message=run.message, started_at=run.started_at,
        finished_at=run.finished_at, seconds_left=left,
    )  # fmt: skip


def _columns(board: Board, found: Evidence) -> list[ColumnView]:
    kind, views, whole = kind_of(found.study), [], bool(found.found) and found.is_complete
    places = _alone(kind, found.board) if found.found else None
    for circuit, check, measurement, column in found.measured():
        known = column.values[column.causes != Cause.PENDING]
        summary = summarise(known)
        of = [each for each in board.limits if (each.check, each.measurement) == (check.id, measurement.id)]
        bins = histogram(known, [bound for limit in of for bound in limit.bounds if bound is not None])
        views.append(
            ColumnView(
                check=check.id, check_title=check.title, circuit=circuit.title, id=measurement.id,
                title=measurement.title, unit=unit_of_measurement(circuit, check, measurement),
                summary=summary, without=column.why,
                histogram=HistogramView(edges=bins.edges.tolist(), counts=bins.counts.tolist()) if bins else None,
                values=_in_order(column.values) if kind.shape != "distribution" else [],
                corners=kind.corners(found.board, found.found, (check.id, column_key(measurement))) if whole else None,
                drift=_drift(found, check, column),
                limits=[_limit(limit, known, summary, places, column) for limit in of],
            )
        )  # fmt: skip
    return views


def _alone(kind: StudyKind, board: Board) -> Places | None:
    """The axis that rows stand along, where there is one and no other."""
    axes = kind.places(board)
    return axes[0] if len(axes) == 1 else None


def _drift(found: Evidence, check: Check, column: Column) -> Drift | None:
    places = _alone(kind_of(found.study), found.board)
    if places is None or places.title != TEMPERATURE or not np.all(np.diff(places.values) > 0):
        return None
    return drift(places.values, column.values, parse_value(check.temperature))


def _in_order(values: Floats) -> list[float | None]:
    return [value if np.isfinite(value) else None for value in values.tolist()]


def _limit(
    limit: Limit, values: Floats, summary: Summary | None, places: Places | None, column: Column
) -> LimitView:  # fmt: skip
    lower, upper = limit.bounds
    within = yield_of(passing(values, lower, upper)) if len(values) else None
    fits = capability(summary, lower, upper) if summary is not None else None
    return LimitView(
        id=limit.id, lower=lower, upper=upper, reason=limit.reason, within=within, capability=fits,
        reached=reached(places, column.values, lower, upper) if places is not None else [],
    )  # fmt: skip


@router.get("/{study_id}", responses=problems(404))
def get_study(board_id: uuid.UUID, study_id: str, session: InSession) -> StudyView:
    """A study with its evidence, partial results included."""
    board = load_board(session, board_id)
    study = find_study(board, study_id)
    return _view(session, board_id, board, study, load_models(session, board))


@router.post("/{study_id}/runs", status_code=202, responses=problems(404))
def start_run(board_id: uuid.UUID, study_id: str, session: InSession, context: InContext) -> StudyView:
    """Start a study on the board as it is now. What is computed already, in whichever run, is not computed again."""
    # An edit that is being saved comes first.
    board_row(session, board_id, lock=True)
    board = load_board(session, board_id)
    study = find_study(board, study_id)
    models = load_models(session, board)
    keys, key = present_keys(board, study, models), study_key(board, study, models)
    if not _is_answered(session, board_id, board, study, keys, key):
        # A circuit that cannot be solved as drawn is refused at once, with its reason; nothing is locked meanwhile.
        released(session)
        for check in study.checks:
            run_check(board, check, models)
        board_row(session, board_id, lock=True)
        if not _is_answered(session, board_id, board, study, keys, key):
            session.add(
                RunRow(board_id=board_id, study=study.id, key=key, inputs=pack(board, study, models), row_keys=keys)
            )
            session.flush()
            after_commit(session, context.runner.wake)
    return _view(session, board_id, board, study, models)


def _is_answered(
    session: Session, board_id: uuid.UUID, board: Board, study: Study, keys: Mapping[str, str], key: str
) -> bool:  # fmt: skip
    """Whether an equal run is under way, or all is there and the newest run has ended with it."""
    run = newest_run(session, board_id, study)
    if run is None or run.key != key:
        return False
    return run.state in ACTIVE or (
        run.state == RunState.DONE and Evidence.of(session, board, study, keys).is_complete
    )  # fmt: skip


@router.post("/{study_id}/cancel", responses=problems(404))
def cancel_run(board_id: uuid.UUID, study_id: str, session: InSession) -> StudyView:
    """Cancel the study's run that is queued or under way; its finished rows stay readable."""
    board = load_board(session, board_id)
    study = find_study(board, study_id)
    for run in session.scalars(
        select(RunRow)
        .where(RunRow.board_id == board_id, RunRow.study == study.id, RunRow.state.in_(ACTIVE))
        .with_for_update()
    ):
        run.state = RunState.CANCELLED
        run.finished_at = datetime.now(UTC)
    session.flush()
    return _view(session, board_id, board, study, load_models(session, board))
