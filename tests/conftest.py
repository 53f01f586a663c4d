"""What service and browser tests share: a database of its own on Verdad's PostgreSQL server, and a running service."""

from __future__ import annotations

import os
import threading
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager

import psycopg
import pytest
import uvicorn
from distributed import LocalCluster
from fastapi import FastAPI
from hypothesis import settings
from sqlalchemy import Engine, make_url
from sqlalchemy.orm import Session

from verdad.api.app import create_app
from verdad.catalogue.site import create_site
from verdad.db.session import connect, migrate
from verdad.db.tables import BoardRow, BundleRow, EvidenceRow, RunRow
from verdad.demo.board import MODEL, preamplifier_board
from verdad.demo.load import keep, on_shelf
from verdad.settings import Settings
from verdad.setup import postgres
from verdad.setup.machine import free_port

# How long an example takes is not what these tests are about, and machines differ.
settings.register_profile("verdad", deadline=None, print_blob=True)
settings.load_profile("verdad")


@pytest.fixture(scope="session")
def database_url() -> Iterator[str]:
    """A fresh, migrated database that is dropped at the end."""
    server = os.environ.get("VERDAD_TEST_DATABASE_URL") or postgres.start(Settings.from_environment()).ensure(
        "verdad_test"
    )
    name = f"verdad_test_{uuid.uuid4().hex[:12]}"
    with psycopg.connect(server, autocommit=True) as connection:
        connection.execute(f"create database {name}")
    url = make_url(server).set(database=name).render_as_string(hide_password=False)
    engine = connect(url)
    migrate(engine)
    engine.dispose()
    yield url
    with psycopg.connect(server, autocommit=True) as connection:
        connection.execute(f"drop database {name} with (force)")


@pytest.fixture
def engine(database_url: str) -> Iterator[Engine]:
    """The database with nothing in it but the demo's first circuit."""
    engine = connect(database_url)
    with Session(engine) as session, session.begin():
        for table in (RunRow, BoardRow, BundleRow, EvidenceRow):
            for row in session.query(table):
                session.delete(row)
        session.flush()
        keep(session, preamplifier_board(on_shelf(session, MODEL)))
    yield engine
    engine.dispose()


@contextmanager
def running(app: FastAPI) -> Iterator[str]:
    """An application on a free port; its address."""
    port = free_port()
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error"))
    thread = threading.Thread(target=server.run)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.should_exit = True
        thread.join()


@contextmanager
def serving(database_url: str, catalogue: str | None = None, scheduler: str | None = None) -> Iterator[str]:
    """A service on the database, with the built interface; its address."""
    app = create_app(database_url, scheduler, Settings.from_environment().web, catalogue)
    with running(app) as address:
        yield address


@pytest.fixture(scope="session")
def workers() -> Iterator[str]:
    """The address of a scheduler whose workers all tests share: each service's own would start anew."""
    with LocalCluster(
        n_workers=2, threads_per_worker=1, host="127.0.0.1", dashboard_address=None, silence_logs="ERROR"
    ) as cluster:  # fmt: skip
        yield str(cluster.scheduler_address)


@pytest.fixture(scope="session")
def catalogue() -> Iterator[str]:
    """The address of the makers' catalogue."""
    with running(create_site()) as address:
        yield address


@pytest.fixture
def address(database_url: str, engine: Engine, catalogue: str, workers: str) -> Iterator[str]:
    """The address of a service whose database holds the demo and nothing else."""
    with serving(database_url, catalogue, workers) as found:
        yield found
