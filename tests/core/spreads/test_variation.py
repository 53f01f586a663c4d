"""Quantities that differ: contributors add, groups share, and a draw belongs to its contributor and its row."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError
from scipy import stats

from tests.core.boards import spread
from verdad_core.arrays import Floats
from verdad_core.errors import BoardError
from verdad_core.spreads.draw import PseudoRandom
from verdad_core.spreads.spread import Spread
from verdad_core.spreads.variation import Variation

ROWS = 20_000


def values(of: str, tolerance: float, nominal: float = 1.0, rows: int = ROWS, **more: Any) -> Floats:
    return varied(spread(of, tolerance, **more), nominal).values(PseudoRandom(7), 0, rows)


def varied(document: dict[str, Any], nominal: float = 1.0, unit: str = "") -> Variation:
    own = Spread.model_validate(document)
    return Variation(own, nominal, own.amounts(unit))


def of_amount(text: str, **more: Any) -> dict[str, Any]:
    return {"of": "R1", "contributions": [{"amount": text, **more}]}


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
    assert np.array_equal(varied(spread("R1", 1)).values(PseudoRandom(7), 30, 50), alone[30:50])


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


def test_amounts_fill_what_they_say_however_they_are_written() -> None:
    """One-sided, in the quantity's own unit, and about nothing: a temperature coefficient of nominally none."""
    wide = varied(of_amount("-20 +80"), 1e-5, "F").values(PseudoRandom(1), 0, ROWS)
    assert stats.kstest(wide, stats.uniform(0.8e-5, 1e-5).cdf).pvalue > 0.01
    own = varied(of_amount("±0.5p"), 10e-12, "F").values(PseudoRandom(1), 0, ROWS)
    assert stats.kstest(own, stats.uniform(9.5e-12, 1e-12).cdf).pvalue > 0.01
    coefficient = varied(of_amount("50ppm"), 0.0, "1/°C").values(PseudoRandom(1), 0, ROWS)
    assert stats.kstest(coefficient, stats.uniform(-50e-6, 100e-6).cdf).pvalue > 0.01
    both = [{"amount": "1"}, {"contributor": "ageing", "amount": "+2m"}]
    aged = varied({"of": "R1", "contributions": both}, 1.0, "V").values(PseudoRandom(1), 0, ROWS)
    assert 0.99 <= aged.min() < 0.9905
    assert 1.0115 < aged.max() <= 1.012


def test_per_cent_of_nothing_is_refused() -> None:
    with pytest.raises(BoardError, match="per cent of it are nothing"):
        varied(of_amount("5"), 0.0, "V")


@pytest.mark.parametrize(
    ("wrong", "why"),
    [
        (spread("R1", 1, matching=1), "matched to nothing"),
        (spread("R1", 1, purchase=2), "'purchase' twice"),
        (spread("R1", 1, weather=2), "nothing contributes"),
        ({"of": "R1", "contributions": []}, "at least 1"),
        (of_amount("five"), "does not start with a number"),
        (of_amount("1", distribution="uniform", form=2.0), "no form of a uniform"),
        (of_amount("1", distribution="normal", form=0.1), "between 0.5 and 8"),
    ],
)
def test_what_makes_no_sense_is_refused(wrong: dict[str, object], why: str) -> None:
    with pytest.raises((ValidationError, ValueError), match=why):
        Spread.model_validate(wrong)
