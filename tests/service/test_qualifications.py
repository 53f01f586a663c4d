import time
from typing import Any

import pytest
from fastapi.testclient import TestClient


def demo_model(api: TestClient) -> str:
    [entry] = api.get("/api/models").json()
    identifier: str = entry["id"]
    return identifier


def qualified(api: TestClient, model: str) -> Any:
    view = api.post(f"/api/models/{model}/qualification").json()
    while view["state"] in ("queued", "running"):
        assert view["done"] <= view["experiments"]
        time.sleep(0.05)
        view = api.get(f"/api/models/{model}/qualification").json()
    return view


def test_a_model_is_qualified_against_its_data_sheet(api: TestClient, board: dict[str, Any]) -> None:
    model = demo_model(api)
    check = f"/api/boards/{board['id']}/checks/preamp-response"
    assert any("is not qualified" in finding["message"] for finding in api.get(check).json()["findings"])
    view = qualified(api, model)
    assert (view["state"], view["badge"], view["badge_text"]) == ("done", "qualified", "qualified (7 of 7)")
    lines = {line["figure"]["key"]: line for line in view["lines"]}
    assert lines["slew_rate_rising"]["figure"]["value"] == pytest.approx(4e6, rel=0.1)
    assert lines["slew_rate_rising"]["agreement"] == "agrees"
    assert {card["key"] for card in view["cards"]} >= {"open-loop-gain", "phase-margin", "small-step", "noise"}
    assert api.get("/api/models").json()[0]["badge_text"] == "qualified (7 of 7)"
    assert not api.get(check).json()["findings"]
    # Another data sheet needs no new bench, only another judgement.
    api.patch(f"/api/models/{model}", json={"data_sheet": [{"figure": "gain_bandwidth", "typical": 80e6}]})
    assert api.get(f"/api/models/{model}/qualification").json()["badge"] == "contradicts its data sheet"
    assert any(
        "contradicts the data sheet in gain-bandwidth product" in finding["message"]
        for finding in api.get(check).json()["findings"]
    )


def test_other_pins_or_conditions_make_a_qualification_out_of_date(api: TestClient) -> None:
    model = demo_model(api)
    assert qualified(api, model)["current"]
    api.patch(f"/api/models/{model}", json={"conditions": {"load": 1000}})
    stale = api.get(f"/api/models/{model}/qualification").json()
    assert (stale["current"], stale["badge"]) == (False, "not qualified")
    assert stale["lines"]
    api.patch(f"/api/models/{model}", json={"conditions": {}})
    assert api.get(f"/api/models/{model}/qualification").json()["current"]


def test_models_are_compared(api: TestClient) -> None:
    model = demo_model(api)
    qualified(api, model)
    [first, second] = api.get("/api/comparisons", params={"model": [model, model]}).json()
    assert first == second
    assert api.get("/api/comparisons", params={"model": ["nothing"]}).status_code == 404


def test_a_kind_without_bench_and_a_bench_that_is_left(api: TestClient) -> None:
    model = demo_model(api)
    api.patch(f"/api/models/{model}", json={"kind": "other"})
    assert api.post(f"/api/models/{model}/qualification").status_code == 422
    api.patch(f"/api/models/{model}", json={"kind": "op-amp"})
    api.post(f"/api/models/{model}/qualification")
    left = api.delete(f"/api/models/{model}/qualification").json()
    assert left["state"] in ("cancelled", "done")


def test_a_pasted_data_sheet_is_read(api: TestClient) -> None:
    table = "Parameter\tTyp\tUnit\nSR\t4\tV/us\nmood\t1\t\nGBW\tbig\tMHz\n"
    sheet = api.post("/api/data-sheets", json={"kind": "op-amp", "csv": table}).json()
    assert [(line["figure"], line["typical"]) for line in sheet["lines"]] == [("slew_rate_rising", 4e6)]
    assert [finding["place"]["line"] for finding in sheet["findings"]] == [3, 4]


def test_kinds_tell_their_pins_conditions_and_figures(api: TestClient) -> None:
    kinds = {kind["key"]: kind for kind in api.get("/api/kinds").json()}
    assert kinds["op-amp"]["roles"] == ["in+", "in-", "v+", "v-", "out"]
    assert "slew_rate_rising" in {figure["key"] for figure in kinds["op-amp"]["figures"]}
    assert kinds["other"]["figures"] == []


def test_without_a_catalogue_it_is_said(api: TestClient) -> None:
    assert api.get("/api/catalogue").status_code == 404
