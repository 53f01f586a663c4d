"""The service under test, called without a network."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from verdad.api.app import create_app


@pytest.fixture
def api(database_url: str, engine: Engine, workers: str) -> Iterator[TestClient]:
    with TestClient(create_app(database_url, workers), raise_server_exceptions=False) as client:
        yield client


@pytest.fixture
def board(api: TestClient) -> dict[str, Any]:
    """The demo board as the API gives it: id, revision, board."""
    [entry] = api.get("/api/boards").json()
    view: dict[str, Any] = api.get(f"/api/boards/{entry['id']}").json()
    return view
