"""What rows say of several limits at once: a row is one unit, and a unit is good when all of it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.checks.cause import Cause
from verdad_core.document.board import Limit
from verdad_core.studies.statistics import Yield, passing, yield_of
from verdad_core.studies.table import Column


@dataclass(frozen=True)
class Failing:
    """Of one limit: the number of units that it fails, and of those that nothing else fails."""

    limit: str
    units: int
    alone: int


@dataclass(frozen=True)
class Together:
    """The yield against all limits, over the rows that are computed in every column, and what fails most, first."""

    within: Yield
    failing: tuple[Failing, ...]


def together(limited: Sequence[tuple[Limit, Column]]) -> Together | None:
    """None without a limit, or without a row that is computed in all columns."""
    if not limited:
        return None
    known = np.all([column.causes != Cause.PENDING for _, column in limited], axis=0)
    if not np.any(known):
        return None
    passed = np.array([passing(column.values, *limit.bounds)[known] for limit, column in limited])
    failures = np.sum(~passed, axis=0)
    failing = [
        Failing(limit.id, int(np.sum(~own)), int(np.sum(~own & (failures == 1))))
        for (limit, _), own in zip(limited, passed, strict=True)
    ]
    ordered = sorted((each for each in failing if each.units), key=lambda each: -each.units)
    return Together(yield_of(failures == 0), tuple(ordered))
