"""Evidence: what is kept of rows, wherever it is kept, and what it says of every limit of a board."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np

from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import Models
from verdad_core.checks.run import CheckResult
from verdad_core.document.board import Board, Limit
from verdad_core.document.studies import Study
from verdad_core.errors import VerdadError
from verdad_core.studies.keys import column_key, rows_key
from verdad_core.studies.kind import kind_of
from verdad_core.studies.table import Column, Found
from verdad_core.studies.verdict import Cell, judge, unproven


@dataclass(frozen=True)
class Block:
    """What one measurement gave in rows start..stop-1: values, NaN where there is none, and causes."""

    column: str
    start: int
    stop: int
    values: Sequence[float]
    causes: Sequence[int]


class Store(Protocol):
    """Where evidence is kept: memory, a folder, a database."""

    def blocks(self, rows: str) -> Iterable[Block]:
        """All that is kept of a set of rows, by its key."""


class MemoryStore:
    """Evidence that is kept as long as the process lives."""

    def __init__(self) -> None:
        self._blocks: dict[str, list[Block]] = {}

    def keep(self, rows: str, block: Block) -> None:
        self._blocks.setdefault(rows, []).append(block)

    def blocks(self, rows: str) -> Iterable[Block]:
        return self._blocks.get(rows, ())


def columns_of(store: Store, rows: str, columns: Sequence[str], size: int) -> dict[str, Column]:
    """Columns [size] of a set of rows by their keys; what is not kept of them is pending."""
    found = {key: Column.pending(size) for key in dict.fromkeys(columns)}
    for block in store.blocks(rows):
        column = found.get(block.column)
        if column is not None and block.start < size:
            end = min(block.stop, size)
            column.values[block.start : end] = block.values[: end - block.start]
            column.causes[block.start : end] = block.causes[: end - block.start]
    return found


def found_so_far(board: Board, study: Study, row_keys: Mapping[str, str], store: Store) -> Found:
    """All that is kept of a study, as many rows as its plan wants; `row_keys` are the keys of its rows by check."""
    kind = kind_of(study)
    most = kind.size_on(board)
    every: dict[tuple[str, str], Column] = {}
    for check, key in row_keys.items():
        wanted = [column_key(measurement) for measurement in board.check(check)[1].measurements]
        every |= {(check, column): kept for column, kept in columns_of(store, key, wanted, most).items()}
    size = kind.plan(board, every)
    return {which: column.first(size) for which, column in every.items()}


def gaps(columns: Mapping[str, Column]) -> dict[tuple[tuple[int, int], ...], list[str]]:
    """Which rows are pending, as ranges start..stop-1, with the columns that lack just these."""
    found: dict[tuple[tuple[int, int], ...], list[str]] = {}
    for key, column in columns.items():
        pending = np.concatenate([[False], column.causes == Cause.PENDING, [False]])
        edges = np.flatnonzero(pending[1:] != pending[:-1]).reshape(-1, 2)
        if len(edges):
            found.setdefault(tuple((int(a), int(b)) for a, b in edges), []).append(key)
    return found


@dataclass(frozen=True)
class MatrixRow:
    """One limit: `nominal`, and a cell for each study that is judged, None for one that does not cover its check."""

    limit: Limit
    nominal: Cell
    cells: tuple[Cell | None, ...]


@dataclass(frozen=True)
class AsDrawn:
    """What a check gave as drawn: numbers by measurement, NaN for none; and why they are no evidence, else empty."""

    measured: Mapping[str, float]
    objection: str = ""

    @classmethod
    def of(cls, result: CheckResult) -> AsDrawn:
        objection = result.objection.message if result.objection is not None else ""
        return cls({each.id: each.value for each in result.measured}, objection)


#: Runs a check of the board as drawn. Raises a VerdadError.
Nominal = Callable[[str], AsDrawn]


def judged(board: Board) -> list[Study]:
    """The studies that are held against the limits."""
    return [study for study in board.studies if study.judged]


def evidence(board: Board, models: Models, store: Store, nominal: Nominal) -> tuple[MatrixRow, ...]:
    """The matrix of a board as it is now: limits down, the nominal run and the studies across."""
    studies = [_Covered(board, models, store, study) for study in judged(board)]
    return tuple(
        MatrixRow(limit, _nominal(board, limit, nominal), tuple(study.cell(limit) for study in studies))
        for limit in board.limits
    )


def _nominal(board: Board, limit: Limit, nominal: Nominal) -> Cell:
    try:
        result = nominal(limit.check)
    except VerdadError as error:
        return unproven(str(error))
    if result.objection:
        return unproven(result.objection)
    if limit.measurement not in result.measured:
        return unproven("there is no result to measure")
    return judge(limit, Column.of(np.array([result.measured[limit.measurement]])), board.thin_margin)


class _Covered:
    """What a study says of limits; what is kept is read once."""

    def __init__(self, board: Board, models: Models, store: Store, study: Study) -> None:
        self.board, self.models, self.store, self.study = board, models, store, kind_of(study)

    def cell(self, limit: Limit) -> Cell | None:
        if limit.check not in self.study.checks:
            return None
        try:
            measured = self.board.check(limit.check)[1].measurement(limit.measurement)
            column = self._found[limit.check, column_key(measured)]
        except VerdadError as error:
            return unproven(str(error))
        if not column.done:
            return unproven("no current run")
        if column.done < len(column.values):
            return unproven(f"{column.done} of {len(column.values)} rows are computed")
        return self.study.judge(limit, column, self.board.thin_margin)

    @cached_property
    def _found(self) -> Found:
        keys = {check: rows_key(self.board, self.study, check, self.models) for check in self.study.checks}
        return found_so_far(self.board, self.study, keys, self.store)
