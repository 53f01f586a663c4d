"""Nobody waits for worker processes: until they are there, the service computes."""

from __future__ import annotations

import threading
from collections.abc import Iterator

import pytest
from distributed import Client, Future, LocalCluster

from tests.core.circuits import DEMO_MODELS, demo
from verdad.runs import crew
from verdad.runs.block import Inputs, Task, pack
from verdad.runs.crew import AHEAD, Crew, Job
from verdad_core.studies.keys import column_key
from verdad_core.studies.rows import Rows
from verdad_core.studies.table import NOTHING


@pytest.fixture
def started(monkeypatch: pytest.MonkeyPatch) -> Iterator[threading.Event]:
    """The workers have started when this is set."""
    event = threading.Event()

    def open_client(_: str | None) -> Client:
        event.wait(60)
        return Client(LocalCluster(n_workers=1, threads_per_worker=1, dashboard_address=None), set_as_default=False)

    monkeypatch.setattr(crew, "open_client", open_client)
    yield event
    event.set()


def begun() -> tuple[Crew, Job, Task]:
    board = demo()
    inputs: Inputs = pack(board, board.studies[0], DEMO_MODELS)
    [check] = board.studies[0].checks
    keys = tuple(column_key(measurement) for measurement in board.check(check)[1].measurements)
    found = Crew(None)
    found.call()
    return found, found.job(inputs), Task("rows", check, keys)


def test_the_service_computes_until_the_workers_are_there_and_both_give_the_same(started: threading.Event) -> None:
    found, job, task = begun()
    ended = threading.Event()
    here = job.submit(task, 3, 5, NOTHING, ended.set)
    values = here.result().values
    assert ended.wait(10)
    assert (found.workers, job.room, isinstance(here, Future)) == (None, 1, False)
    started.set()
    while found.workers is None:
        ended.wait(0.01)
    there = job.submit(task, 3, 5, NOTHING, ended.set)
    assert (job.room, isinstance(there, Future)) == (AHEAD, True)
    board = demo()
    table = Rows(board, board.studies[0], task.check, DEMO_MODELS).table(3, 5)
    assert there.result().values == values
    assert list(values.values()) == table.values.T.tolist()
    found.close()


def test_a_block_that_nobody_waits_for_is_ended(started: threading.Event) -> None:
    found, job, task = begun()
    under_way = job.submit(task, 0, 100_000, NOTHING, lambda: None)
    job.end({under_way: task}, stopped=True)
    with pytest.raises(crew.EndedError):
        under_way.result(60)
    started.set()
    found.close()
