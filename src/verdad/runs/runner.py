"""The runner: one thread that takes queued runs in order and keeps the workers busy with their blocks.

A run is resumed from the blocks that are committed: after a crash or a restart at most the blocks that were under
way are computed again. The state in the database is the only truth; `cancel` writes it, the runner reads it.
"""

from __future__ import annotations

import os
import uuid
from collections.abc import Iterable
from contextlib import suppress
from datetime import UTC, datetime
from typing import Any

import structlog
from distributed import Client, Future, LocalCluster, wait
from sqlalchemy import select
from sqlalchemy.exc import SQLAlchemyError

from verdad.db.session import Sessions
from verdad.db.tables import BlockRow, RunRow, RunState
from verdad.runs.block import compute_block
from verdad.runs.worker import Worker
from verdad_core.errors import VerdadError

log = structlog.get_logger()

#: A run is cut into about this many blocks, of sizes between these bounds: often enough for progress to be seen.
BLOCKS = 20
SMALLEST, LARGEST = 10, 500

#: A worker takes about 200 MB.
MOST_WORKERS = 8

#: A block that a worker lost is computed again this many times.
RETRIES = 2


def open_client(scheduler: str | None) -> Client:
    """A team's cluster where `scheduler` names one, or a worker process on each of this machine's cores."""
    if scheduler:
        return Client(scheduler, set_as_default=False)
    cluster = LocalCluster(
        n_workers=min(os.cpu_count() or 1, MOST_WORKERS),
        threads_per_worker=1,
        dashboard_address="127.0.0.1:0",
        host="127.0.0.1",
        silence_logs="ERROR",
    )
    return Client(cluster, set_as_default=False)


def blocks_of(rows: int) -> list[tuple[int, int]]:
    """The row ranges (start, stop) that a run is cut into."""
    size = min(max(-(-rows // BLOCKS), SMALLEST), LARGEST)
    return [(start, min(start + size, rows)) for start in range(0, rows, size)]


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
            inputs, done = run.inputs, {block.start for block in run.blocks}
            pending = [block for block in blocks_of(run.rows) if block[0] not in done]
        log.info("run started", run=str(run_id), blocks=len(pending))
        try:
            if self._client is None:
                self._client = open_client(self._scheduler)
            with self._client.as_current():
                [shared] = self._client.scatter([inputs], broadcast=True)
                state = self._compute(self._client, run_id, shared, pending)
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

    def _compute(
        self, client: Client, run_id: uuid.UUID, inputs: Future[Any], pending: Iterable[tuple[int, int]]
    ) -> RunState | None:
        """Compute the pending blocks. Returns the final state, or None when the service is stopping."""
        futures = {
            client.submit(compute_block, inputs, start, stop, pure=False, retries=RETRIES): (start, stop)
            for start, stop in pending
        }
        try:
            while futures:
                if self.stopping.is_set():
                    return None
                if self._state(run_id) is RunState.CANCELLED:
                    return RunState.CANCELLED
                with suppress(TimeoutError):
                    wait(list(futures), timeout=1, return_when="FIRST_COMPLETED")
                for future in [future for future in futures if future.done()]:
                    start, stop = futures.pop(future)
                    values = future.result()
                    with self.sessions.begin() as session:
                        session.merge(BlockRow(run_id=run_id, start=start, stop=stop, values=values))
            return RunState.DONE
        finally:
            client.cancel(list(futures))

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
