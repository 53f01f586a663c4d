import io
import zipfile
from typing import Any

import pytest
from fastapi.testclient import TestClient

from verdad.demo.board import model_text

TINY = "* a divider\n*\n* Terms of use: free.\n.subckt half in out\nr1 in out 1k\nr2 out 0 1k\n.ends\n"
DEMO = "ovn4183"


def read(api: TestClient, *files: tuple[str, bytes]) -> Any:
    return api.post("/api/readings", files=[("files", file) for file in files])


def save(text: str = TINY, **changes: Any) -> dict[str, Any]:
    chosen = {"file": "half.lib", "name": "half", "kind": "other", "roles": ["in", "out"], **changes.pop("chosen", {})}
    origin = {"source": "typed in", "obtained_on": "2026-11-25", **changes.pop("origin", {})}
    return {"files": [{"name": "half.lib", "text": text}], "origin": origin, "chosen": [chosen], **changes}


def shelf(api: TestClient) -> dict[str, Any]:
    return {entry["name"]: entry for entry in api.get("/api/models").json()}


def test_files_are_read_stored_whole_and_found_again(api: TestClient) -> None:
    reading = read(api, ("half.lib", TINY.replace("\n", "\r\n").encode("utf-16"))).json()
    assert reading["files"] == [{"name": "half.lib", "text": TINY, "encoding": "UTF-16"}]
    assert reading["entries"][0]["symbol"]["shape"] == "box"
    stored = api.post("/api/models", json=save(origin={"link": "https://example.invalid/half"}))
    assert stored.status_code == 201
    [entry] = stored.json()
    detail = api.get(f"/api/models/{entry['id']}").json()
    assert detail["files"][0]["text"] == TINY
    assert (detail["entry"]["source"], detail["terms"]) == ("typed in", "Terms of use: free.")
    assert detail["roles"] == ["in", "out"]
    assert list(shelf(api)) == ["half", DEMO]
    again = read(api, ("half.lib", TINY.encode())).json()
    assert again["stored_as"] is not None
    assert again["entries"][0]["on_shelf"] == entry["id"]
    twice = api.post("/api/models", json=save(chosen={"roles": ["out", "in"]}))
    assert (twice.status_code, "on the shelf already" in twice.json()["message"]) == (409, True)


@pytest.mark.parametrize(
    ("data", "message", "line"),
    [
        (b".subckt half in out\nr1 in out 1k\n", "has no .ends", 1),
        (b".subckt half in out\nzap 1 2\n.ends\n", "starts no element", 2),
        (b".subckt half in out\nd1 in out dx\n.ends\n", "model dx is not defined", 2),
        (b'.include "gone.inc"\n.subckt half in out\nx1 in out core\n.ends\n', "gone.inc is not here", 1),
    ],
)
def test_a_broken_model_is_shown_with_its_lines_and_not_stored(
    api: TestClient, data: bytes, message: str, line: int
) -> None:
    reading = read(api, ("half.lib", data)).json()
    assert any(message in finding["message"] and finding["place"]["line"] == line for finding in reading["findings"])
    answer = api.post("/api/models", json=save(data.decode()))
    assert answer.status_code == 422
    assert "half cannot be used" in answer.json()["message"]
    assert len(shelf(api)) == 1


def test_rubbish_huge_files_and_unsafe_archives_are_refused(api: TestClient) -> None:
    rubbish = read(api, ("x.lib", bytes(range(256))))
    assert (rubbish.status_code, rubbish.json()["place"]["line"]) == (422, 1)
    huge = read(api, ("x.lib", b"* a line of text\n" * 300_000))
    assert huge.status_code == 422
    assert "larger than 4 MB" in huge.json()["message"]
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w") as archive:
        archive.writestr("../up.lib", TINY)
    unsafe = read(api, ("x.zip", target.getvalue()))
    assert unsafe.status_code == 422
    assert "leads out of it" in unsafe.json()["message"]
    assert len(shelf(api)) == 1


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"chosen": {"roles": ["in"]}}, "has 2 nodes, but 1 roles"),
        ({"chosen": {"roles": ["in", "in"]}}, "given to two nodes"),
        ({"chosen": {"roles": ["in", ""]}}, "should match pattern"),
        ({"chosen": {"name": "third"}}, "no model third"),
        ({"chosen": {"kind": "gadget"}}, "no kind 'gadget'"),
        ({"chosen": {"file": "other.lib"}}, "no file other.lib"),
        ({"origin": {"source": "  "}}, "at least 1 character"),
        ({"files": [{"name": "a/b.lib", "text": TINY}]}, "should match pattern"),
        ({"chosen": {"data_sheet": [{"figure": "nonsense", "typical": 1}]}}, "measures no 'nonsense'"),
    ],
)
def test_pins_and_origin_must_be_given(api: TestClient, changes: dict[str, Any], message: str) -> None:
    answer = api.post("/api/models", json=save(**changes))
    assert answer.status_code == 422
    assert message in answer.json()["message"]
    assert len(shelf(api)) == 1


def test_a_new_version_stands_beside_the_old_one_with_the_difference(api: TestClient, board: dict[str, Any]) -> None:
    before = shelf(api)[DEMO]
    changed = model_text().replace("C2 G D 30P", "C2 G D 33P")
    body = {
        "files": [{"name": "new.lib", "text": changed}], "origin": {"source": "maker", "obtained_on": "2026-11-25"},
        "chosen": [
            {"file": "new.lib", "name": "OVN4183", "kind": "op-amp", "roles": ["in+", "in-", "v+", "v-", "out"]}
        ],
    }  # fmt: skip
    [after] = api.post("/api/models", json=body).json()
    assert after["supersedes"] == before["id"]
    old = api.get(f"/api/models/{before['id']}").json()
    assert (old["entry"]["superseded_by"], old["files"][0]["text"]) == (after["id"], model_text())
    difference = api.get(f"/api/models/{after['id']}/difference", params={"since": before["id"]}).json()
    assert [(change["statement"], change["before"], change["after"]) for change in difference["changes"]] == [
        ("ovn4183.c2", "C2 G D 30P", "C2 G D 33P")
    ]
    check = api.get(f"/api/boards/{board['id']}/checks/preamp-response").json()
    assert any("a newer version of OVN4183" in finding["message"] for finding in check["findings"])


def test_corrected_pins_change_what_is_computed(api: TestClient, board: dict[str, Any]) -> None:
    """With + and - swapped the preamplifier is unstable: said on the check, and no evidence in the verdict."""
    address = f"/api/boards/{board['id']}/checks/preamp-response"
    before = api.get(address).json()
    swapped = {"roles": ["in-", "in+", "v+", "v-", "out"]}
    assert api.patch(f"/api/models/{shelf(api)[DEMO]['id']}", json=swapped).status_code == 200
    after = api.get(address).json()
    assert after["key"] != before["key"]
    assert "unstable" in after["findings"][0]["message"]
    cell = api.get(f"/api/boards/{board['id']}/verdict").json()["rows"][0]["cells"][0]
    assert (cell["state"], cell["worst"]) == ("unproven", None)


def test_what_is_said_of_a_model_is_kept_or_refused(api: TestClient) -> None:
    address = f"/api/models/{shelf(api)[DEMO]['id']}"
    detail = api.get(address).json()
    symbol = detail["symbol"] | {"pins": list(reversed(detail["symbol"]["pins"]))}
    line = {"figure": "slew_rate_rising", "least": 3e6, "typical": 4e6}
    changed = api.patch(address, json={"conditions": {"high": 15}, "data_sheet": [line], "symbol": symbol}).json()
    assert changed["conditions"] == {"high": 15}
    assert changed["data_sheet"][0]["typical"] == 4e6
    assert changed["symbol"] == symbol
    for wrong, message in (
        ({"conditions": {"high": 1000}}, "positive supply: between"),
        ({"conditions": {"wind": 1}}, "no condition 'wind'"),
        ({"data_sheet": [{"figure": "slew_rate_rising"}]}, "has no number"),
        ({"data_sheet": [line, line]}, "given twice"),
        ({"symbol": symbol | {"pins": symbol["pins"][:3]}}, "each pin of the model once"),
        ({"kind": "gadget"}, "no kind"),
    ):
        answer = api.patch(address, json=wrong)
        assert answer.status_code == 422
        assert message in answer.json()["message"]
    assert api.get(address).json()["data_sheet"] == changed["data_sheet"]


def test_a_used_model_stays_and_another_one_can_be_removed(api: TestClient) -> None:
    [entry] = api.post("/api/models", json=save()).json()
    used = api.delete(f"/api/models/{shelf(api)[DEMO]['id']}")
    assert used.status_code == 409
    assert "Blast-vibration monitor uses OVN4183" in used.json()["message"].replace("ovn", "OVN")
    assert api.delete(f"/api/models/{entry['id']}").status_code == 204
    assert list(shelf(api)) == [DEMO]
    assert read(api, ("half.lib", TINY.encode())).json()["stored_as"] is None


def test_a_model_is_exported_with_its_report(api: TestClient) -> None:
    answer = api.get(f"/api/models/{shelf(api)[DEMO]['id']}/export")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        names = archive.namelist()
        assert archive.read("model/ovenna_ovn4183.lib").decode() == model_text()
        assert "- node 1: in+" in archive.read("report.md").decode()
        assert '"Slew rate, rising",,4e+06,,' in archive.read("data-sheet.csv").decode()
    assert sorted(names) == ["data-sheet.csv", "figures.csv", "model/ovenna_ovn4183.lib", "report.md"]


def test_an_assignment_is_tried_out(api: TestClient) -> None:
    trial = {"files": [{"name": "a.lib", "text": model_text()}], "file": "a.lib", "name": DEMO, "kind": "op-amp"}
    right = api.post("/api/trials", json=trial | {"roles": ["in+", "in-", "v+", "v-", "out"]}).json()
    assert right["effect"]["right"]
    assert "follower follows" in right["effect"]["sentence"]
    wrong = api.post("/api/trials", json=trial | {"roles": ["in-", "in+", "v+", "v-", "out"]}).json()
    assert not wrong["effect"]["right"]
    assert "rail" in wrong["effect"]["sentence"]
    assert wrong["symbol"]["shape"] == "amplifier"


def test_pins_of_a_stored_model_have_their_reasons(api: TestClient) -> None:
    pins = api.get(f"/api/models/{shelf(api)[DEMO]['id']}/pins").json()
    assert [pin["role"] for pin in pins] == ["in+", "in-", "v+", "v-", "out"]
    assert {pin["sureness"] for pin in pins} == {"shown on the bench"}
    assert pins[0]["reason"] == 'the output rises with it; comment "NON-INVERTING INPUT"'


def test_unknown_models_are_not_found(api: TestClient) -> None:
    assert api.get("/api/models/nothing").status_code == 404
    assert api.patch("/api/models/nothing", json={}).status_code == 404
    assert api.delete("/api/models/nothing").status_code == 404
