"""Measured responses over checks, S-parameters handed out, what parts bear: over the API."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from tests.core.boards import STAGE, asked, board, c, port, r, supply
from verdad.db.tables import BoardRow
from verdad.demo.load import keep
from verdad_core.checks.kinds.ports import Ports
from verdad_core.document.board import Board

Json = dict[str, Any]


def stored(engine: Engine, own: Board) -> str:
    """The address of a board that is kept."""
    with Session(engine) as session, session.begin():
        keep(session, own)
        [row] = session.scalars(select(BoardRow).order_by(BoardRow.created_at.desc()).limit(1))
        return f"/api/boards/{row.id}"


def test_a_measured_table_lies_over_a_response_and_is_taken_away(api: TestClient, board: Json) -> None:
    where = f"/api/boards/{board['id']}/checks/preamp-response"
    taken = api.post(f"{where}/overlays", files={"file": ("bench.csv", "Hz,dB\n10,31\n100,31\n1000,28\n")}).json()
    assert [overlay["name"] for overlay in taken["check"]["overlays"]] == ["bench"]
    curves = [curve["expression"] for card in taken["check"]["cards"] for curve in card["curves"]]
    assert "db(bench.response)" in curves
    assert "no phase" in taken["findings"][0]["message"]
    refused = api.post(f"{where}/overlays", files={"file": ("bench.csv", "nothing")})
    assert refused.status_code == 422
    for check in board["board"]["circuits"][0]["checks"]:
        if check["id"] == "preamp-response":
            check.update(taken["check"])
    saved = api.put(f"/api/boards/{board['id']}", json={"revision": board["revision"], "board": board["board"]})
    assert saved.status_code == 200
    shown = api.get(f"/api/boards/{board['id']}/checks/preamp-response").json()
    assert "bench.response" in shown["traces"]
    without = api.get(f"{where}/overlays/bench/without").json()
    assert without["overlays"] == []


def test_waves_between_ports_are_handed_out_and_measured(api: TestClient, engine: Engine) -> None:
    parts = [r("R1", "100", "in", "out"), c("C1", "1n", "out", "gnd"), r("R2", "1k", "+5V", "-5V")]
    where = stored(engine, asked(Ports, parts, port("in", 1), port("out", 2)))
    text = api.get(f"{where}/checks/k/touchstone").text
    assert "# Hz S RI R 50" in text
    again = api.post(f"{where}/checks/k/overlays", files={"file": ("k.s2p", text)}).json()
    assert again["check"]["overlays"][0]["name"] == "k"
    seen = api.post(f"{where}/checks/k/analyser", json={"noise": -70, "length": 0.02}).json()
    assert seen["check"]["overlays"][0]["file"] == "analyser"


def test_what_a_check_has_not_is_refused_in_words(api: TestClient, board: Json) -> None:
    answer = api.get(f"/api/boards/{board['id']}/checks/preamp-response/touchstone")
    assert answer.status_code == 422
    assert answer.json()["remedy"]


def test_what_rated_parts_bear_is_told_worst_first(api: TestClient, engine: Engine) -> None:
    parts = [r("R1", "100", "in", "gnd") | {"rating": {"power": "2"}}, c("C1", "1u", "in", "gnd")]
    where = stored(engine, board(parts, [supply("in", "12")], "operating point"))
    found = api.get(f"{where}/stress").json()
    [use] = found["uses"]
    assert use["part_used"] == pytest.approx(1.44, rel=1e-9)
    assert found["unrated"] == {"c": ["C1"]}
    assert found["rules"]["resistor"]["power"] == 50.0
    watts = api.get(f"{where}/checks/k/watts").json()
    assert watts["parts"]["R1"] == pytest.approx(1.44, rel=1e-9)
    # A second time it is remembered.
    assert api.get(f"{where}/stress").json() == found


def test_a_model_of_ports_is_no_stage(api: TestClient, engine: Engine) -> None:
    """A stage with an amplifier has ports as well; its file has as many."""
    where = stored(engine, asked(Ports, STAGE, port("in", 1), port("out", 2, impedance="600")))
    assert "[Reference] 50 600" in api.get(f"{where}/checks/k/touchstone").text
