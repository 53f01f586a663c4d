"""Evidence in the database, as the core asks for it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from verdad.db.tables import EvidenceRow
from verdad_core.studies.evidence import Block


class DatabaseStore:
    """Evidence as a session sees it."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def blocks(self, rows: str) -> Iterable[Block]:
        found = self._session.scalars(
            select(EvidenceRow).where(EvidenceRow.rows_key == rows).order_by(EvidenceRow.start)
        )
        return [Block(row.column_key, row.start, row.stop, row.values, row.causes) for row in found]

    def keep(
        self,
        rows: str,
        start: int,
        stop: int,
        values: Mapping[str, Sequence[float]],
        causes: Mapping[str, Sequence[int]],
    ) -> None:
        """Rows start..stop-1 of several columns. What is there already is overwritten by the same."""
        for column in values:
            self._session.merge(
                EvidenceRow(
                    rows_key=rows, column_key=column, start=start, stop=stop, values=list(values[column]),
                    causes=list(causes[column]),
                )
            )  # fmt: skip

    def computed_since(self, rows: Iterable[str], since: datetime) -> int:
        """How many numbers have been computed since then."""
        counted = select(func.sum(EvidenceRow.stop - EvidenceRow.start)).where(
            EvidenceRow.rows_key.in_(list(rows)), EvidenceRow.computed_at >= since
        )
        return self._session.scalar(counted) or 0

    def forget_orphans(self) -> None:
        """Take away what no run of any board is about any more."""
        self._session.execute(
            text(
                "delete from evidence where rows_key not in "
                "(select kept.value from runs, jsonb_each_text(runs.row_keys) as kept)"
            )
        )
