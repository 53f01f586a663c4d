"""What the rows of a study gave: a number, or the cause why there is none, for each measurement."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats, Integers
from verdad_core.checks.cause import Cause


@dataclass(frozen=True)
class Column:
    """One measurement: `values` [rows], NaN where there is none, and `causes` [rows]."""

    values: Floats
    causes: Integers

    @classmethod
    def of(cls, values: Floats) -> Column:
        """Numbers of which nothing else is known: what is none was not measured."""
        return cls(values, np.where(np.isfinite(values), Cause.NUMBER, Cause.NOT_MEASURED).astype(np.int32))

    @classmethod
    def pending(cls, size: int) -> Column:
        """One of which nothing is computed yet."""
        return cls(np.full(size, np.nan), np.full(size, Cause.PENDING, dtype=np.int32))

    @property
    def done(self) -> int:
        """How many rows have been computed."""
        return int(np.sum(self.causes != Cause.PENDING))

    @property
    def without(self) -> dict[Cause, int]:
        """How many rows that were computed have no number, by the cause."""
        causes, counts = np.unique(self.causes, return_counts=True)
        counted = {Cause(int(cause)): int(count) for cause, count in zip(causes, counts, strict=True)}
        return {cause: n for cause, n in counted.items() if cause not in (Cause.NUMBER, Cause.PENDING)}

    @property
    def why(self) -> str:
        """The same in words; empty where each row has a number."""
        causes = ", ".join(f"{count} {cause.words}" for cause, count in self.without.items())
        return f"{sum(self.without.values())} of {self.done} rows gave no number: {causes}" if causes else ""

    def first(self, rows: int) -> Column:
        """Its first rows; those that it does not have are pending."""
        if rows <= len(self.values):
            return Column(self.values[:rows], self.causes[:rows])
        longer = Column.pending(rows)
        longer.values[: len(self.values)], longer.causes[: len(self.values)] = self.values, self.causes
        return longer


#: The columns of a study so far, by check and by the key of what is measured.
Found = Mapping[tuple[str, str], Column]

#: Where nothing is computed yet.
NOTHING: Found = {}


def computed(columns: Iterable[Column]) -> int:
    """How many rows from the first on are computed in all of some columns."""
    counts = []
    for column in columns:
        pending = np.flatnonzero(column.causes == Cause.PENDING)
        counts.append(int(pending[0]) if len(pending) else len(column.causes))
    return min(counts, default=0)


@dataclass(frozen=True)
class Table:
    """`values` and `causes` [rows, measurements], in the order of the check's measurements."""

    values: Floats
    causes: Integers

    @classmethod
    def of(cls, rows: int, measurements: int) -> Table:
        """One that holds nothing yet: no row was measured."""
        causes = np.full((rows, measurements), Cause.NOT_MEASURED, dtype=np.int32)
        return cls(np.full((rows, measurements), np.nan), causes)

    def put(self, row: int, column: int, value: float) -> None:
        self.values[row, column], self.causes[row, column] = value, Cause.NUMBER

    def column(self, column: int) -> Column:
        return Column(self.values[:, column], self.causes[:, column])
