import numpy as np
import pytest
from scipy import stats

from tests.core.circuits import structure
from verdad_core.spreads.draw import Distribution
from verdad_core.spreads.spread import Spread
from verdad_core.studies.monte_carlo import monte_carlo_rows

CIRCUIT = "v1 in 0 ac 1\nR1 in out 1k\nC1 out 0 1u"
KEYS = {"R1": ("r1", "resistance"), "C1": ("c1", "capacitance")}


def test_values_fill_their_tolerance() -> None:
    circuit = structure(CIRCUIT)
    spreads = [Spread(part="R1", tolerance=2), Spread(part="C1", tolerance=10, distribution=Distribution.NORMAL)]
    matrix = monte_carlo_rows(circuit, spreads, KEYS, 4, 0, 4000)
    assert matrix.values[:, 0].min() >= 980
    assert matrix.values[:, 0].max() <= 1020
    assert stats.kstest(matrix.values[:, 0], stats.uniform(980, 40).cdf).pvalue > 0.01
    assert np.std(matrix.values[:, 1]) == pytest.approx(1e-7 * stats.truncnorm(-3, 3, scale=1 / 3).std(), rel=0.05)


def test_blocks_are_cuts_of_the_whole() -> None:
    circuit = structure(CIRCUIT)
    spreads = [Spread(part="R1", tolerance=5)]
    whole = monte_carlo_rows(circuit, spreads, KEYS, 9, 0, 100).values
    parts = [monte_carlo_rows(circuit, spreads, KEYS, 9, start, start + 25).values for start in range(0, 100, 25)]
    assert np.array_equal(np.concatenate(parts), whole)


def test_without_spreads_every_row_is_nominal() -> None:
    circuit = structure(CIRCUIT)
    matrix = monte_carlo_rows(circuit, [], KEYS, 1, 0, 7)
    assert matrix.rows == 7
    assert np.all(matrix.values == 27.0)
