from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from verdad.db.tables import RevisionRow


def set_value(view: dict[str, Any], designator: str, value: str) -> dict[str, Any]:
    for part in view["board"]["circuits"][0]["parts"]:
        if part["designator"] == designator:
            part["value"] = value
    return {"revision": view["revision"], "board": view["board"]}


def test_a_saved_value_is_there_again(api: TestClient, board: dict[str, Any], engine: Engine) -> None:
    saved = api.put(f"/api/boards/{board['id']}", json=set_value(board, "R3", "47k"))
    assert saved.status_code == 200
    again = api.get(f"/api/boards/{board['id']}").json()
    assert again["revision"] == board["revision"] + 1
    assert next(p for p in again["board"]["circuits"][0]["parts"] if p["designator"] == "R3")["value"] == "47k"
    with Session(engine) as session:
        assert list(session.scalars(select(RevisionRow.revision).order_by(RevisionRow.revision))) == [1, 2]


def test_saving_the_same_is_no_revision(api: TestClient, board: dict[str, Any]) -> None:
    same = api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": board["board"]})
    assert same.json()["revision"] == board["revision"]


def test_a_bad_value_is_refused_at_its_place_and_changes_nothing(api: TestClient, board: dict[str, Any]) -> None:
    answer = api.put(f"/api/boards/{board['id']}", json=set_value(board, "R2", "10kk"))
    assert answer.status_code == 422
    [fault] = answer.json()["faults"]
    assert fault["path"] == "board.circuits.0.parts.1.value"
    assert "two prefixes" in fault["message"]
    assert fault["remedy"]
    assert api.get(f"/api/boards/{board['id']}").json()["revision"] == board["revision"]


def test_two_windows_do_not_overwrite_each_other(api: TestClient, board: dict[str, Any]) -> None:
    first = set_value(board, "R3", "47k")
    assert api.put(f"/api/boards/{board['id']}", json=first).status_code == 200
    second = api.put(f"/api/boards/{board['id']}", json=set_value(board, "R3", "33k"))
    assert second.status_code == 409
    assert "another window" in second.json()["message"]


def test_unknown_boards_are_not_found(api: TestClient) -> None:
    answer = api.get("/api/boards/00000000-0000-0000-0000-000000000000")
    assert answer.status_code == 404
    assert answer.json()["remedy"]


def test_a_text_with_a_character_that_cannot_be_stored_is_refused(api: TestClient, board: dict[str, Any]) -> None:
    document = board["board"]
    document["circuits"][0]["definitions"] = "* zero\0"
    answer = api.put(f"/api/boards/{board['id']}", json={**board, "board": document})
    assert answer.status_code == 422, answer.text
    assert api.get(f"/api/boards/{board['id']}").json()["revision"] == board["revision"]


def test_a_parts_list_is_read_as_changes_and_nothing_is_stored(api: TestClient, board: dict[str, Any]) -> None:
    where = f"/api/boards/{board['id']}/parts-list"
    own = api.get(where).text
    again = api.post(where, files={"file": ("parts.csv", own)}).json()
    assert (again["values"], again["spreads"], again["findings"]) == ({}, [], [])
    other = api.post(where, files={"file": ("parts.csv", "Ref;Value;Tol\nR3;47k;0.1 %\nR99;1k;1\n")}).json()
    assert other["values"] == {"R3": "47k"}
    assert [each["of"] for each in other["spreads"]] == ["R3"]
    assert other["findings"][0]["place"]["line"] == 3
    assert api.post(where, files={"file": ("parts.csv", "nothing")}).status_code == 422
    assert api.get(where).text == own


def test_what_changed_since_a_revision_is_said(api: TestClient, board: dict[str, Any]) -> None:
    api.put(f"/api/boards/{board['id']}", json=set_value(board, "R3", "47k"))
    said = api.get(f"/api/boards/{board['id']}/revisions/1/changes").json()
    assert said == ["Geophone preamplifier: R3 is 47k, it was 39k"]
    assert api.get(f"/api/boards/{board['id']}/revisions/2/changes").json() == []
    assert api.get(f"/api/boards/{board['id']}/revisions/9/changes").status_code == 404
