"""Shares of variance, beside functions whose shares are known."""

from __future__ import annotations

import numpy as np
import pytest

from verdad_core.studies.blame import blame


def drawn(rows: int, count: int, seed: int = 7) -> list[np.ndarray]:
    return list(np.random.default_rng(seed).uniform(-1.0, 1.0, (count, rows)))


def test_shares_of_a_sum_are_those_of_its_variances() -> None:
    """Y = 3a - 2b + c of equal variances: 9/14, 4/14, 1/14 (JCGM 100:2008, 5.1.2)."""
    a, b, c, other = drawn(4000, 4)
    found = blame({"a": 1e3 * a + 5e3, "b": b, "c": 1e-9 * c, "other": other}, 3 * a - 2 * b + c)
    assert found is not None
    shares = {each.name: each.share for each in found.shares}
    # The draws' own correlation is 1/sqrt(4000) = 0.016.
    assert [shares[name] for name in "abc"] == pytest.approx([9 / 14, 4 / 14, 1 / 14], abs=0.03)
    assert sum(shares.values()) == pytest.approx(1.0, abs=1e-9)
    assert abs(shares["other"]) < 0.01
    assert found.explained == pytest.approx(1.0, abs=1e-9)
    assert [each.name for each in found.shares][:3] == ["a", "b", "c"]
    assert found.shares[1].effect == pytest.approx(-2.0 / np.sqrt(3.0), rel=0.05)


def test_what_only_bends_has_a_share_too_and_what_acts_jointly_is_left() -> None:
    """Y = a² + bc: variances 4/45 and 1/9, so shares 4/9 and, jointly, 5/9."""
    a, b, c = drawn(5000, 3)
    found = blame({"a": a, "b": b, "c": c}, a * a + b * c)
    assert found is not None
    shares = {each.name: each.share for each in found.shares}
    assert shares["a"] == pytest.approx(4 / 9, abs=0.04)
    assert found.explained == pytest.approx(4 / 9, abs=0.04)


def test_first_order_shares_of_the_ishigami_function() -> None:
    """Ishigami and Homma (1990), a = 7, b = 0.1: S1 = 0.3139, S2 = 0.4424, S3 = 0.

    A straight line holds 6/π² of a sine's variance over a period, so shares are bounds from below, and R² says so.
    """
    x1, x2, x3 = (np.pi * each for each in drawn(20_000, 3))
    y = np.sin(x1) + 7 * np.sin(x2) ** 2 + 0.1 * x3**4 * np.sin(x1)
    found = blame({"x1": x1, "x2": x2, "x3": x3}, y)
    assert found is not None
    shares = {each.name: each.share for each in found.shares}
    assert shares["x1"] == pytest.approx(0.3139 * 6 / np.pi**2, abs=0.02)
    assert 0.0 <= shares["x2"] <= 0.4424
    assert abs(shares["x3"]) < 0.01
    assert found.explained < 0.7


def test_rows_without_a_number_and_quantities_that_rest_are_left_out() -> None:
    a, b = drawn(400, 2)
    values = np.where(np.arange(400) % 7 == 0, np.nan, a)
    found = blame({"a": a, "b": b, "rests": np.full(400, 3.3)}, values)
    assert found is not None
    assert {each.name for each in found.shares} == {"a", "b"}
    assert found.shares[0].share == pytest.approx(1.0, abs=0.01)


def test_too_few_rows_or_nothing_that_varies_has_no_blame() -> None:
    a, b = drawn(14, 2)
    assert blame({"a": a, "b": b}, a) is None
    assert blame({"a": a}, np.full(14, 2.0)) is None
    assert blame({}, a) is None
