"""Conversions, stability and gain against scikit-rf, on networks of random numbers."""

import numpy as np
import pytest
import skrf

from verdad_core.analyses import network


@pytest.fixture(scope="module")
def two() -> skrf.Network:
    rng = np.random.default_rng(1)
    s = 0.4 * (rng.normal(size=(40, 2, 2)) + 1j * rng.normal(size=(40, 2, 2)))
    return skrf.Network(f=np.arange(1.0, 41.0), s=s, z0=[50.0, 75.0])


def test_other_parameters_are_those_of_a_library(two: skrf.Network) -> None:
    ohms = np.array([50.0, 75.0])
    assert network.to_z(two.s, ohms) == pytest.approx(two.z, rel=1e-9)
    assert network.to_y(two.s, ohms) == pytest.approx(two.y, rel=1e-9)
    assert network.to_h(two.s, ohms) == pytest.approx(two.h, rel=1e-9)


def test_stability_and_gain_are_those_of_a_library(two: skrf.Network) -> None:
    assert network.rollett(two.s) == pytest.approx(two.stability, rel=1e-9)
    assert network.largest_gain(two.s) == pytest.approx(two.max_gain, rel=1e-9)
    # μ and K with Δ speak alike (Edwards and Sinsky 1992).
    delta = np.linalg.det(two.s)
    assert np.array_equal(network.mu(two.s) > 1.0, (network.rollett(two.s) > 1.0) & (np.abs(delta) < 1.0))


def test_what_has_no_impedance_matrix_is_no_number() -> None:
    """A resistor in series has admittances only: its S-parameters at 50 Ω on both sides (any text)."""
    series = np.array([[[1 / 3, 2 / 3], [2 / 3, 1 / 3]]], complex)
    ohms = np.array([50.0, 50.0])
    assert np.all(np.isnan(network.to_z(series, ohms)))
    assert network.to_y(series, ohms)[0] == pytest.approx(np.array([[0.02, -0.02], [-0.02, 0.02]]))
    assert network.seen(series, ohms)[0] == pytest.approx([100.0, 100.0])
