"""What engine/extrapolation.py says of its rule, by the roots of its difference equation."""

import numpy as np
import pytest

from verdad_core.engine.extrapolation import DAMPING


def largest_root(z: complex, damping: float = DAMPING) -> complex:
    """By what v' = λ v grows in a step at most, z = hλ: the largest root of the rule with v0 = r v1."""
    w = 1 / (1 - z / 2)
    trapezoidal = (1 + z / 2) * w
    share = ((1 + damping) * w**2 - damping * w) * z / 12
    roots = np.roots([1, -(trapezoidal - share * (trapezoidal - 2)), share])
    return complex(roots[np.argmax(np.abs(roots))])


def most(damping: float) -> float:
    """The largest of all over the left half plane."""
    angles, sizes = np.linspace(np.pi / 2, np.pi, 31), np.geomspace(1e-2, 1e5, 300)
    return max(abs(largest_root(m * np.exp(1j * angle), damping)) for angle in angles for m in sizes)


def test_nothing_grows_that_should_not() -> None:
    assert most(DAMPING) < 1 + 1e-9
    assert most(0.11) < 1 + 1e-9
    assert most(0.1) > 1.001
    assert most(0.0) == pytest.approx(1.037, abs=1e-3)


def test_what_is_fast_dies_by_a_seventh_a_step() -> None:
    assert largest_root(-1e9) == pytest.approx(-6 / 7, abs=0.01)


@pytest.mark.parametrize("angle", [0.05, 0.1, 0.2])
def test_what_rings_loses_little_and_keeps_its_period(angle: float) -> None:
    """Losses and lags are those of the text to their next order, a few per cent."""
    root = largest_root(1j * angle)
    assert 1 - abs(root) == pytest.approx(angle**4 / 66, rel=0.04)
    assert 1 - np.angle(root) / angle == pytest.approx(angle**4 / 41, rel=0.04)
