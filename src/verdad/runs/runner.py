"""The runner: one thread that takes queued runs in order and keeps the workers busy with their blocks.

What is committed is not computed again, whichever run asked for it; after a crash or a restart that is at most the
blocks that were under way. The state in the database is the only truth; `cancel` writes it, the runner reads it.
"""

from __future__ import annotations

import uuid
from collections import deque
from collections.abc import Iterable, Mapping
from datetime import UTC, datetime
from threading import Event
from typing import Any

import structlog
from distributed import CancelledError, KilledWorker
from sqlalchemy import select
from sqlalchemy.exc import SQLAlchemyError

from verdad.db.evidence import DatabaseStore
from verdad.db.session import Sessions
from verdad.db.tables import RunRow, RunState
from verdad.runs.block import Task, unpack
from verdad.runs.cluster import ClusterError, identity
from verdad.runs.crew import Crew, Job, UnderWay
from verdad.runs.worker import Worker
from verdad_core.errors import VerdadError
from verdad_core.studies.evidence import found_so_far, gaps
from verdad_core.studies.kind import kind_of
from verdad_core.studies.table import NOTHING, Found

log = structlog.get_logger()

#: Rows of a first block, which shows how long they take, and at most; and seconds that a block is to take, so that
#: little is lost with a worker.
FIRST, LARGEST, SECONDS = 4, 500, 3.0

#: A run whose inputs were lost with the workers that held them goes on this many times.
LOSSES = 3

#: The rows start..stop-1.
Block = tuple[int, int]


class Pending:
    """The rows of a task that are still to be computed, handed out in blocks of as many as take SECONDS."""

    def __init__(self, ranges: Iterable[Block]) -> None:
        self._gaps = deque(ranges)
        self._size = FIRST

    def __bool__(self) -> bool:
        return bool(self._gaps)

    def next(self) -> Block:
        start, stop = self._gaps.popleft()
        end = min(start + self._size, stop)
        if end < stop:
            self._gaps.appendleft((end, stop))
        return start, end

    def took(self, block: Block, seconds: float) -> None:
        """How long a block took; the next ones become at most four times as large at once."""
        rows = block[1] - block[0]
        wanted = rows * SECONDS / max(seconds, 1e-3)
        self._size = int(min(max(wanted, 1), 4 * max(rows, self._size), LARGEST))


def tasks_of(found: Found, row_keys: Mapping[str, str]) -> dict[Task, Pending]:
    """What a run has to compute: for every check the columns that lack rows, with those rows."""
    tasks = {}
    for check, rows_key in row_keys.items():
        for ranges, keys in gaps({key: column for (own, key), column in found.items() if own == check}).items():
            tasks[Task(rows_key, check, tuple(keys))] = Pending(ranges)
    return tasks


class Runner(Worker[uuid.UUID]):
    """Takes one run after the other."""

    def __init__(self, sessions: Sessions, scheduler: str | None) -> None:
        super().__init__("runner", sessions)
        self._crew = Crew(scheduler)

    def close(self) -> None:
        self._crew.close()

    def next(self) -> uuid.UUID | None:
        with self.sessions() as session:
            return session.scalar(
                select(RunRow.id)
                .where(RunRow.state.in_((RunState.RUNNING, RunState.QUEUED)))
                .order_by(RunRow.started_at)
                .limit(1)
            )

    def carry_out(self, run_id: uuid.UUID) -> None:
        with self.sessions.begin() as session:
            run = session.get_one(RunRow, run_id)
            run.state = RunState.RUNNING
            inputs, row_keys = run.inputs, run.row_keys
        log.info("run started", run=str(run_id))
        try:
            self._crew.call()
            self._finish(run_id, self._computed(run_id, inputs, row_keys))
        except VerdadError as error:
            self._finish(run_id, RunState.FAILED, str(error))
        except SQLAlchemyError:
            raise
        except Exception:
            log.exception("run failed", run=str(run_id))
            self._finish(
                run_id, RunState.FAILED, "The workers failed. The service's log says more; start the run again."
            )

    def _computed(self, run_id: uuid.UUID, inputs: Any, row_keys: Mapping[str, str]) -> RunState | None:
        """Compute what is pending, anew with fresh copies of the inputs where workers that held them are lost."""
        board, study, _ = unpack(inputs)
        looks_back, losses, job = kind_of(study).looks_back, 0, self._crew.job(inputs)
        while True:
            with self.sessions() as session:
                found = found_so_far(board, study, row_keys, DatabaseStore(session))
            tasks = tasks_of(found, row_keys)
            if not tasks:
                return RunState.DONE
            try:
                state = self._compute(job, run_id, tasks, found if looks_back else NOTHING)
            except (KilledWorker, CancelledError):
                if (losses := losses + 1) > LOSSES:
                    raise
                log.warning("workers were lost", run=str(run_id))
                job = self._crew.job(inputs)
                continue
            if state is not RunState.DONE:
                return state

    def _compute(
        self, job: Job, run_id: uuid.UUID, tasks: Mapping[Task, Pending], before: Found
    ) -> RunState | None:  # fmt: skip
        """Compute the pending blocks of a phase, with what was found before it where rows depend on that.

        Returns DONE, the final state of a run that was cancelled, or None when the service is stopping.
        """
        under_way: dict[UnderWay, tuple[Task, Block]] = {}
        some_done, state = Event(), None
        try:
            while under_way or any(tasks.values()):
                if self.stopping.is_set():
                    return None
                if (state := self._state(run_id)) is RunState.CANCELLED:
                    return state
                while len(under_way) < job.room and (task := next((t for t, left in tasks.items() if left), None)):
                    block = tasks[task].next()
                    under_way[job.submit(task, *block, before, some_done.set)] = task, block
                some_done.wait(1.0)
                some_done.clear()
                for future in [future for future in under_way if future.done()]:
                    task, block = under_way.pop(future)
                    done = future.result()
                    _require_version(done.version)
                    tasks[task].took(block, done.seconds)
                    with self.sessions.begin() as session:
                        DatabaseStore(session).keep(task.rows_key, *block, done.values, done.causes)
            return RunState.DONE
        finally:
            if under_way:
                job.end(under_way, stopped=state is RunState.CANCELLED)

    def _state(self, run_id: uuid.UUID) -> RunState:
        with self.sessions() as session:
            state = session.scalar(select(RunRow.state).where(RunRow.id == run_id))
        return RunState(state) if state else RunState.CANCELLED

    def _finish(self, run_id: uuid.UUID, state: RunState | None, message: str = "") -> None:
        if state is None:
            return
        with self.sessions.begin() as session:
            run = session.get(RunRow, run_id, with_for_update=True)
            if run is not None:
                # A cancellation that came while the last block was computed stands.
                run.state = RunState.CANCELLED if run.state == RunState.CANCELLED else state
                run.message = message
                run.finished_at = datetime.now(UTC)
        log.info("run ended", run=str(run_id), state=state, message=message)


def _require_version(version: str) -> None:
    """Raise ClusterError for what a worker with other sources has computed."""
    if version != identity():
        raise ClusterError(
            f"a worker of version {version} joined while the service runs {identity()}: its rows are no evidence and "
            "were left out",
            remedy="Install the same version on both, and start the run again.",
        )
