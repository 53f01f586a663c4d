import numpy as np
import pytest

from verdad_core.document.board import Limit
from verdad_core.studies.table import Column
from verdad_core.studies.verdict import State, judge


def limit(lower: str | None = None, upper: str | None = None) -> Limit:
    return Limit(id="l", check="c", measurement="m", lower=lower, upper=upper)


@pytest.mark.parametrize(
    ("lower", "upper", "values", "state", "worst", "percent"),
    [
        ("100", None, [130, 150], State.HOLDS, 130, 30.0),
        ("100", None, [102, 150], State.THIN, 102, 2.0),
        ("100", None, [99, 150], State.BREAKS, 99, -1.0),
        (None, "1k", [950, 900], State.HOLDS, 950, 5.0),
        (None, "1k", [980, 900], State.THIN, 980, 2.0),
        ("100", "1k", [110, 980], State.THIN, 980, 2.0),
        ("-10", None, [-9], State.HOLDS, -9, 10.0),
        ("0", None, [0.5], State.HOLDS, 0.5, 100.0),
    ],
)
def test_states(
    lower: str | None, upper: str | None, values: list[float], state: State, worst: float, percent: float
) -> None:
    cell = judge(limit(lower, upper), Column.of(np.array(values, float)), 5)
    assert cell.state is state
    assert cell.worst == worst
    assert cell.margin_percent == pytest.approx(percent)


def test_a_row_without_a_number_breaks_the_limit() -> None:
    cell = judge(limit("1"), Column.of(np.array([5.0, np.nan])), 5)
    assert cell.state is State.BREAKS
    assert "1 of 2 rows" in cell.why


def test_no_rows_prove_nothing() -> None:
    assert judge(limit("1"), Column.of(np.array([])), 5).state is State.UNPROVEN
