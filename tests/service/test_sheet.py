from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

PASTED = """.subckt amp in+ in- out
r1 in+ in- 1meg
e1 out 0 in+ in- 1e5
.ends
x7 in fb out amp
r1 out fb 9k
r2 fb 0 1k
vin in 0 dc 0 ac 1
.ac dec 10 1 1k
"""


def test_what_is_typed_is_read_with_the_shelf_in_mind(api: TestClient) -> None:
    [choice] = api.get("/api/typed", params={"text": "r 4k7 1%"}).json()
    assert (choice["kind"], choice["value"], choice["tolerance"]) == ("resistor", "4k7", 1.0)
    [model] = api.get("/api/typed", params={"text": "ovn4"}).json()
    assert model["model"]["name"] == "ovn4183"
    assert model["symbol"]["shape"] == "amplifier"
    refused = api.get("/api/typed", params={"text": "r 10kk"})
    assert refused.status_code == 422
    assert "two prefixes" in refused.json()["message"]


def test_a_stage_is_computed_for_its_goals_and_model(api: TestClient, board: dict[str, Any]) -> None:
    [model] = api.get("/api/models").json()
    answer = api.post("/api/stages/non-inverting", json={"goals": {"A": "40"}, "op_amp": model["id"]}).json()
    assert {line["part"]: line["value"] for line in answer["chosen"]} == {"R1": 10e3, "R2": 392e3}
    assert answer["parts"][0]["model"]["id"] == model["id"]
    assert answer["reached"][0]["reached"] == 40.2
    assert api.post("/api/stages/astrology", json={}).status_code == 404
    assert "above zero" in api.post("/api/stages/inverting", json={"goals": {"A": "0"}}).json()["message"]
    assert len(api.get("/api/stages").json()) > 20


def test_a_netlist_becomes_a_circuit_and_its_model_a_model(api: TestClient, board: dict[str, Any]) -> None:
    pasted = api.post(f"/api/boards/{board['id']}/pasted", json={"title": "Gain", "text": PASTED}).json()
    parts = {part["designator"]: part for part in pasted["circuit"]["parts"]}
    assert parts["U7"]["pins"] == {"in+": "in", "in-": "fb", "out": "out"}
    assert pasted["names"]["r1"] == "R5"
    assert "amp" in {model["name"] for model in api.get("/api/models").json()}
    document = board["board"]
    document["circuits"].append(pasted["circuit"])
    saved = api.put(
        f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": document, "what": "pasted"}
    )
    assert saved.status_code == 200
    check = pasted["circuit"]["checks"][0]["id"]
    result = api.get(f"/api/boards/{board['id']}/checks/{check}").json()
    assert abs(result["measured"][0]["value"] - 10) < 0.01
    assert api.get(f"/api/boards/{board['id']}/revisions").json()[0]["what"] == "pasted"
    text = api.get(f"/api/boards/{board['id']}/circuits/{pasted['circuit']['id']}/netlist").text
    assert ".subckt amp" in text
    assert "vin" not in text.lower()


@pytest.mark.parametrize("title", ["push pull output", "two transistors"])
def test_a_title_above_models_is_no_statement_of_theirs(api: TestClient, board: dict[str, Any], title: str) -> None:
    text = f"{title}\nv1 in 0 dc 1\nr1 in out 1k\nq1 out out 0 qp\n.model qp pnp(bf=100)\n.op\n.end\n"
    pasted = api.post(f"/api/boards/{board['id']}/pasted", json={"text": text}).json()
    assert pasted["circuit"]["title"] == title
    document = board["board"]
    document["circuits"].append(pasted["circuit"])
    api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": document}).raise_for_status()
    check = pasted["circuit"]["checks"][0]["id"]
    assert api.get(f"/api/boards/{board['id']}/checks/{check}").status_code == 200
    [symbol] = [model["symbol"] for model in api.get("/api/models").json() if model["name"] == "qp"]
    assert symbol["shape"] == "bipolar-p"


def test_many_models_that_are_not_qualified_are_one_note(api: TestClient, board: dict[str, Any]) -> None:
    text = PASTED + "d1 out 0 dd\nd2 in 0 dd\n.model dd d(is=1e-14)\n"
    pasted = api.post(f"/api/boards/{board['id']}/pasted", json={"title": "Gain", "text": text}).json()
    board["board"]["circuits"].append(pasted["circuit"])
    saved = api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": board["board"]})
    assert saved.status_code == 200
    review = api.get(f"/api/boards/{board['id']}/circuits/{pasted['circuit']['id']}/review").json()
    [note] = [finding for finding in review["findings"] if "not qualified" in finding["message"]]
    assert note["message"].endswith("DD of D1, D2")
    assert "each" in note["remedy"]


@pytest.mark.parametrize(
    ("first", "title"),
    [("relay\tdriver\x0c 2", "relay driver  2"), ("three-axis sum " + 200 * "x", ("three-axis sum " + 200 * "x")[:120]),
     ("\ttwo words", "two words"), ("* only a comment", "Pasted circuit")],
)  # fmt: skip
def test_a_pasted_circuit_is_called_by_its_title(
    api: TestClient, board: dict[str, Any], first: str, title: str
) -> None:
    answer = api.post(f"/api/boards/{board['id']}/pasted", json={"text": f"{first}\nr1 a 0 1k\nv1 a 0 1\n.end\n"})
    assert answer.status_code == 200
    assert answer.json()["circuit"]["title"] == title


def test_a_netlist_that_cannot_be_read_names_its_line(api: TestClient, board: dict[str, Any]) -> None:
    answer = api.post(f"/api/boards/{board['id']}/pasted", json={"text": "r1 a 0 1k\nr2 a\n"})
    assert answer.status_code == 422
    assert answer.json()["place"]["line"] == 2


def test_the_review_speaks_of_the_stored_circuit(api: TestClient, board: dict[str, Any]) -> None:
    address = f"/api/boards/{board['id']}/circuits/preamplifier/review"
    quiet = api.get(address, params={"check": "preamp-response"}).json()
    assert quiet["remarks"] == []
    assert "not qualified" in quiet["findings"][0]["message"]
    document = board["board"]
    pins = next(part for part in document["circuits"][0]["parts"] if part["designator"] == "U1")["pins"]
    pins["in+"], pins["in-"] = pins["in-"], pins["in+"]
    document["circuits"][0]["drawing"] = None
    api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": document})
    [remark] = api.get(address, params={"check": "preamp-response"}).json()["remarks"]
    assert remark["rule"] == "inputs likely swapped"
    assert remark["pins"] == ["U1.in+", "U1.in-"]
    assert api.get(address, params={"check": "none"}).status_code == 404


def test_a_board_begins_blank_and_its_revisions_can_be_read(api: TestClient) -> None:
    made = api.post("/api/boards", json={"title": "New", "purpose": "Trial"})
    assert made.status_code == 201
    board = made.json()
    document = board["board"] | {"purpose": "Changed"}
    api.put(f"/api/boards/{board['id']}", json={"revision": 1, "board": document, "what": "purpose changed"})
    revisions = api.get(f"/api/boards/{board['id']}/revisions").json()
    assert [(entry["revision"], entry["what"]) for entry in revisions] == [(2, "purpose changed"), (1, "board begun")]
    assert api.get(f"/api/boards/{board['id']}/revisions/1").json()["board"]["purpose"] == "Trial"
    assert api.get(f"/api/boards/{board['id']}/revisions/99999999999").status_code == 404
    assert api.delete(f"/api/boards/{board['id']}").status_code == 204
    assert api.get(f"/api/boards/{board['id']}").status_code == 404


def test_an_operating_point_is_a_check(api: TestClient, board: dict[str, Any]) -> None:
    document = board["board"]
    check = document["circuits"][0]["checks"][0] | {
        "id": "point", "title": "Point", "analysis": {"kind": "operating point"}, "measurements": [],
    }  # fmt: skip
    document["circuits"][0]["checks"].append(check)
    saved = api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": document})
    assert saved.status_code == 200
    result = api.get(f"/api/boards/{board['id']}/checks/point").json()
    assert (result["cards"], result["curves"]) == ([], [])
    assert abs(result["at_rest"]["voltages"]["out"] + 4.87e-3) < 1e-5


def test_the_parts_list_is_csv(api: TestClient, board: dict[str, Any]) -> None:
    answer = api.get(f"/api/boards/{board['id']}/parts-list")
    assert answer.headers["content-type"].startswith("text/csv")
    assert "C2 C3,2,capacitor,100 nF," in answer.text
