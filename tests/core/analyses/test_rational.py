"""Rational functions through responses, against SciPy's filters, whose poles they are to find."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal

from verdad_core.analyses.rational import fitted

HERTZ = np.concatenate([[0.0], np.geomspace(10.0, 1e5, 200)])
S = 2j * np.pi * HERTZ
FILTERS = {
    "Butterworth": signal.butter(4, 2 * np.pi * 1e3, analog=True),
    "elliptic": signal.ellip(5, 1, 40, 2 * np.pi * 3e3, analog=True),
    "Chebyshev": signal.cheby1(8, 1, 2 * np.pi * 2e3, analog=True),
    "band-pass": signal.butter(2, [2 * np.pi * 900, 2 * np.pi * 1100], "bandpass", analog=True),
}


@pytest.mark.parametrize("name", FILTERS)
def test_the_poles_of_a_filter_are_found(name: str) -> None:
    """To the rounding of the polynomials from which SciPy's own roots come."""
    above, below = FILTERS[name]
    found = fitted(HERTZ, np.polyval(above, S) / np.polyval(below, S), 1e-9)
    assert found.error < 1e-9
    for pole in np.roots(below):
        assert np.min(np.abs(found.poles - pole)) < 1e-5 * abs(pole)
    assert np.all(found.poles.real < 0)


def test_its_sections_are_real_and_add_up_to_it() -> None:
    above, below = np.poly([-1e3, -5e4]), np.poly([-2e2 + 3e3j, -2e2 - 3e3j, -1e5])
    values = np.polyval(above, S) / np.polyval(below, S)
    found = fitted(HERTZ, values, 1e-9)
    total = found.constant + sum(np.polyval(n[::-1], S) / np.polyval(d[::-1], S) for n, d in found.sections())
    assert total == pytest.approx(values, abs=1e-8 * np.max(np.abs(values)))
    assert found.at(S) == pytest.approx(total)


def test_a_delay_is_approached_with_order() -> None:
    """As by Padé's functions, which reach it with all-pass pairs; what is left is told."""
    values = np.exp(-S * 20e-6)
    coarse, fine = fitted(HERTZ, values, 0.05), fitted(HERTZ, values, 1e-4)
    assert len(coarse.poles) < len(fine.poles)
    for found in (coarse, fine):
        assert found.error == pytest.approx(np.max(np.abs(found.at(S) - values)))
    assert fine.error < 1e-4


def test_what_is_flat_and_what_is_nothing_need_no_poles() -> None:
    assert fitted(HERTZ, np.full(len(HERTZ), 3.0 + 0j), 1e-6).constant == pytest.approx(3.0)
    assert len(fitted(HERTZ, np.full(len(HERTZ), 3.0 + 0j), 1e-6).poles) == 0
    assert fitted(HERTZ, np.zeros(len(HERTZ), complex), 1e-6).constant == 0.0


def test_poles_stay_stable_where_none_would_be_right() -> None:
    """The phase leads while the size falls, which only an unstable system does: near, not equal, and stable."""
    found = fitted(HERTZ, 1.0 / (1.0 - S / 6e3), 1e-3)
    assert found.error > 0.1
    assert np.all(found.poles.real < 0)
