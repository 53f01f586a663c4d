"""The verdict on a board in a file, from the command line."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from fastapi.testclient import TestClient

from tests.core.boards import low_pass
from verdad.check_board import BAD_INPUT, BREAKS, HOLDS, UNPROVEN, check_file, diff_files
from verdad_core.document.board import Board
from verdad_core.interchange.board_file import BoardFile


def written(folder: Path, name: str = "board.json", **more: Any) -> Path:
    study = {"id": "mc", "title": "Production", "kind": "monte carlo", "checks": ["k"], "rows": 60}
    own = low_pass(studies=[study]).model_dump(mode="json") | more
    file = folder / name
    file.write_text(BoardFile(board=Board.model_validate(own)).written())
    return file


def status(file: Path, **more: Any) -> int:
    usual: dict[str, Any] = {"only": (), "evidence_folder": None, "print_json": False, "junit": None, "run": True}
    return check_file(file, **(usual | more))


def limit(lower: str, upper: str) -> list[dict[str, Any]]:
    return [{"id": "l", "check": "k", "measurement": "corner", "lower": lower, "upper": upper}]


def test_a_board_that_holds_and_one_that_breaks(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = written(tmp_path, limits=limit("120", "200"))
    assert status(file, run=False) == UNPROVEN
    assert "no current run" in capsys.readouterr().out
    assert status(file) == HOLDS
    assert "b holds." in capsys.readouterr().out
    # What is kept serves again, and without running anything.
    assert status(file, run=False) == HOLDS
    assert (tmp_path / ".verdad-evidence").is_dir()
    report = tmp_path / "junit.xml"
    broken = written(tmp_path, "broken.json", limits=limit("158", "160"))
    capsys.readouterr()
    assert status(broken, print_json=True, junit=report) == BREAKS
    [row] = json.loads(capsys.readouterr().out)["rows"]
    assert [cell["state"] for cell in row["cells"]] == ["thin", "breaks"]
    suite = ElementTree.parse(report).getroot()[0]
    assert (suite.get("tests"), suite.get("failures"), suite.get("errors")) == ("2", "1", "0")


def test_what_cannot_be_checked_is_said_on_standard_error(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = written(tmp_path, limits=limit("120", "200"))
    assert status(file, only=["nothing"]) == BAD_INPUT
    assert "nothing that is limited is called" in capsys.readouterr().err
    assert status(file, only=["L"], run=False) == UNPROVEN
    assert status(tmp_path / "absent.json") == BAD_INPUT
    (tmp_path / "bad.json").write_text("{")
    assert status(tmp_path / "bad.json") == BAD_INPUT
    assert "damaged" in capsys.readouterr().err
    assert status(written(tmp_path, "free.json", limits=[])) == UNPROVEN
    assert "no limits" in capsys.readouterr().out


def test_a_difference_is_said_and_counted(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    one, other = written(tmp_path), written(tmp_path, "other.json", limits=limit("1", "2"))
    assert diff_files(one, one) == 0
    assert diff_files(one, other) == 1
    assert "1 to 2, it was 120 to 200" in capsys.readouterr().out
    assert diff_files(one, tmp_path / "absent.json") == BAD_INPUT


def test_a_file_gives_the_verdict_of_the_service_and_comes_back_as_a_board(
    api: TestClient, board: dict[str, Any], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Cell by cell; what has no run there has none here."""
    where = f"/api/boards/{board['id']}"
    written_out = api.get(f"{where}/file")
    file = tmp_path / "board.json"
    file.write_bytes(written_out.content)
    status(file, run=False, print_json=True)
    mine = json.loads(capsys.readouterr().out)["rows"]
    for row, own in zip(api.get(f"{where}/verdict").json()["rows"], mine, strict=True):
        assert [(c["state"], c["worst"], c["why"]) for c in row["cells"]] == [
            (c["state"], c["worst"], c["why"]) for c in own["cells"]
        ]
    again = api.post("/api/boards/file", files={"file": ("board.json", written_out.content)})
    assert again.status_code == 201
    assert again.json()["board"] == board["board"]
    # With an adjusted symbol and bench, and on a shelf that has it not, it comes as it was.
    document = written_out.json()
    [model] = document["models"]
    model["symbol"]["shape"], model["conditions"] = "box", {"load": 600.0}
    document["bundles"][0]["files"][0]["text"] += "* another one\n"
    other = api.post("/api/boards/file", files={"file": ("other.json", json.dumps(document))}).json()
    identifier = next(p["model"]["id"] for p in other["board"]["circuits"][0]["parts"] if p["kind"] == "modelled")
    taken = api.get(f"/api/models/{identifier}").json()
    assert identifier != model["id"]
    assert taken["symbol"]["shape"] == "box"
    assert taken["conditions"] == {"load": 600.0}
    written_again = api.get(f"/api/boards/{other['id']}/file").json()["models"][0]
    assert {k: written_again[k] for k in ("symbol", "conditions", "data_sheet")} == {
        k: model[k] for k in ("symbol", "conditions", "data_sheet")
    }
    refused = api.post("/api/boards/file", files={"file": ("board.json", b"{}")})
    assert refused.status_code == 422
    assert "no file of a board" in refused.text
