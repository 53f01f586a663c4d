"""A unit is good when all of it is."""

from __future__ import annotations

import numpy as np

from verdad_core.checks.cause import Cause
from verdad_core.document.board import Limit
from verdad_core.studies.table import Column
from verdad_core.studies.together import together


def limit(identifier: str, lower: str | None, upper: str | None) -> Limit:
    return Limit(id=identifier, check="k", measurement=identifier, lower=lower, upper=upper)


def test_the_yield_of_all_limits_is_that_of_units() -> None:
    """Of ten units two fail one limit, three the other, one of them both: six are good."""
    first = Column.of(np.array([9.0, 9.0, *np.full(8, 1.0)]))
    second = Column.of(np.array([1.0, 0.0, 0.0, np.nan, *np.full(6, 1.0)]))
    found = together([(limit("a", None, "5"), first), (limit("b", "0.5", None), second)])
    assert found is not None
    assert (found.within.passed, found.within.total) == (6, 10)
    assert [(each.limit, each.units, each.alone) for each in found.failing] == [("b", 3, 2), ("a", 2, 1)]


def test_only_units_that_are_measured_in_everything_count() -> None:
    whole, part = Column.of(np.ones(6)), Column.of(np.ones(6))
    part.causes[3:] = Cause.PENDING
    found = together([(limit("a", "0", "2"), whole), (limit("b", "0", "2"), part)])
    assert found is not None
    assert (found.within.total, found.failing) == (3, ())
    assert together([]) is None
    assert together([(limit("a", "0", "2"), Column.pending(4))]) is None
