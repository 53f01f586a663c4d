from typing import Any

import numpy as np
import pytest
from scipy import stats

from verdad_core.spreads.distributions import DISTRIBUTIONS
from verdad_core.spreads.draw import Draws, Evenly, PseudoRandom, draw

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
    sample = draw(PseudoRandom(12), "R7", distribution, 0, 20_000)
    assert stats.kstest(sample, REFERENCE[distribution].cdf).pvalue > 0.01
    assert np.max(np.abs(sample)) <= 1


def test_the_form_of_a_distribution_is_chosen() -> None:
    """Limits at two standard deviations; and a narrow gap."""
    two = draw(PseudoRandom(3), "R1", "normal", 0, 20_000, 2.0)
    assert stats.kstest(two, stats.truncnorm(-2, 2, scale=1 / 2).cdf).pvalue > 0.01
    narrow = draw(PseudoRandom(3), "R1", "bimodal", 0, 20_000, 0.1)
    assert np.min(np.abs(narrow)) >= 0.1
    assert stats.kstest(np.abs(narrow), stats.uniform(0.1, 0.9).cdf).pvalue > 0.01


def test_rows_do_not_depend_on_how_many_are_drawn_or_on_other_parts() -> None:
    long = draw(PseudoRandom(1), "R1", "uniform", 0, 1000)
    assert np.array_equal(draw(PseudoRandom(1), "R1", "uniform", 0, 400), long[:400])
    assert np.array_equal(draw(PseudoRandom(1), "R1", "uniform", 0, 1000), long)


def test_parts_and_seeds_are_independent() -> None:
    first, other_part, other_seed = (
        draw(PseudoRandom(seed), part, "uniform", 0, 5000) for seed, part in ((1, "R1"), (1, "R2"), (2, "R1"))
    )
    # For 5000 pairs of independent draws the correlation's standard deviation is 0.014: four of them.
    assert abs(np.corrcoef(first, other_part)[0, 1]) < 0.057
    assert abs(np.corrcoef(first, other_seed)[0, 1]) < 0.057


def test_evenly_drawn_rows_do_not_depend_on_how_many_are_drawn_and_fill_what_there_is() -> None:
    """Scrambled Sobol' points: of 1,024 rows each 1/1,024 of a stream holds one, and any product's mean errs far less.

    Owen (1997): the variance of the mean of a smooth function falls nearly as 1/n³. Drawn at random it is 1/n.
    """
    names = [f"R{k}" for k in range(6)]
    evenly = Evenly(5, names)
    streams = [evenly.between(name, 0, 1024) for name in names]
    for name, stream in zip(names, streams, strict=True):
        assert np.array_equal(np.sort(np.floor(1024 * stream)), np.arange(1024))
        for start, stop in ((0, 1), (0, 10), (1, 2), (7, 500), (1000, 1024)):
            assert np.array_equal(Evenly(5, names).between(name, start, stop), stream[start:stop])

    def mean(draws: Draws) -> float:
        return float(np.mean(np.prod([1 + draws.between(name, 0, 1024) - 0.5 for name in names], axis=0)))

    evenly_errors, errors = ([abs(mean(kind(seed)) - 1.0) for seed in range(20)]
                             for kind in (lambda seed: Evenly(seed, names), PseudoRandom))  # fmt: skip
    assert np.mean(evenly_errors) < 0.1 * np.mean(errors)
