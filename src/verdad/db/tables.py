"""The tables. Documents are kept as JSON exactly as the core's schema writes them."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime
from enum import StrEnum
from typing import Any, ClassVar

from sqlalchemy import ARRAY, DateTime, Float, ForeignKey, SmallInteger, Text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


def _now() -> datetime:
    return datetime.now(UTC)


class Base(DeclarativeBase):
    type_annotation_map: ClassVar = {
        dict[str, Any]: JSONB, list[Any]: JSONB, datetime: DateTime(timezone=True), str: Text,
    }  # fmt: skip


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
    #: What was done, as the interface says it.
    what: Mapped[str] = mapped_column(default="")
    created_at: Mapped[datetime] = mapped_column(default=_now)


class BundleRow(Base):
    """Files that were handed in together: whole and unchanged, with where they came from."""

    __tablename__ = "model_bundles"

    id: Mapped[str] = mapped_column(primary_key=True)
    sha256: Mapped[str] = mapped_column(unique=True)
    #: Name, text and encoding of each file.
    files: Mapped[list[Any]]
    source: Mapped[str]
    link: Mapped[str] = mapped_column(default="")
    obtained_on: Mapped[date]
    obtained_by: Mapped[str] = mapped_column(default="")
    terms: Mapped[str] = mapped_column(default="")
    added_at: Mapped[datetime] = mapped_column(default=_now)


class ModelRow(Base):
    """One version of a model on the shelf: what of its bundle it is, and what the designer has said of it."""

    __tablename__ = "models"

    id: Mapped[str] = mapped_column(primary_key=True)
    bundle_id: Mapped[str] = mapped_column(ForeignKey("model_bundles.id", ondelete="CASCADE"), index=True)
    file: Mapped[str]
    name: Mapped[str]
    kind: Mapped[str]
    description: Mapped[str] = mapped_column(default="")
    #: The role of each node, in node order.
    roles: Mapped[list[Any]]
    symbol: Mapped[dict[str, Any]]
    #: Lines of the data sheet, and the conditions that the bench is set to.
    data_sheet: Mapped[list[Any]]
    conditions: Mapped[dict[str, Any]]
    #: The version that this one takes the place of.
    supersedes: Mapped[str | None] = mapped_column(ForeignKey("models.id", ondelete="SET NULL"))
    added_at: Mapped[datetime] = mapped_column(default=_now)
    bundle: Mapped[BundleRow] = relationship(lazy="joined")


class RunState(StrEnum):
    QUEUED = "queued"
    RUNNING = "running"
    DONE = "done"
    CANCELLED = "cancelled"
    FAILED = "failed"


class QualificationRow(Base):
    """The newest run of a model's bench. `key` is that of everything it depends on when it was started."""

    __tablename__ = "qualifications"

    model_id: Mapped[str] = mapped_column(ForeignKey("models.id", ondelete="CASCADE"), primary_key=True)
    key: Mapped[str]
    state: Mapped[str] = mapped_column(default=RunState.QUEUED)
    done: Mapped[int] = mapped_column(default=0)
    experiments: Mapped[int] = mapped_column(default=0)
    doing: Mapped[str] = mapped_column(default="")
    message: Mapped[str] = mapped_column(default="")
    figures: Mapped[list[Any]] = mapped_column(default=list)
    #: Cards and findings.
    details: Mapped[dict[str, Any]] = mapped_column(default=dict)
    started_at: Mapped[datetime] = mapped_column(default=_now)
    finished_at: Mapped[datetime | None]


class RunRow(Base):
    """One run of a study. `inputs` is all it needs, frozen when it was started, so that it can be resumed anywhere."""

    __tablename__ = "runs"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    board_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("boards.id", ondelete="CASCADE"), index=True)
    study: Mapped[str]
    key: Mapped[str] = mapped_column(index=True)
    inputs: Mapped[dict[str, Any]]
    state: Mapped[str] = mapped_column(default=RunState.QUEUED)
    #: The keys of the rows of each check that the study covers, by the check.
    row_keys: Mapped[dict[str, Any]]
    message: Mapped[str] = mapped_column(default="")
    started_at: Mapped[datetime] = mapped_column(default=_now)
    finished_at: Mapped[datetime | None]


class EvidenceRow(Base):
    """What one measurement gave in rows start..stop-1 of a set of rows, by their keys (verdad_core.studies.keys).

    It belongs to its contents and not to a run: whoever asks for the same finds it.
    """

    __tablename__ = "evidence"

    rows_key: Mapped[str] = mapped_column(primary_key=True)
    column_key: Mapped[str] = mapped_column(primary_key=True)
    start: Mapped[int] = mapped_column(primary_key=True)
    stop: Mapped[int]
    values: Mapped[list[float]] = mapped_column(ARRAY(Float))
    #: Why there is no number, of each value (verdad_core.checks.cause.Cause).
    causes: Mapped[list[int]] = mapped_column(ARRAY(SmallInteger))
    computed_at: Mapped[datetime] = mapped_column(default=_now)
