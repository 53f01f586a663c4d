from typing import Any

import numpy as np
import pytest
from scipy import stats

from verdad_core.spreads.distributions import DISTRIBUTIONS
from verdad_core.spreads.draw import draw

REFERENCE: dict[str, Any] = {
    "uniform": stats.uniform(-1, 2),
    "normal": stats.truncnorm(-3, 3, scale=1 / 3),
    "triangular": stats.triang(0.5, -1, 2),
    "arcsine": stats.arcsine(-1, 2),
    # Uniform on both sides of the half that was sorted out.
    "bimodal": stats.rv_histogram((np.array([1.0, 0.0, 0.0, 1.0]), np.linspace(-1.0, 1.0, 5))),
}


@pytest.mark.parametrize("distribution", list(DISTRIBUTIONS))
def test_draws_follow_their_distribution(distribution: str) -> None:
    """Kolmogorov-Smirnov against scipy.stats at fixed seed: 20,000 draws would miss a shift of 2 % of the tolerance."""
    sample = draw(12, "R7", distribution, 20_000)
    assert stats.kstest(sample, REFERENCE[distribution].cdf).pvalue > 0.01
    assert np.max(np.abs(sample)) <= 1


def test_the_form_of_a_distribution_is_chosen() -> None:
    """Limits at two standard deviations; and a narrow gap."""
    two = draw(3, "R1", "normal", 20_000, 2.0)
    assert stats.kstest(two, stats.truncnorm(-2, 2, scale=1 / 2).cdf).pvalue > 0.01
    narrow = draw(3, "R1", "bimodal", 20_000, 0.1)
    assert np.min(np.abs(narrow)) >= 0.1
    assert stats.kstest(np.abs(narrow), stats.uniform(0.1, 0.9).cdf).pvalue > 0.01


def test_rows_do_not_depend_on_how_many_are_drawn_or_on_other_parts() -> None:
    long = draw(1, "R1", "uniform", 1000)
    assert np.array_equal(draw(1, "R1", "uniform", 400), long[:400])
    assert np.array_equal(draw(1, "R1", "uniform", 1000), long)


def test_parts_and_seeds_are_independent() -> None:
    first, other_part, other_seed = (
        draw(seed, part, "uniform", 5000) for seed, part in ((1, "R1"), (1, "R2"), (2, "R1"))
    )
    # For 5000 pairs of independent draws the correlation's standard deviation is 0.014: four of them.
    assert abs(np.corrcoef(first, other_part)[0, 1]) < 0.057
    assert abs(np.corrcoef(first, other_seed)[0, 1]) < 0.057
