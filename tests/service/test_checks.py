from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.service.test_boards import set_value


def test_the_demo_check(api: TestClient, board: dict[str, Any]) -> None:
    result = api.get(f"/api/boards/{board['id']}/checks/preamp-response").json()
    assert {len(values) for values in result["response"].values()} == {251}
    assert result["response"]["phase"][0] == pytest.approx(0, abs=0.2)
    gain, bandwidth = result["measured"]
    # 1/(2π (4.7 kΩ + 380 Ω ‖ 12 kΩ) 33 nF) by hand; the op-amp's 8 MHz move it by less than 0.01 %.
    assert bandwidth["value"] == pytest.approx(951.57, rel=1e-4)
    assert abs(gain["hand"]["deviation"]) < 0.02
    assert result["voltages"]["+5V"] == 5


def test_a_changed_value_changes_the_result_and_its_key(api: TestClient, board: dict[str, Any]) -> None:
    address = f"/api/boards/{board['id']}/checks/preamp-response"
    before = api.get(address).json()
    api.put(f"/api/boards/{board['id']}", json=set_value(board, "C1", "66n"))
    after = api.get(address).json()
    assert after["key"] != before["key"]
    assert after["measured"][1]["value"] == pytest.approx(before["measured"][1]["value"] / 2, rel=1e-3)


def test_a_circuit_that_cannot_be_solved_names_the_node(api: TestClient, board: dict[str, Any]) -> None:
    document = board["board"]
    document["circuits"][0]["parts"].append(
        {"kind": "capacitor", "designator": "C9", "value": "1n", "pins": ["filt", "loose"]}
    )
    saved = api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": document})
    assert saved.status_code == 200
    answer = api.get(f"/api/boards/{board['id']}/checks/preamp-response")
    assert answer.status_code == 422
    assert answer.json()["place"]["nodes"] == ["loose"]
    assert answer.json()["remedy"]


def test_unknown_checks_are_not_found(api: TestClient, board: dict[str, Any]) -> None:
    assert api.get(f"/api/boards/{board['id']}/checks/nothing").status_code == 404
