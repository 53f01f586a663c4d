"""Who computes the blocks of runs: a thread of the service until the workers have started, and then the workers.

Processes take seconds to start, and a study of a few rows is done before; so nobody waits for them. A team's cluster is
asked who it is first (cluster.py), and computes all of it.
"""

from __future__ import annotations

import concurrent.futures
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from threading import Event
from typing import Any

from distributed import Client, Future

from verdad.runs.block import Computed, Inputs, Task, compute_block
from verdad.runs.cluster import open_client
from verdad_core.studies.table import Found

#: Blocks that wait at each worker, so that it need not.
AHEAD = 2

#: A block that a worker lost is computed again this many times.
RETRIES = 2

#: A block under way, in the service or at a worker.
UnderWay = concurrent.futures.Future[Computed] | Future[Computed]


class EndedError(Exception):
    """Nobody waits for this block any more."""


class Crew:
    """The thread of the service and the connection to the workers, which is opened at the first run."""

    def __init__(self, scheduler: str | None) -> None:
        self._scheduler = scheduler
        self._here = ThreadPoolExecutor(1, "blocks")
        self._start = ThreadPoolExecutor(1, "workers")
        self._opening: concurrent.futures.Future[Client] | None = None

    def call(self) -> None:
        """Start the workers, if they are not. Raises ClusterError where a team's are none, or others."""
        if self._opening is None or (self._opening.done() and self._opening.exception()):
            self._opening = self._start.submit(open_client, self._scheduler)
        if self._scheduler is not None:
            self._opening.result()

    @property
    def workers(self) -> Client | None:
        """The workers; None while they start. Raises ClusterError."""
        return self._opening.result() if self._opening is not None and self._opening.done() else None

    def job(self, inputs: Inputs) -> Job:
        """A run's blocks, all with the same inputs."""
        return Job(self, self._here, inputs)

    def close(self) -> None:
        self._here.shutdown()
        if self._opening is not None and self._opening.exception() is None:
            client = self._opening.result()
            cluster = client.cluster
            client.close()
            if cluster is not None:
                cluster.close()
        self._start.shutdown()


class Job:
    """Computes blocks of one run."""

    def __init__(self, crew: Crew, here: ThreadPoolExecutor, inputs: Inputs) -> None:
        self._crew, self._here, self._inputs = crew, here, inputs
        self._shared: Future[Any] | None = None
        self._ended = Event()

    @property
    def room(self) -> int:
        """How many blocks may be under way."""
        client = self._crew.workers
        return 1 if client is None else AHEAD * max(len(client.nthreads()), 1)

    def submit(self, task: Task, start: int, stop: int, found: Found, done: Callable[[], object]) -> UnderWay:
        """Begin with a block, after what was `found` before it; `done` is called when it has ended, in whatever way."""
        client = self._crew.workers
        future: UnderWay
        if client is None:
            future = self._here.submit(compute_block, self._inputs, task, start, stop, self._look, found)
        else:
            if self._shared is None:
                [self._shared] = client.scatter([self._inputs], broadcast=True)
            with client.as_current():
                future = client.submit(
                    compute_block, self._shared, task, start, stop, found=found, pure=False, retries=RETRIES
                )
        future.add_done_callback(lambda _: done())
        return future

    def end(self, under_way: Mapping[UnderWay, object], stopped: bool) -> None:
        """End what is under way: nobody waits for it any more. A worker is asked to leave what it computes only where
        its run is `stopped` for good.
        """
        self._ended.set()
        client = self._crew.workers
        if client is not None:
            client.cancel([future for future in under_way if isinstance(future, Future)])
            if stopped and client.cluster is not None:
                client.restart(wait_for_workers=False)

    def _look(self, _: float) -> None:
        if self._ended.is_set():
            raise EndedError
