import numpy as np
import pytest
from scipy import stats

from verdad_core.spreads.distributions import DISTRIBUTIONS
from verdad_core.spreads.distributions.normal import SIGMAS
from verdad_core.spreads.draw import draw

REFERENCE = {
    "uniform": stats.uniform(-1, 2),
    "normal": stats.truncnorm(-SIGMAS, SIGMAS, scale=1 / SIGMAS),
    "triangular": stats.triang(0.5, -1, 2),
}


@pytest.mark.parametrize("distribution", list(DISTRIBUTIONS))
def test_draws_follow_their_distribution(distribution: str) -> None:
    """Kolmogorov-Smirnov against scipy.stats at fixed seed: 20,000 draws would miss a shift of 2 % of the tolerance."""
    sample = draw(12, "R7", distribution, 20_000)
    assert stats.kstest(sample, REFERENCE[distribution].cdf).pvalue > 0.01
    assert np.max(np.abs(sample)) <= 1


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
