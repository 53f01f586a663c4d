"""Data that an older Verdad has left in the database is carried over."""

from __future__ import annotations

import json
import math
import uuid
from collections.abc import Iterator

import psycopg
import pytest
from alembic import command
from alembic.config import Config
from fastapi.testclient import TestClient
from sqlalchemy import Engine, make_url, text
from sqlalchemy.orm import Session

from tests.core.document.test_upgrades import FIRST
from verdad.api.app import create_app
from verdad.db import session as db
from verdad.db.session import connect, migrate
from verdad.db.tables import BoardRow, ModelRow, RunRow
from verdad.demo.board import model_text, preamplifier_board
from verdad.shelf.store import model_of
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board


@pytest.fixture
def old(database_url: str) -> Iterator[Engine]:
    """A database of its own at the first revision."""
    name = f"verdad_old_{uuid.uuid4().hex[:10]}"
    with psycopg.connect(database_url.replace("+psycopg", ""), autocommit=True) as connection:
        connection.execute(f"create database {name}")
    engine = connect(make_url(database_url).set(database=name).render_as_string(hide_password=False))
    config = Config()
    config.set_main_option("script_location", str(db.__file__).replace("session.py", "migrations"))
    with engine.begin() as connection_:
        config.attributes["connection"] = connection_
        command.upgrade(config, "0001")
    yield engine
    engine.dispose()
    with psycopg.connect(database_url.replace("+psycopg", ""), autocommit=True) as connection:
        connection.execute(f"drop database {name} with (force)")


def test_model_files_become_models_that_boards_go_on_using(old: Engine) -> None:
    document = preamplifier_board("x").model_dump(mode="json")
    for part in document["circuits"][0]["parts"]:
        if part["kind"] == "modelled":
            part["model"] = {"file": "amp-1", "subcircuit": "ovn4183"}
    board, roles = uuid.uuid4(), {"ovn4183": ["in+", "in-", "v+", "v-", "out"]}
    with old.begin() as connection:
        connection.execute(
            text("insert into model_files values ('amp-1', 'amp.lib', 'sha', :text, 'a maker', 'link', :roles, now())"),
            {"text": model_text(), "roles": json.dumps(roles)},
        )
        connection.execute(
            text("insert into boards values (:id, 1, :document, now(), now())"),
            {"id": board, "document": json.dumps(document)},
        )
        connection.execute(
            text("insert into board_revisions values (:id, 1, :document, now())"),
            {"id": board, "document": json.dumps(document)},
        )
        connection.execute(
            text("insert into runs values (:run, :id, 's', 'k', '{}', 'running', 10, '', now(), null)"),
            {"run": uuid.uuid4(), "id": board},
        )
    migrate(old)
    with Session(old) as session:
        [row] = session.query(ModelRow).all()
        assert (row.name, row.kind, row.bundle.source) == ("ovn4183", "op-amp", "a maker")
        moved = Board.model_validate(session.get_one(BoardRow, board).document)
        result = run_check(moved, "preamp-response", {row.id: model_of(row)})
        assert round(result.measured[1].value, 1) == 951.5
        [run] = session.query(RunRow).all()
        assert (run.state, "start the run again" in run.message) == ("failed", True)


def test_rows_of_earlier_runs_are_shown_as_what_they_are(old: Engine) -> None:
    """A run of the fourth revision: its numbers stay readable, out of date, as they had no key by content."""
    document = {**FIRST, "studies": [{**FIRST["studies"][0], "rows": 10}]}
    board, run = uuid.uuid4(), uuid.uuid4()
    with old.begin() as connection:
        config = Config()
        config.set_main_option("script_location", str(db.__file__).replace("session.py", "migrations"))
        config.attributes["connection"] = connection
        command.upgrade(config, "0004")
        connection.execute(
            text("insert into boards values (:id, 1, :document, now(), now())"),
            {"id": board, "document": json.dumps(document)},
        )
        connection.execute(
            text("insert into runs values (:run, :id, 's', 'k', :inputs, 'done', 10, '', now(), now())"),
            {"run": run, "id": board, "inputs": json.dumps({"board": document, "study": "s", "models": {}})},
        )
        values = [number for row in range(10) for number in (1.0 + row, math.nan)]
        connection.execute(
            text("insert into run_blocks values (:run, 0, 10, :values, null)"), {"run": run, "values": values}
        )
    migrate(old)
    url = old.url.render_as_string(hide_password=False)
    with TestClient(create_app(url), headers={"X-Verdad": "1"}) as client:
        view = client.get(f"/api/boards/{board}/studies/s").json()
    assert (view["current"], view["rows_done"], view["run"]["state"]) == (False, 10, "done")
    gain, value = view["columns"]
    assert (gain["summary"]["min"], gain["summary"]["max"]) == (1.0, 10.0)
    assert value["without"] == "10 of 10 rows gave no number: 10 not measured"
