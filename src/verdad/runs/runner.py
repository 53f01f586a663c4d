"""The runner: one thread that takes queued runs in order and keeps the workers busy with their blocks.

What is committed is not computed again, whichever run asked for it; after a crash or a restart that is at most the
blocks that were under way. The state in the database is the only truth; `cancel` writes it, the runner reads it.
"""

from __future__ import annotations

import uuid
from collections import deque
from collections.abc import Iterable, Mapping
from contextlib import suppress
from datetime import UTC, datetime
from typing import Any

import structlog
from distributed import CancelledError, Client, Future, KilledWorker, wait
from sqlalchemy import select
from sqlalchemy.exc import SQLAlchemyError

from verdad.db.evidence import DatabaseStore
from verdad.db.session import Sessions
from verdad.db.tables import RunRow, RunState
from verdad.runs.block import Computed, Task, compute_block, unpack
from verdad.runs.cluster import ClusterError, identity, open_client
from verdad.runs.worker import Worker
from verdad_core.document.board import Board
from verdad_core.document.studies import Study
from verdad_core.errors import VerdadError
from verdad_core.studies.evidence import Store, columns_of, gaps
from verdad_core.studies.keys import column_key
from verdad_core.studies.kind import kind_of

log = structlog.get_logger()

#: Rows of a first block, which shows how long they take, and at most; and seconds that a block is to take, so that
#: little is lost with a worker.
FIRST, LARGEST, SECONDS = 4, 500, 3.0

#: Blocks that wait at each worker, so that it need not.
AHEAD = 2

#: A block that a worker lost is computed again this many times, and a run whose inputs were lost with it.
RETRIES, LOSSES = 2, 3

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


def tasks_of(board: Board, study: Study, row_keys: Mapping[str, str], store: Store) -> dict[Task, Pending]:
    """What a run has to compute: for every check the columns that lack rows, with those rows."""
    found = {}
    for check, rows_key in row_keys.items():
        wanted = [column_key(measurement) for measurement in board.check(check)[1].measurements]
        columns = columns_of(store, rows_key, wanted, kind_of(study).size_on(board))
        for ranges, keys in gaps(columns).items():
            found[Task(rows_key, check, tuple(keys))] = Pending(ranges)
    return found


class Runner(Worker[uuid.UUID]):
    """Owns the thread and the connection to the workers, which is opened at the first run."""

    def __init__(self, sessions: Sessions, scheduler: str | None) -> None:
        super().__init__("runner", sessions)
        self._scheduler = scheduler
        self._client: Client | None = None

    def close(self) -> None:
        if self._client is not None:
            cluster = self._client.cluster
            self._client.close()
            if cluster is not None:
                cluster.close()

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
            if self._client is None:
                self._client = open_client(self._scheduler)
            state = self._computed(self._client, run_id, inputs, row_keys)
            self._finish(run_id, state)
        except VerdadError as error:
            self._finish(run_id, RunState.FAILED, str(error))
        except SQLAlchemyError:
            raise
        except Exception:
            log.exception("run failed", run=str(run_id))
            self._finish(
                run_id, RunState.FAILED, "The workers failed. The service's log says more; start the run again."
            )

    def _computed(
        self, client: Client, run_id: uuid.UUID, inputs: Any, row_keys: Mapping[str, str]
    ) -> RunState | None:  # fmt: skip
        """Compute what is pending, anew with fresh copies of the inputs where workers that held them are lost."""
        board, study, _ = unpack(inputs)
        for attempt in range(LOSSES + 1):
            with self.sessions() as session:
                tasks = tasks_of(board, study, row_keys, DatabaseStore(session))
            try:
                with client.as_current():
                    [shared] = client.scatter([inputs], broadcast=True)
                    return self._compute(client, run_id, shared, tasks)
            except (KilledWorker, CancelledError):
                if attempt == LOSSES:
                    raise
                log.warning("workers were lost", run=str(run_id))
        raise AssertionError

    def _compute(
        self, client: Client, run_id: uuid.UUID, inputs: Future[Any], tasks: Mapping[Task, Pending]
    ) -> RunState | None:  # fmt: skip
        """Compute the pending blocks. Returns the final state, or None when the service is stopping."""
        futures: dict[Future[Computed], tuple[Task, Block]] = {}
        most = AHEAD * max(len(client.nthreads()), 1)
        try:
            while futures or any(tasks.values()):
                if self.stopping.is_set():
                    return None
                if self._state(run_id) is RunState.CANCELLED:
                    self._end_blocks(client)
                    return RunState.CANCELLED
                while len(futures) < most and (task := next((t for t, left in tasks.items() if left), None)):
                    block = tasks[task].next()
                    future = client.submit(compute_block, inputs, task, *block, pure=False, retries=RETRIES)
                    futures[future] = task, block
                with suppress(TimeoutError):
                    wait(list(futures), timeout=1, return_when="FIRST_COMPLETED")
                for future in [future for future in futures if future.done()]:
                    task, block = futures.pop(future)
                    done = future.result()
                    _require_version(done.version)
                    tasks[task].took(block, done.seconds)
                    with self.sessions.begin() as session:
                        DatabaseStore(session).keep(task.rows_key, *block, done.values, done.causes)
            return RunState.DONE
        finally:
            client.cancel(list(futures))

    def _end_blocks(self, client: Client) -> None:
        """End the blocks that are under way on this machine's workers: nobody waits for them any more."""
        if client.cluster is not None:
            client.restart(wait_for_workers=False)

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
