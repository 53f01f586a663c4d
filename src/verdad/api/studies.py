"""Studies: start, watch and cancel runs, and read what their rows say."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime

import numpy as np
from fastapi import APIRouter
from pydantic import BaseModel
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from verdad.api.context import InContext, InSession, after_commit, board_row, load_board, load_models, released
from verdad.api.numbers import Number
from verdad.api.problems import ProblemError, problems
from verdad.db.tables import BlockRow, RunRow, RunState
from verdad.runs.block import pack
from verdad_core.arrays import Floats
from verdad_core.checks.elaborate import Models
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board, Limit, MonteCarlo
from verdad_core.studies.keys import study_key
from verdad_core.studies.statistics import Summary, Yield, histogram, summarise, yield_of
from verdad_core.studies.table import Column, Table

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


class DistributionView(BaseModel):
    """What one measurement did over the rows."""

    id: str
    title: str
    unit: str
    summary: Summary | None
    #: How many rows gave no number, and why; empty where all did.
    without: str
    histogram: HistogramView | None
    limits: list[LimitView]


class RunView(BaseModel):
    """A run of a study. `current` is false when the board, its models or spreads have changed since it was started."""

    id: uuid.UUID
    state: RunState
    current: bool
    rows: int
    rows_done: int
    message: str
    seed: int
    started_at: datetime
    finished_at: datetime | None
    seconds_left: Number
    distributions: list[DistributionView]


class StudyView(BaseModel):
    """A study and its run: the current one, else the newest."""

    study: MonteCarlo
    run: RunView | None


def find_study(board: Board, study_id: str) -> MonteCarlo:
    """The study, or ProblemError 404."""
    found = next((study for study in board.studies if study.id == study_id), None)
    if found is None:
        raise ProblemError(404, "There is no such study on this board.")
    return found


def table_of(run: RunRow, measurements: int) -> Table:
    """The rows that are done, in row order."""
    values = np.array([value for block in run.blocks for value in block.values], dtype=float)
    causes = [block.causes or Column.of(np.array(block.values, dtype=float)).causes.tolist() for block in run.blocks]
    told = np.array([cause for block in causes for cause in block], dtype=np.int32)
    return Table(values.reshape(-1, measurements), told.reshape(-1, measurements))


def newest_run(session: Session, board_id: uuid.UUID, study: MonteCarlo, key: str) -> RunRow | None:
    """The newest run with this key that was not cancelled and did not fail, else the newest of the study."""
    # Only what the choice needs is read: a run's inputs hold whole model files.
    runs = session.execute(
        select(RunRow.id, RunRow.key, RunRow.state)
        .where(RunRow.board_id == board_id, RunRow.study == study.id)
        .order_by(RunRow.started_at.desc())
        .limit(50)
    ).all()
    usable = [run for run in runs if run.key == key and run.state in (*ACTIVE, RunState.DONE)]
    chosen = next(iter(usable or runs), None)
    return session.get(RunRow, chosen.id) if chosen else None


def _view(board: Board, study: MonteCarlo, models: Models, run: RunRow | None) -> StudyView:
    if run is None:
        return StudyView(study=study, run=None)
    # A run's rows are read by the board it was started on: the check may have other measurements by now.
    then = Board.model_validate(run.inputs["board"])
    circuit, check = then.check(then.study(study.id).check)
    table = table_of(run, len(check.measurements))
    distributions = []
    for column, measurement in enumerate(check.measurements):
        values = table.column(column).values
        bins = histogram(values)
        limits = [limit for limit in board.limits if limit.check == check.id and limit.measurement == measurement.id]
        distributions.append(
            DistributionView(
                id=measurement.id,
                title=measurement.title,
                unit=unit_of_measurement(circuit, check, measurement),
                summary=summarise(values),
                without=table.column(column).why,
                histogram=HistogramView(edges=bins.edges.tolist(), counts=bins.counts.tolist()) if bins else None,
                limits=[_limit(limit, values) for limit in limits],
            )
        )
    done = len(table.values)
    left = None
    if run.state in ACTIVE and done:
        elapsed = (datetime.now(UTC) - run.started_at).total_seconds()
        left = elapsed / done * (run.rows - done)
    return StudyView(
        study=study,
        run=RunView(
            id=run.id,
            state=RunState(run.state),
            current=run.key == study_key(board, study, models),
            rows=run.rows,
            rows_done=done,
            message=run.message,
            seed=then.study(study.id).seed,
            started_at=run.started_at,
            finished_at=run.finished_at,
            seconds_left=left,
            distributions=distributions,
        ),
    )


def _limit(limit: Limit, values: Floats) -> LimitView:
    lower, upper = limit.bounds
    return LimitView(
        id=limit.id,
        lower=lower,
        upper=upper,
        reason=limit.reason,
        within=yield_of(values, lower, upper) if len(values) else None,
    )


@router.get("/{study_id}", responses=problems(404))
def get_study(board_id: uuid.UUID, study_id: str, session: InSession) -> StudyView:
    """A study with its run, partial results included."""
    board = load_board(session, board_id)
    study = find_study(board, study_id)
    models = load_models(session, board)
    return _view(board, study, models, newest_run(session, board_id, study, study_key(board, study, models)))


@router.post("/{study_id}/runs", status_code=202, responses=problems(404))
def start_run(board_id: uuid.UUID, study_id: str, session: InSession, context: InContext) -> StudyView:
    """Start a study on the board as it is now. Where an equal run is under way or done, that one is the answer."""
    # An edit that is being saved comes first.
    board_row(session, board_id, lock=True)
    board = load_board(session, board_id)
    study = find_study(board, study_id)
    models = load_models(session, board)
    key = study_key(board, study, models)
    if not _is_usable(newest_run(session, board_id, study, key), key):
        # A circuit that cannot be solved as drawn is refused at once, with its reason; nothing is locked meanwhile.
        released(session)
        run_check(board, study.check, models)
    board_row(session, board_id, lock=True)
    run = newest_run(session, board_id, study, key)
    if run is None or not _is_usable(run, key):
        run = RunRow(board_id=board_id, study=study.id, key=key, inputs=pack(board, study, models), rows=study.rows)
        session.add(run)
        session.flush()
        _take_over(session, run)
        after_commit(session, context.runner.wake)
    return _view(board, study, models, run)


def _take_over(session: Session, run: RunRow) -> None:
    """Blocks of an earlier run with the same key, which ended early, need not be computed again."""
    counted = select(BlockRow.run_id, func.count()).join(RunRow).where(RunRow.key == run.key, RunRow.id != run.id)
    best = session.execute(counted.group_by(BlockRow.run_id).order_by(func.count().desc()).limit(1)).first()
    if best is not None:
        for block in session.scalars(select(BlockRow).where(BlockRow.run_id == best[0])):
            run.blocks.append(BlockRow(start=block.start, stop=block.stop, values=block.values, causes=block.causes))


def _is_usable(run: RunRow | None, key: str) -> bool:
    return run is not None and run.key == key and run.state in (*ACTIVE, RunState.DONE)


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
    models = load_models(session, board)
    return _view(board, study, models, newest_run(session, board_id, study, study_key(board, study, models)))
