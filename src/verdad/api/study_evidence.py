"""The evidence of a study: which columns are kept for the board as it is now, or else for its newest run."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session, defer

from verdad.api.problems import ProblemError
from verdad.db.evidence import DatabaseStore
from verdad.db.tables import RunRow
from verdad_core.checks.elaborate import Models
from verdad_core.document.board import Board, Circuit, Limit
from verdad_core.document.checks import Check
from verdad_core.document.measurements import Measurement
from verdad_core.document.studies import Study
from verdad_core.studies.evidence import found_so_far
from verdad_core.studies.keys import column_key, rows_key
from verdad_core.studies.table import Column, Found


def find_study(board: Board, study_id: str) -> Study:
    """The study, or ProblemError 404."""
    found = next((study for study in board.studies if study.id == study_id), None)
    if found is None:
        raise ProblemError(404, "There is no such study on this board.")
    return found


def newest_run(session: Session, board_id: uuid.UUID, study: Study) -> RunRow | None:
    """The newest run of a study on this board; its inputs hold whole model files, and are read only where asked for."""
    newest = select(RunRow).where(RunRow.board_id == board_id, RunRow.study == study.id)
    return session.scalar(newest.options(defer(RunRow.inputs)).order_by(RunRow.started_at.desc()).limit(1))


@dataclass(frozen=True)
class Evidence:
    """What is kept for a study of some board, as many rows as its plan wants so far."""

    board: Board
    study: Study
    found: Found

    @classmethod
    def of(cls, session: Session, board: Board, study: Study, row_keys: Mapping[str, str]) -> Evidence:
        return cls(board, study, found_so_far(board, study, row_keys, DatabaseStore(session)))

    def measured(self) -> Sequence[tuple[Circuit, Check, Measurement, Column]]:
        """All that is measured, check by check, with its column."""
        return [
            (*self.board.check(check), measurement, self.found[check, key])
            for check in dict.fromkeys(check for check, _ in self.found)
            for measurement in self.board.check(check)[1].measurements
            if (key := column_key(measurement))
        ]

    def limited(self, limits: Sequence[Limit]) -> list[tuple[Limit, Column]]:
        """Those of some limits that it speaks to, with their columns."""
        found = {(check.id, measurement.id): column for _, check, measurement, column in self.measured()}
        return [(limit, found[at]) for limit in limits if (at := (limit.check, limit.measurement)) in found]

    @property
    def rows(self) -> int:
        """How many rows are wanted, as far as can be told by now."""
        return max((len(column.values) for column in self.found.values()), default=0)

    @property
    def rows_done(self) -> int:
        """How many rows are computed in all columns, on the average."""
        done = [column.done for column in self.found.values()]
        return sum(done) // len(done) if done else 0

    @property
    def is_complete(self) -> bool:
        return all(column.done == self.rows for column in self.found.values())


def present_keys(board: Board, study: Study, models: Models) -> dict[str, str]:
    return {check: rows_key(board, study, check, models) for check in study.checks}
