"""Connecting to PostgreSQL and bringing its schema up to date."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, make_url, text
from sqlalchemy.orm import Session, sessionmaker

Sessions = sessionmaker[Session]


def connect(url: str) -> Engine:
    """An engine for a PostgreSQL URL; any PostgreSQL scheme is driven by psycopg 3. Errors repeat no document."""
    parsed = make_url(url)
    return create_engine(
        parsed.set(drivername="postgresql+psycopg"), pool_pre_ping=True, pool_size=5, max_overflow=5,
        hide_parameters=True,
    )  # fmt: skip


def migrate(engine: Engine) -> None:
    """Bring the schema to the newest migration. Safe to call by several processes at once."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        connection.execute(text("select pg_advisory_xact_lock(7305120)"))
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
