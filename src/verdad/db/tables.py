"""The tables. Documents are kept as JSON exactly as the core's schema writes them."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from enum import StrEnum
from typing import Any, ClassVar

from sqlalchemy import ARRAY, DateTime, Float, ForeignKey, Text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


def _now() -> datetime:
    return datetime.now(UTC)


class Base(DeclarativeBase):
    type_annotation_map: ClassVar = {dict[str, Any]: JSONB, datetime: DateTime(timezone=True), str: Text}


class BoardRow(Base):
    """A board as it is now. `revision` counts from 1 and guards against lost updates."""

    __tablename__ = "boards"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    revision: Mapped[int] = mapped_column(default=1)
    document: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = mapped_column(default=_now)
    updated_at: Mapped[datetime] = mapped_column(default=_now, onupdate=_now)


class RevisionRow(Base):
    """Every revision a board has had, the present one included."""

    __tablename__ = "board_revisions"

    board_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("boards.id", ondelete="CASCADE"), primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True)
    document: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = mapped_column(default=_now)


class ModelFileRow(Base):
    """A maker's model file, whole and unchanged, with where it came from and the roles given to its pins."""

    __tablename__ = "model_files"

    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    sha256: Mapped[str] = mapped_column(unique=True)
    text: Mapped[str]
    source: Mapped[str]
    link: Mapped[str] = mapped_column(default="")
    #: Subcircuit name -> role of each of its nodes, in node order.
    roles: Mapped[dict[str, Any]]
    added_at: Mapped[datetime] = mapped_column(default=_now)


class RunState(StrEnum):
    QUEUED = "queued"
    RUNNING = "running"
    DONE = "done"
    CANCELLED = "cancelled"
    FAILED = "failed"


class RunRow(Base):
    """One run of a study. `inputs` is all it needs, frozen when it was started, so that it can be resumed anywhere."""

    __tablename__ = "runs"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    board_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("boards.id", ondelete="CASCADE"), index=True)
    study: Mapped[str]
    key: Mapped[str] = mapped_column(index=True)
    inputs: Mapped[dict[str, Any]]
    state: Mapped[str] = mapped_column(default=RunState.QUEUED)
    rows: Mapped[int]
    message: Mapped[str] = mapped_column(default="")
    started_at: Mapped[datetime] = mapped_column(default=_now)
    finished_at: Mapped[datetime | None]
    blocks: Mapped[list[BlockRow]] = relationship(order_by="BlockRow.start", cascade="all, delete-orphan")


class BlockRow(Base):
    """A finished block of a run's rows: measurements [stop - start, measurements], row by row."""

    __tablename__ = "run_blocks"

    run_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"), primary_key=True)
    start: Mapped[int] = mapped_column(primary_key=True)
    stop: Mapped[int]
    values: Mapped[list[float]] = mapped_column(ARRAY(Float))
