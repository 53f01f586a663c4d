import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from scipy import stats

from verdad_core.studies.statistics import histogram, summarise, yield_of


def test_summary_against_scipy() -> None:
    values = np.random.default_rng(2).normal(5, 2, 777)
    summary = summarise(np.append(values, np.nan))
    assert summary is not None
    described = stats.describe(values)
    assert (summary.n, summary.missing) == (777, 1)
    assert summary.mean == pytest.approx(described.mean, rel=1e-12)
    assert summary.sigma == pytest.approx(np.sqrt(described.variance), rel=1e-12)
    assert (summary.min, summary.max) == described.minmax
    assert summary.p10 == pytest.approx(stats.scoreatpercentile(values, 10), rel=1e-12)


def test_nothing_to_summarise() -> None:
    assert summarise(np.array([np.nan])) is None
    assert histogram(np.array([])) is None
    assert np.isnan(yield_of(np.array([]), 0, 1).share)


@given(st.integers(0, 60), st.integers(1, 60))
def test_yield_interval_is_wilsons(passed: int, failed: int) -> None:
    """Reference: scipy.stats.binomtest(...).proportion_ci(method='wilson')."""
    values = np.concatenate([np.full(passed, 0.5), np.full(failed - 1, 2.0), [np.nan]])
    found = yield_of(values, 0.0, 1.0)
    reference = stats.binomtest(passed, passed + failed).proportion_ci(method="wilson")
    assert (found.low, found.high) == pytest.approx((reference.low, reference.high), abs=1e-9)
    assert found.passed == passed


@given(st.lists(st.floats(-1e9, 1e9), min_size=1, max_size=300))
@example([0.0, 0.0, 0.0, 5e-324, 1e9])
@example([0.0, 1e-310, 2e-310, 1e9])
def test_a_histogram_counts_every_value_once(values: list[float]) -> None:
    bins = histogram(np.array(values))
    assert bins is not None
    assert bins.counts.sum() == len(values)
    assert bins.edges[0] <= min(values)
    assert bins.edges[-1] >= max(values)
    assert len(bins.counts) <= 60
