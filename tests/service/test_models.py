from typing import Any

import pytest
from fastapi.testclient import TestClient

from verdad.demo.board import model_text

TINY = "* a divider\n.subckt half in out\nr1 in out 1k\nr2 out 0 1k\n.ends\n"


def read(api: TestClient, data: bytes) -> Any:
    return api.post("/api/models/readings", files={"file": ("model.lib", data)})


def save(text: str = TINY, **changes: Any) -> dict[str, Any]:
    return {"name": "half.lib", "text": text, "source": "typed in", "roles": {"half": ["in", "out"]}, **changes}


def test_a_file_is_read_stored_whole_and_found_again(api: TestClient) -> None:
    reading = read(api, TINY.replace("\n", "\r\n").encode()).json()
    assert reading["storable"]
    stored = api.post("/api/models", json=save(reading["text"], link="https://example.invalid/half"))
    assert stored.status_code == 201
    again = api.get(f"/api/models/{stored.json()['entry']['id']}").json()
    assert again["reading"]["text"] == TINY
    assert again["entry"]["source"] == "typed in"
    assert again["roles"] == {"half": ["in", "out"]}
    assert [entry["name"] for entry in api.get("/api/models").json()] == ["half.lib", "ovenna_ovn4183.lib"]


@pytest.mark.parametrize(
    ("data", "message", "line"),
    [
        (b".subckt a 1 2\nr1 1 2 1k\n", "has no .ends", 1),
        (b".subckt a 1 2\nzap 1 2\n.ends\n", "starts no element", 2),
        (b".subckt a 1 2\nd1 1 2 dx\n.ends\n", "model dx is not defined", 2),
        (b".subckt a 1 2\nx1 1 2 3 b\n.ends\n.subckt b 1 2\nr1 1 2 1\n.ends\n", "has 3 nodes, subcircuit b has 2", 2),
    ],
)
def test_a_broken_file_is_shown_with_its_lines_and_not_stored(
    api: TestClient, data: bytes, message: str, line: int
) -> None:
    reading = read(api, data).json()
    assert not reading["storable"]
    assert any(message in finding["message"] and finding["place"]["line"] == line for finding in reading["findings"])
    assert api.post("/api/models", json=save(data.decode(), roles={})).status_code == 422
    assert len(api.get("/api/models").json()) == 1


def test_rubbish_and_huge_files_are_refused(api: TestClient) -> None:
    rubbish = read(api, bytes(range(256)))
    assert rubbish.status_code == 422
    assert rubbish.json()["place"]["line"] == 1
    huge = read(api, b"* a line of text\n" * 1_200_000)
    assert huge.status_code == 422
    assert "larger than 4 MB" in huge.json()["message"]
    assert huge.json()["remedy"]
    assert len(api.get("/api/models").json()) == 1


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"roles": {"half": ["in"]}}, "has 2 nodes, but 1 roles"),
        ({"roles": {"half": ["in", "in"]}}, "given to two nodes"),
        ({"roles": {"half": ["in", ""]}}, "should match pattern"),
        ({"name": "a\0b"}, "should match pattern"),
        ({"roles": {"third": ["in", "out"]}}, "no subcircuit third"),
        ({"source": "  "}, "at least 1 character"),
    ],
)
def test_pins_and_origin_must_be_given(api: TestClient, changes: dict[str, Any], message: str) -> None:
    answer = api.post("/api/models", json=save(**changes))
    assert answer.status_code == 422
    assert message in answer.json()["message"]


def test_the_same_file_is_stored_once(api: TestClient) -> None:
    roles = {"ovn4183": ["in+", "in-", "v+", "v-", "out"]}
    answer = api.post("/api/models", json=save(model_text(), roles=roles))
    assert answer.status_code == 409
    assert "ovenna_ovn4183.lib" in answer.json()["message"]


def test_corrected_pins_change_what_is_computed(api: TestClient, board: dict[str, Any]) -> None:
    """With + and - swapped the preamplifier is unstable: said on the check, and no evidence in the verdict."""
    address = f"/api/boards/{board['id']}/checks/preamp-response"
    before = api.get(address).json()
    [entry] = api.get("/api/models").json()
    swapped = {"roles": {"ovn4183": ["in-", "in+", "v+", "v-", "out"]}}
    assert api.put(f"/api/models/{entry['id']}/roles", json=swapped).status_code == 200
    after = api.get(address).json()
    assert after["key"] != before["key"]
    assert "unstable" in after["findings"][0]["message"]
    cell = api.get(f"/api/boards/{board['id']}/verdict").json()["rows"][0]["cells"][0]
    assert (cell["state"], cell["worst"]) == ("unproven", None)


def test_unknown_files_are_not_found(api: TestClient) -> None:
    assert api.get("/api/models/nothing").status_code == 404
    assert api.put("/api/models/nothing/roles", json={"roles": {}}).status_code == 404
