import os
import signal
import time
from typing import Any

import pytest
from distributed import Client
from fastapi.testclient import TestClient
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from tests.service.test_boards import set_value
from verdad.api.app import create_app
from verdad.db.tables import BlockRow, RunRow, RunState

Json = dict[str, Any]


def address(board: Json) -> str:
    return f"/api/boards/{board['id']}/studies/preamp-spread"


def finished(api: TestClient, board: Json) -> Json:
    """The study's run once it is no longer under way."""
    for _ in range(300):
        run: Json = api.get(address(board)).json()["run"]
        if run["state"] not in ("queued", "running"):
            return run
        time.sleep(0.1)
    raise AssertionError("the run did not end")


def bandwidth(run: Json) -> Json:
    return next(d for d in run["distributions"] if d["id"] == "bandwidth")


def shorten(api: TestClient, board: Json, rows: int = 60) -> Json:
    """The board with fewer rows in its study, saved."""
    board["board"]["studies"][0]["rows"] = rows
    view: Json = api.put(
        f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": board["board"]}
    ).json()
    return view


@pytest.fixture
def short(api: TestClient, board: Json) -> Json:
    return shorten(api, board)


def test_a_run_gives_every_row_and_the_verdict(api: TestClient, short: Json) -> None:
    assert api.get(address(short)).json()["run"] is None
    verdict = f"/api/boards/{short['id']}/verdict"
    nominal, unproven = api.get(verdict).json()["rows"][0]["cells"]
    assert (nominal["state"], unproven["state"]) == ("holds", "unproven")

    assert api.post(f"{address(short)}/runs").json()["run"]["state"] == "queued"
    run = finished(api, short)
    assert (run["state"], run["rows_done"], run["current"]) == ("done", 60, True)
    result = bandwidth(run)
    assert result["summary"]["n"] == 60
    assert sum(result["histogram"]["counts"]) == 60
    [limit] = result["limits"]
    assert limit["within"]["total"] == 60

    cell = api.get(verdict).json()["rows"][0]["cells"][1]
    assert cell["state"] == ("holds" if limit["within"]["share"] == 1 else "breaks")
    assert cell["worst"] in (result["summary"]["min"], result["summary"]["max"])


def test_the_same_seed_gives_the_same_numbers_after_a_restart(
    api: TestClient, short: Json, database_url: str, engine: Engine, workers: str
) -> None:
    api.post(f"{address(short)}/runs")
    first = bandwidth(finished(api, short))
    with TestClient(create_app(database_url, workers)) as restarted:
        assert bandwidth(finished(restarted, short)) == first
        with Session(engine) as session, session.begin():
            for run in session.scalars(select(RunRow)):
                session.delete(run)
        restarted.post(f"{address(short)}/runs")
        assert bandwidth(finished(restarted, short)) == first


def test_a_run_that_was_interrupted_goes_on_from_its_blocks(
    api: TestClient, short: Json, database_url: str, engine: Engine, workers: str
) -> None:
    api.post(f"{address(short)}/runs")
    whole = bandwidth(finished(api, short))
    with Session(engine) as session, session.begin():
        run = session.scalars(select(RunRow)).one()
        run.state = RunState.RUNNING
        kept = [block.start for block in run.blocks[::2]]
        marked = run.blocks[0]
        session.delete(run.blocks[1])
        session.delete(run.blocks[3])
        # A block that is stored is not computed again: a mark put into it survives.
        marked.values = [1.0, *marked.values[1:]]
    with TestClient(create_app(database_url, workers)) as restarted:
        again = finished(restarted, short)
    assert again["state"] == "done"
    assert again["rows_done"] == 60
    assert bandwidth(again)["summary"] == whole["summary"]
    with Session(engine) as session:
        blocks = list(session.scalars(select(BlockRow).order_by(BlockRow.start)))
        assert {block.start for block in blocks} >= set(kept)
        assert blocks[0].values[0] == 1.0


def test_equal_work_is_not_done_twice(api: TestClient, short: Json, engine: Engine) -> None:
    api.post(f"{address(short)}/runs")
    first = finished(api, short)
    assert api.post(f"{address(short)}/runs").json()["run"]["id"] == first["id"]
    with Session(engine) as session:
        assert len(list(session.scalars(select(RunRow)))) == 1


def test_an_edit_makes_the_evidence_out_of_date_and_undo_makes_it_current(api: TestClient, short: Json) -> None:
    api.post(f"{address(short)}/runs")
    finished(api, short)
    edited = api.put(f"/api/boards/{short['id']}", json=set_value(short, "C1", "30n")).json()
    assert not api.get(address(short)).json()["run"]["current"]
    cell = api.get(f"/api/boards/{short['id']}/verdict").json()["rows"][0]["cells"][1]
    assert (cell["state"], cell["worst"]) == ("unproven", None)
    assert "out of date" in cell["why"]
    api.put(f"/api/boards/{short['id']}", json=set_value(edited, "C1", "33n"))
    assert api.get(address(short)).json()["run"]["current"]


def test_a_cancelled_run_stops_and_keeps_its_rows(api: TestClient, board: Json) -> None:
    long = shorten(api, board, 20_000)
    api.post(f"{address(long)}/runs")
    for _ in range(200):
        if api.get(address(long)).json()["run"]["rows_done"]:
            break
        time.sleep(0.1)
    cancelled = api.post(f"{address(long)}/cancel").json()["run"]
    assert cancelled["state"] == "cancelled"
    time.sleep(2)
    after = api.get(address(long)).json()["run"]
    assert after["state"] == "cancelled"
    assert 0 < after["rows_done"] < 20_000
    cell = api.get(f"/api/boards/{long['id']}/verdict").json()["rows"][0]["cells"][1]
    assert cell["state"] == "unproven"


def test_a_circuit_without_solution_is_refused_before_it_runs(api: TestClient, board: Json) -> None:
    board["board"]["circuits"][0]["parts"][3]["model"]["id"] = "gone"
    api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": board["board"]})
    answer = api.post(f"{address(board)}/runs")
    assert answer.status_code == 422
    assert answer.json()["place"]["part"] == "U1"


def test_unknown_studies_are_not_found(api: TestClient, board: Json) -> None:
    for method, path in (("GET", "nothing"), ("POST", "nothing/runs"), ("POST", "nothing/cancel")):
        assert api.request(method, f"/api/boards/{board['id']}/studies/{path}").status_code == 404


def test_a_killed_worker_loses_no_row(api: TestClient, board: Json, workers: str) -> None:
    """The block it was at is computed again by another process; the run ends with every row, in order."""
    long = shorten(api, board, 3000)
    api.post(f"{address(long)}/runs")
    for _ in range(200):
        if api.get(address(long)).json()["run"]["rows_done"]:
            break
        time.sleep(0.05)
    with Client(workers, set_as_default=False) as client:
        processes: dict[str, int] = client.run(os.getpid)
    os.kill(next(iter(processes.values())), signal.SIGKILL)
    run = finished(api, long)
    assert (run["state"], run["rows_done"]) == ("done", 3000)
    assert bandwidth(run)["summary"]["missing"] == 0
