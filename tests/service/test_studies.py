import os
import signal
import time
from collections.abc import Callable
from typing import Any

import pytest
from distributed import Client
from fastapi.testclient import TestClient
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from tests.service.test_boards import set_value
from verdad.api.app import create_app
from verdad.db.tables import EvidenceRow, RunRow, RunState

Json = dict[str, Any]


def address(board: Json) -> str:
    return f"/api/boards/{board['id']}/studies/preamp-spread"


def once(api: TestClient, where: str, true: Callable[[Json], bool]) -> Json:
    """What a study says as soon as something is true of it."""
    for _ in range(600):
        view: Json = api.get(where).json()
        if true(view):
            return view
        time.sleep(0.05)
    raise AssertionError(f"it never was: {view['run']}")


def finished(api: TestClient, board: Json, study: str = "preamp-spread") -> Json:
    """The study once its run is no longer under way."""
    where = f"/api/boards/{board['id']}/studies/{study}"
    return once(api, where, lambda view: view["run"] and view["run"]["state"] not in ("queued", "running"))


def under_way(api: TestClient, board: Json) -> Json:
    """The study as soon as its run is under way and has given rows."""
    return once(api, address(board), lambda view: view["rows_done"] and view["run"]["state"] == "running")


def bandwidth(view: Json) -> Json:
    return next(column for column in view["columns"] if column["id"] == "bandwidth")


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
    nominal, unproven, _ = api.get(verdict).json()["rows"][0]["cells"]
    assert (nominal["state"], unproven["state"]) == ("holds", "unproven")

    assert api.post(f"{address(short)}/runs").json()["run"]["state"] == "queued"
    view = finished(api, short)
    assert (view["run"]["state"], view["rows_done"], view["current"]) == ("done", 60, True)
    result = bandwidth(view)
    assert result["summary"]["n"] == 60
    assert sum(result["histogram"]["counts"]) == 60
    [limit] = result["limits"]
    assert limit["within"]["total"] == 60

    cell = api.get(verdict).json()["rows"][0]["cells"][1]
    assert cell["state"] == ("holds" if limit["within"]["share"] == 1 else "breaks")
    assert cell["worst"] in (result["summary"]["min"], result["summary"]["max"])


def test_rows_are_listed_sorted_and_handed_out(api: TestClient, short: Json) -> None:
    api.post(f"{address(short)}/runs")
    view = finished(api, short)
    where = f"{address(short)}/rows"
    found = api.get(where).json()
    assert [each["name"] for each in found["inputs"]] == ["C1", "R1", "R2", "R3", "R4"]
    assert (found["inputs"][0]["unit"], found["total"], len(found["rows"])) == ("F", 60, 50)
    results = [f"{each['check']} {each['id']}" for each in found["results"]]
    column = next(k for k, key in enumerate(results) if key.endswith("bandwidth"))
    worst = api.get(where, params={"sort": results[column], "limit": 1}).json()["rows"][0]
    assert worst["values"][column] == bandwidth(view)["summary"]["min"]
    best = api.get(where, params={"sort": results[column], "descending": True, "limit": 1}).json()["rows"][0]
    assert best["values"][column] == bandwidth(view)["summary"]["max"]
    failing = api.get(where, params={"failing": True, "limit": 100}).json()
    together = view["together"]["within"]
    assert failing["total"] == together["total"] - together["passed"]
    assert all(any(row["breaks"]) for row in failing["rows"])
    assert not any(row["breaks"][1 - column] for row in failing["rows"])
    assert api.get(where, params={"sort": "nothing"}).status_code == 422
    # The lowest bandwidth has its values on the sheet, and gives the same there.
    values = {each["name"]: repr(value) for each, value in zip(found["inputs"], worst["inputs"], strict=True)}
    trial = api.post(
        f"/api/boards/{short['id']}/checks/preamp-response/trial", json={"values": values, "expressions": []}
    ).json()
    again = next(each["value"] for each in trial["measured"] if each["id"] == "bandwidth")
    assert again == pytest.approx(worst["values"][column], rel=1e-9)
    csv = api.get(f"{where}.csv")
    lines = csv.text.strip().split("\r\n")
    assert lines[0].startswith("row,C1 / F,R1 / Ω")
    assert (len(lines), lines[1].split(",")[0]) == (61, "1")
    shares = api.get(f"{address(short)}/blame", params={"check": "preamp-response", "measurement": "bandwidth"}).json()
    assert shares["shares"][0]["name"] == "C1"
    assert shares["shares"][0]["share"] > 0.8
    # The same by part, for the sheet; and what would help, tried on the same units.
    by_part = api.get(f"/api/boards/{short['id']}/checks/preamp-response/shares").json()
    assert by_part["shares"]["C1"] == max(by_part["shares"].values())
    assert api.get(f"/api/boards/{short['id']}/checks/preamp-dc/shares").json() is None
    helping = api.get(f"{address(short)}/remedies").json()
    assert helping["now"]["total"] == 60
    assert all(each["within"]["share"] > helping["now"]["share"] for each in helping["found"])
    assert helping["tried"] == helping["known"] > 0


def test_a_study_that_measures_nothing_has_no_rows(api: TestClient, board: Json) -> None:
    """And no row fails, whichever are asked for."""
    document = board["board"]
    checks = [check for circuit in document["circuits"] for check in circuit["checks"]]
    bare = next(check for check in checks if check["id"] == "preamp-rest")
    bare["measurements"] = []
    document["studies"] = [{"kind": "temperature", "id": "t", "title": "T", "checks": ["preamp-rest"]}]
    where = f"/api/boards/{board['id']}"
    assert api.put(where, json={"revision": board["revision"], "board": document}).status_code == 200
    for failing in (False, True):
        found = api.get(f"{where}/studies/t/rows", params={"failing": failing})
        assert (found.status_code, found.json()["total"]) == (200, 0)


def test_the_same_seed_gives_the_same_numbers_after_a_restart(
    api: TestClient, short: Json, database_url: str, engine: Engine, workers: str
) -> None:
    api.post(f"{address(short)}/runs")
    first = bandwidth(finished(api, short))
    with TestClient(create_app(database_url, workers)) as restarted:
        assert bandwidth(finished(restarted, short)) == first
        with Session(engine) as session, session.begin():
            for row in (*session.scalars(select(RunRow)), *session.scalars(select(EvidenceRow))):
                session.delete(row)
        restarted.post(f"{address(short)}/runs")
        assert bandwidth(finished(restarted, short)) == first


def test_a_run_that_was_interrupted_goes_on_from_its_blocks(
    api: TestClient, short: Json, database_url: str, engine: Engine, workers: str
) -> None:
    api.post(f"{address(short)}/runs")
    whole = bandwidth(finished(api, short))
    with Session(engine) as session, session.begin():
        session.scalars(select(RunRow)).one().state = RunState.RUNNING
        blocks = list(session.scalars(select(EvidenceRow).order_by(EvidenceRow.start)))
        starts = sorted({block.start for block in blocks})
        for block in blocks:
            if block.start in (starts[1], starts[3]):
                session.delete(block)
        # A block that is stored is not computed again: a mark put into it survives.
        marked = [block for block in blocks if block.start == 0]
        for block in marked:
            block.values = [1.0, *block.values[1:]]
    with TestClient(create_app(database_url, workers)) as restarted:
        again = finished(restarted, short)
    assert (again["run"]["state"], again["rows_done"]) == ("done", 60)
    assert bandwidth(again)["summary"]["min"] == 1.0
    assert bandwidth(again)["summary"]["max"] == whole["summary"]["max"]


def test_more_rows_and_another_measurement_leave_what_was_computed(
    api: TestClient, short: Json, engine: Engine
) -> None:
    api.post(f"{address(short)}/runs")
    finished(api, short)
    document = short["board"]
    document["studies"][0]["rows"] = 90
    asked = {"id": "lower", "key": "value", "of": "db(response)", "settings": {"place": "100"}}
    document["circuits"][0]["checks"][0]["measurements"].append(asked)
    saved = api.put(f"/api/boards/{short['id']}", json={"revision": short["revision"], "board": document}).json()
    view = api.get(address(saved)).json()
    assert view["current"]
    assert [column["summary"] and column["summary"]["n"] for column in view["columns"]] == [60, 60, None]
    api.post(f"{address(saved)}/runs")
    view = finished(api, saved)
    assert [column["summary"]["n"] for column in view["columns"]] == [90, 90, 90]
    with Session(engine) as session:
        blocks = list(session.scalars(select(EvidenceRow)))
    by_column: dict[str, list[int]] = {}
    for block in blocks:
        by_column.setdefault(block.column_key, []).extend(range(block.start, block.stop))
    assert all(sorted(rows) == list(range(90)) for rows in by_column.values())


def test_two_checks_give_values_over_temperature_and_their_slopes(api: TestClient, board: Json) -> None:
    where = f"/api/boards/{board['id']}/studies/preamp-temperature"
    assert api.post(f"{where}/runs").status_code == 202
    view = finished(api, board, "preamp-temperature")
    assert (view["shape"], view["rows_done"], view["rows"]) == ("curve", 27, 27)
    [along] = view["places"]
    assert along["values"][0] == -40.0
    assert 27.0 in along["values"]
    slopes = {column["id"]: column["drift"] for column in view["columns"]}
    # The capacitor's 300 ppm/°C are all that the corner follows, but for the amplifier.
    assert slopes["bandwidth"]["ppm"] == pytest.approx(300.0, rel=0.02)
    assert {column["check"] for column in view["columns"]} == {"preamp-response", "preamp-rest"}
    assert all(len(column["values"]) == 27 and None not in column["values"] for column in view["columns"])


def test_a_study_of_what_is_gone_is_shown_with_its_reason(api: TestClient, board: Json) -> None:
    board["board"]["studies"][2]["over"] = "R77"
    api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": board["board"]})
    where = f"/api/boards/{board['id']}/studies/preamp-cable"
    assert "R77" in api.get(where).json()["trouble"]
    assert api.post(f"{where}/runs").status_code == 422


def test_what_no_run_is_about_any_more_goes_with_its_board(api: TestClient, short: Json, engine: Engine) -> None:
    api.post(f"{address(short)}/runs")
    finished(api, short)
    api.delete(f"/api/boards/{short['id']}")
    with Session(engine) as session:
        assert not list(session.scalars(select(EvidenceRow)))


def test_equal_work_is_not_done_twice(api: TestClient, short: Json, engine: Engine) -> None:
    api.post(f"{address(short)}/runs")
    first = finished(api, short)
    assert api.post(f"{address(short)}/runs").json()["run"]["id"] == first["run"]["id"]
    with Session(engine) as session:
        assert len(list(session.scalars(select(RunRow)))) == 1


def test_an_edit_makes_the_evidence_out_of_date_and_undo_makes_it_current(api: TestClient, short: Json) -> None:
    api.post(f"{address(short)}/runs")
    finished(api, short)
    edited = api.put(f"/api/boards/{short['id']}", json=set_value(short, "C1", "30n")).json()
    assert not api.get(address(short)).json()["current"]
    cell = api.get(f"/api/boards/{short['id']}/verdict").json()["rows"][0]["cells"][1]
    assert (cell["state"], cell["worst"]) == ("unproven", None)
    assert "no current run" in cell["why"]
    api.put(f"/api/boards/{short['id']}", json=set_value(edited, "C1", "33n"))
    assert api.get(address(short)).json()["current"]


def test_a_cancelled_run_stops_and_keeps_its_rows(api: TestClient, board: Json) -> None:
    long = shorten(api, board, 20_000)
    api.post(f"{address(long)}/runs")
    under_way(api, long)
    assert api.post(f"{address(long)}/cancel").json()["run"]["state"] == "cancelled"
    again = shorten(api, api.get(f"/api/boards/{board['id']}").json(), 20_001)
    # The runner takes the next run when it has let go of this one.
    api.post(f"{address(again)}/runs")
    after = under_way(api, again)
    assert 0 < after["rows_done"] < 20_000
    api.post(f"{address(again)}/cancel")
    cell = api.get(f"/api/boards/{long['id']}/verdict").json()["rows"][0]["cells"][1]
    assert (cell["state"], "rows are computed" in cell["why"]) == ("unproven", True)


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
    under_way(api, long)
    with Client(workers, set_as_default=False) as client:
        processes: dict[str, int] = client.run(os.getpid)
    os.kill(next(iter(processes.values())), signal.SIGKILL)
    view = finished(api, long)
    assert (view["run"]["state"], view["rows_done"]) == ("done", 3000)
    assert bandwidth(view)["summary"]["missing"] == 0


def test_a_worst_case_of_what_is_gone_says_so(api: TestClient, board: dict[str, Any]) -> None:
    """A spread whose source has no such value any more: the study is shown with what is wrong, and can be mended."""
    address = f"/api/boards/{board['id']}"
    document = board["board"]
    document["studies"] = [{"kind": "worst case", "id": "w", "title": "W", "checks": ["preamp-blast"]}]
    document["spreads"].append({"of": "geophone.level", "contributions": [{"amount": "5"}]})
    saved = api.put(address, json={"revision": board["revision"], "board": document}).json()
    assert api.get(f"{address}/studies/w").json()["rows"] > 2
    document = saved["board"]
    blast = next(check for check in document["circuits"][0]["checks"] if check["id"] == "preamp-blast")
    next(fixture for fixture in blast["fixtures"] if fixture["name"] == "geophone")["waveform"] = None
    assert api.put(address, json={"revision": saved["revision"], "board": document}).status_code == 200
    view = api.get(f"{address}/studies/w")
    assert view.status_code == 200
    assert (view.json()["rows"], "geophone.level" in view.json()["trouble"]) == (0, True)
