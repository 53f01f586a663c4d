"""Quantities that differ: contributors add, groups share, and a draw belongs to its contributor and its row."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError
from scipy import stats

from tests.core.boards import spread
from verdad_core.arrays import Floats
from verdad_core.spreads.spread import Spread
from verdad_core.spreads.variation import Variation

ROWS = 20_000


def values(of: str, tolerance: float, nominal: float = 1.0, rows: int = ROWS, **more: Any) -> Floats:
    return Variation(Spread.model_validate(spread(of, tolerance, **more)), nominal).values(7, 0, rows)


def test_contributors_add() -> None:
    """Two uniform ones of ±1 % and ±2 %: the trapezoid that is their convolution (Papoulis 1991, from memory)."""
    drawn = values("R1", 1, ageing=2)
    trapezoid = stats.trapezoid(1 / 3, 2 / 3, loc=0.97, scale=0.06)
    assert stats.kstest(drawn, trapezoid.cdf).pvalue > 0.01
    assert np.var(drawn) == pytest.approx((0.01**2 + 0.02**2) / 3, rel=0.03)


def test_another_contributor_leaves_the_first_ones_draws_alone() -> None:
    alone, both = values("R1", 1), values("R1", 1, ageing=2)
    assert stats.kstest(both - alone, stats.uniform(-0.02, 0.04).cdf).pvalue > 0.01
    assert np.array_equal(values("R1", 1, rows=50), alone[:50])
    assert np.array_equal(Variation(Spread.model_validate(spread("R1", 1)), 1.0).values(7, 30, 50), alone[30:50])


def test_a_group_is_bought_together_and_matches_as_it_says() -> None:
    """Of two resistors of ±5 % in a network that match to ±0.1 %, the ratio keeps within 0.2 % and a little."""
    network: dict[str, Any] = {"group": "network 1", "matching": 0.1}
    one, other = values("R1", 5, 1e3, **network), values("R2", 5, 2e3, **network)
    assert np.ptp(one) > 90
    ratio = other / one
    # Each lies within 0.1 % of nominal beside a common deviation of at most 5 %.
    assert np.max(np.abs(ratio / 2.0 - 1.0)) < 2 * 0.001 / 0.949
    assert np.corrcoef(one, other)[0, 1] > 0.999
    assert abs(np.corrcoef(values("R1", 5), values("R2", 5))[0, 1]) < 0.03


@pytest.mark.parametrize(
    ("wrong", "why"),
    [
        (spread("R1", 1, matching=1), "matched to nothing"),
        (spread("R1", 1, purchase=2), "'purchase' twice"),
        (spread("R1", 1, weather=2), "nothing contributes"),
        ({"of": "R1", "contributions": []}, "at least 1"),
    ],
)
def test_what_makes_no_sense_is_refused(wrong: dict[str, object], why: str) -> None:
    with pytest.raises((ValidationError, ValueError), match=why):
        Spread.model_validate(wrong)
