"""The rows of a study: listed, sorted, handed out as CSV."""

from __future__ import annotations

import csv
import io
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session

from verdad.api.context import InSession, load_board, load_models, released
from verdad.api.numbers import Number
from verdad.api.problems import ProblemError, problems
from verdad.api.study_evidence import Evidence, find_study, present_keys
from verdad_core.arrays import Booleans, Floats, Integers
from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import Models
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.checks.quantities import quantity
from verdad_core.document.board import Board
from verdad_core.document.checks import Check
from verdad_core.errors import BoardError
from verdad_core.interchange.parts_list import plain
from verdad_core.studies.kind import StudyKind, kind_of
from verdad_core.studies.statistics import passing

router = APIRouter(prefix="/api/boards/{board_id}/studies/{study_id}", tags=["studies"])


class InputView(BaseModel):
    """A quantity that differs from row to row, and the checks in which it does."""

    name: str
    unit: str
    checks: list[str]


class ResultView(BaseModel):
    """Something that every row is measured for."""

    check: str
    id: str
    title: str
    unit: str


class RowView(BaseModel):
    """A row: its number from 0, what quantities were, what was measured, why where it is no number, and whether it
    breaks a limit.
    """

    row: int
    inputs: list[float]
    values: list[Number]
    causes: list[str]
    breaks: list[bool]


class RowsView(BaseModel):
    """Some rows of a study, in an order of their own; `total` is how many there are to choose from."""

    inputs: list[InputView]
    results: list[ResultView]
    rows: list[RowView]
    total: int


@dataclass(frozen=True)
class Listing:
    """All rows that are computed."""

    board: Board
    evidence: Evidence
    models: Models

    @property
    def kind(self) -> StudyKind:
        return kind_of(self.evidence.study)

    @cached_property
    def known(self) -> Integers:
        """The numbers of the rows that are computed in all columns."""
        pending = [column.causes == Cause.PENDING for column in self.evidence.found.values()]
        return np.flatnonzero(~np.any(pending, axis=0)).astype(np.int32) if pending else np.arange(0, dtype=np.int32)

    @cached_property
    def by_check(self) -> dict[str, Mapping[str, Floats]]:
        """What every quantity of a check is in all rows, by name."""
        return {
            check: self.kind.values(self.board, check, self.models, 0, self.evidence.rows, self.evidence.found)
            for check in self.evidence.study.checks
        }

    @cached_property
    def inputs(self) -> dict[str, Floats]:
        """The same of all checks: a row is one unit."""
        found = {name: values for own in self.by_check.values() for name, values in own.items()}
        return dict(sorted(found.items()))

    @cached_property
    def within(self) -> list[Booleans]:
        """Of all that is measured, whether it is within its limits [rows]; without one it is."""
        found = []
        for _, check, measurement, column in self.evidence.measured():
            own = [each for each in self.board.limits if (each.check, each.measurement) == (check.id, measurement.id)]
            inside = [passing(column.values, *limit.bounds) for limit in own]
            found.append(np.all(inside, axis=0) if inside else np.ones(len(column.values), dtype=bool))
        return found

    @cached_property
    def passes(self) -> Booleans:
        """Whether a row is within all limits [rows]."""
        return np.asarray(np.all(self.within, axis=0)) if self.within else np.ones(0, dtype=bool)

    def ordered(self, sort: str, descending: bool, failing: bool) -> Integers:
        """Numbers of rows, by a quantity or "check measurement"; a row without a number comes last."""
        rows = self.known[~self.passes[self.known]] if failing else self.known
        if sort == "row":
            return rows[::-1] if descending else rows
        by = {f"{check.id} {m.id}": column.values for _, check, m, column in self.evidence.measured()} | self.inputs
        if sort not in by:
            raise ProblemError(422, f"There is nothing called '{sort}' to sort by.")
        keys = by[sort][rows]
        return rows[np.argsort(np.where(np.isfinite(keys), -keys if descending else keys, np.inf), kind="stable")]

    def view(self, row: int) -> RowView:
        columns = [column for *_, column in self.evidence.measured()]
        return RowView(
            row=row, inputs=[float(values[row]) for values in self.inputs.values()],
            values=[float(column.values[row]) if np.isfinite(column.values[row]) else None for column in columns],
            causes=[_why(int(column.causes[row])) for column in columns],
            breaks=[not within[row] for within in self.within],
        )  # fmt: skip

    @property
    def input_views(self) -> list[InputView]:
        return [
            InputView(name=name, unit=self._unit(name), checks=[c for c, own in self.by_check.items() if name in own])
            for name in self.inputs
        ]

    def _unit(self, name: str) -> str:
        for check in self.evidence.study.checks:
            try:
                return quantity(*self.board.check(check), name, self.models).unit
            except BoardError:
                continue
        return ""

    @property
    def result_views(self) -> list[ResultView]:
        several = len(self.evidence.study.checks) > 1
        return [
            ResultView(
                check=check.id, id=each.id, title=_titled(check, each.title, several),
                unit=unit_of_measurement(circuit, check, each),
            )
            for circuit, check, each, _ in self.evidence.measured()
        ]  # fmt: skip


def _why(cause: int) -> str:
    return "" if cause == Cause.NUMBER else Cause(cause).words


def _titled(check: Check, title: str, several: bool) -> str:
    return f"{check.title}: {title}" if several else title


def listing_of(session: Session, board_id: uuid.UUID, study_id: str) -> Listing:
    """Raises ProblemError 404 for a board or a study that there is not."""
    board = load_board(session, board_id)
    study = find_study(board, study_id)
    models = load_models(session, board)
    evidence = Evidence.of(session, board, study, present_keys(board, study, models))
    released(session)
    return Listing(board, evidence, models)


@router.get("/rows", responses=problems(404))
def get_rows(
    board_id: uuid.UUID, study_id: str, session: InSession, sort: str = "row", descending: bool = False,
    failing: bool = False, offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=500)] = 50,
) -> RowsView:  # fmt: skip
    """Rows of the board as it is now, sorted by a quantity, by "check measurement", or by their number."""
    listing = listing_of(session, board_id, study_id)
    rows = listing.ordered(sort, descending, failing)
    return RowsView(
        inputs=listing.input_views, results=listing.result_views, total=len(rows),
        rows=[listing.view(int(row)) for row in rows[offset : offset + limit]],
    )  # fmt: skip


@router.get("/rows.csv", response_class=Response, responses=problems(404) | {200: {"content": {"text/csv": {}}}})
def get_rows_as_csv(board_id: uuid.UUID, study_id: str, session: InSession) -> Response:
    """All computed rows: their numbers from 1, what quantities were, and what was measured, in SI units (RFC 4180)."""
    listing = listing_of(session, board_id, study_id)
    text = io.StringIO()
    writer = csv.writer(text)
    inputs, results = listing.input_views, listing.result_views
    named = [(each.name, each.unit) for each in inputs] + [(each.title, each.unit) for each in results]
    writer.writerow(["row", *(plain(f"{name} / {unit}" if unit else name) for name, unit in named)])
    for row in listing.known:
        view = listing.view(int(row))
        measured = [
            cause if value is None else repr(value) for value, cause in zip(view.values, view.causes, strict=True)
        ]
        writer.writerow([view.row + 1, *(repr(value) for value in view.inputs), *measured])
    name = f"{listing.evidence.study.id}.csv"
    return Response(
        text.getvalue(), media_type="text/csv", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )
