"""Devices' noise in time against its density."""

import numpy as np
import pytest
from scipy.signal import welch

from tests.core.analyses.in_time import trace
from tests.core.circuits import structure
from verdad_core.analyses.marcher import NoiseInTime
from verdad_core.analyses.transient import transient
from verdad_core.engine.matrix import ParameterMatrix


def test_a_capacitor_on_a_resistor_has_kt_over_c() -> None:
    """Johnson and Nyquist 1928, less what straight lines between drawings take: sinc^4 of frequency times interval."""
    interval, stop, tau = 2e-7, 8e-3, 1e-6
    found = trace(
        "r1 a 0 1meg\nc1 a 0 1p", stop, ["a"], times=np.arange(0, stop, interval), noise=NoiseInTime(interval)
    )
    f = np.linspace(0, 200 / tau, 1_000_000)
    kept = 4 * tau * np.trapezoid(np.sinc(f * interval) ** 4 / (1 + (2 * np.pi * f * tau) ** 2), f)
    # 8000 time constants: the variance of one run spreads by 2 %.
    assert np.var(found.values[0]) == pytest.approx(kept * 1.380649e-23 * 300.15 / 1e-12, rel=0.06)


def test_white_and_flicker_noise_have_their_densities() -> None:
    interval, stop, corner = 2e-6, 0.4, 1e4
    text = f"i1 0 a dc 0 density=1n corner={corner}\nr1 a 0 1"
    found = trace(text, stop, ["a"], times=np.arange(0, stop, interval), noise=NoiseInTime(interval, seed=3))
    f, density = welch(found.values[0], 1 / interval, nperseg=1 << 15)
    # The lowest band holds 16 lines of 12 stretches: a spread of 7 %.
    for low, high, within in ((60, 300, 0.2), (500, 2e3, 0.1), (5e3, 2e4, 0.1), (3e4, 8e4, 0.1)):
        band = (f > low) & (f < high)
        assert np.mean(density[band] / (1e-18 * (1 + corner / f[band]))) == pytest.approx(1, abs=within)


def test_a_seed_repeats_and_rows_differ() -> None:
    circuit = structure("r1 a 0 1meg\nc1 a 0 1p")
    matrix = ParameterMatrix.varied(circuit, {("r1", "resistance"): np.array([1e6, 1e6])})
    times = np.linspace(0, 1e-5, 50)
    runs = [
        transient(circuit, 1e-5, [("a", "0")], matrix=matrix, times=times, noise=NoiseInTime(1e-7, seed))
        for seed in (1, 1, 5)
    ]
    assert (runs[0].trace(0).values == runs[1].trace(0).values).all()
    assert not (runs[0].trace(0).values == runs[0].trace(1).values).all()
    assert not (runs[0].trace(0).values == runs[2].trace(0).values).all()
