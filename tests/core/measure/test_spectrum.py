"""Fourier series, distortion and spectra of waveforms whose content is known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.errors import MeasurementError
from verdad_core.measure.spectrum import WINDOWS, fourier, spectrum


def uneven(stop: float, count: int) -> np.ndarray:
    steps = np.random.default_rng(1).uniform(0.5, 1.5, count)
    return np.concatenate([[0.0], np.cumsum(steps) / steps.sum() * stop])


@given(st.floats(-3, 3), st.floats(0.1, 2), st.floats(-3, 3), st.floats(0.0, 0.2))
def test_the_series_of_two_sines_at_uneven_points(mean: float, size: float, angle: float, second: float) -> None:
    t = uneven(3e-3, 3000)
    w = 2 * np.pi * 1e3
    v = mean + size * np.cos(w * t + angle) + second * np.cos(2 * w * t)
    found = fourier(t, v, 1e3)
    assert found.mean == pytest.approx(mean, abs=1e-5)
    assert found.coefficients[:3] == pytest.approx([size * np.exp(1j * angle), second, 0], abs=2e-5)
    assert found.distortion == pytest.approx(second / size, abs=1e-3)


def test_a_square_waves_harmonics() -> None:
    """4 / (pi k) for odd k, a distortion of sqrt(pi^2 / 8 - 1) = 48.3 % with all harmonics (textbook series)."""
    t = np.unique(np.concatenate([k * 0.5e-3 + np.array([0, 1e-9, 0.25e-3]) for k in range(9)]))
    v = np.where(np.floor((t - 0.5e-9) / 0.5e-3) % 2 == 0, 1.0, -1.0)
    found = fourier(t, v, 1e3, 99)
    assert found.magnitudes[:9:2] == pytest.approx(4 / np.pi / np.arange(1, 10, 2), rel=5e-3)
    assert found.magnitudes[1:9:2] == pytest.approx(np.zeros(4), abs=2e-3)
    assert found.distortion == pytest.approx(0.483, abs=0.005)


@pytest.mark.parametrize("window", WINDOWS)
def test_a_sine_on_a_line_has_its_peak_value_under_any_window(window: str) -> None:
    t = uneven(10e-3, 20000)
    found = spectrum(t, 0.5 + 1.5 * np.sin(2 * np.pi * 4e3 * t), 0, 10e-3, 4096, window)
    assert found.amplitude[np.argmin(abs(found.frequency - 4e3))] == pytest.approx(1.5, rel=1e-3)
    assert found.amplitude[0] == pytest.approx(0.5, rel=1e-2)
    # Noise bandwidths in lines: Harris 1978, table 1 (flat top: from memory).
    lines = {"rectangular": 1.0, "hann": 1.5, "blackman-harris": 2.0, "flat top": 3.77}[window]
    assert found.resolution == pytest.approx(lines * 100, rel=0.01)


def test_what_the_waveform_does_not_hold() -> None:
    t = np.linspace(0, 1e-3, 100)
    with pytest.raises(MeasurementError, match="no whole period of 500 Hz"):
        fourier(t, np.sin(t), 500)
    with pytest.raises(MeasurementError, match="no window 'round'"):
        spectrum(t, t, 0, 1e-3, window="round")
    with pytest.raises(MeasurementError, match="does not hold the stretch"):
        spectrum(t, t, 0, 2e-3)
