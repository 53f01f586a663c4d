import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from scipy import stats

from verdad_core.studies.statistics import capability, histogram, normality, passing, summarise, yield_of


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
    assert np.isnan(yield_of(np.array([], dtype=bool)).share)


@given(st.integers(0, 60), st.integers(1, 60))
def test_yield_interval_is_clopper_and_pearsons(passed: int, failed: int) -> None:
    """Reference: scipy.stats.binomtest(...).proportion_ci(method='exact')."""
    values = np.concatenate([np.full(passed, 0.5), np.full(failed - 1, 2.0), [np.nan]])
    found = yield_of(passing(values, 0.0, 1.0))
    reference = stats.binomtest(passed, passed + failed).proportion_ci(method="exact")
    assert (found.low, found.high) == pytest.approx((reference.low, reference.high), abs=1e-9)
    assert found.passed == passed


def test_skew_and_the_outer_percentiles_against_scipy() -> None:
    values = np.random.default_rng(3).gamma(2.0, 1.0, 500)
    found = summarise(values)
    assert found is not None
    assert found.skew == pytest.approx(stats.skew(values), rel=1e-12)
    assert (found.p1, found.p99) == pytest.approx(tuple(np.quantile(values, [0.01, 0.99])), rel=1e-12)


def test_a_test_of_fit_accepts_normal_values_as_often_as_it_says_and_refuses_others() -> None:
    """Of 400 normal samples 5 % have a probability below 0.05: 20, with a standard deviation of 4.4."""
    generator = np.random.default_rng(5)
    found = np.array([normality(generator.normal(3.0, 2.0, 50)) for _ in range(400)])
    assert abs(int(np.sum(found < 0.05)) - 20) < 14
    assert abs(int(np.sum(found < 0.5)) - 200) < 40
    assert normality(generator.uniform(-1.0, 1.0, 300)) < 1e-3
    assert normality(generator.exponential(1.0, 300)) < 1e-9


def test_the_statistic_behind_it_is_scipys() -> None:
    """scipy.stats.anderson has the same statistic; 0.752 / (1 + 0.75/n + 2.25/n²) is the 5 % point of Stephens."""
    values = np.random.default_rng(8).normal(size=80)
    values = values + 0.35 * values**2
    square = stats.anderson(values, "norm").statistic
    corrected = square * (1.0 + 0.75 / 80 + 2.25 / 80**2)
    assert normality(values) == pytest.approx(np.exp(1.2937 - 5.709 * corrected + 0.0186 * corrected**2), rel=1e-9)


def test_capability_of_the_handbook() -> None:
    """NIST/SEMATECH e-Handbook 6.1.6: limits 8 and 20, mean 16, deviation 2: Cp 1.0, Cpk 0.6667."""
    generator = np.random.default_rng(1).normal(size=4000)
    values = 16.0 + 2.0 * (generator - generator.mean()) / generator.std(ddof=1)
    found = summarise(values)
    assert found is not None
    both = capability(found, 8.0, 20.0)
    assert both is not None
    assert (both.cp, both.cpk) == pytest.approx((1.0, 2.0 / 3.0), rel=1e-9)
    one = capability(found, None, 20.0)
    assert one is not None
    assert one.cp is None
    assert one.cpk == pytest.approx(2.0 / 3.0)
    assert capability(found, None, None) is None


def test_no_bar_of_a_histogram_lies_on_both_sides_of_a_limit() -> None:
    values = np.random.default_rng(4).normal(0.0, 1.0, 2000)
    bins = histogram(values, (-1.234, 0.987, 50.0))
    assert bins is not None
    assert {-1.234, 0.987} <= set(bins.edges.tolist())
    assert bins.counts.sum() == 2000
    outside = bins.counts[bins.edges[1:] <= -1.234].sum()
    assert outside == np.sum(values < -1.234)


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
