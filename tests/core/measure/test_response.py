import numpy as np
import pytest

from tests.core.measure.taking import taken
from verdad_core.arrays import Complexes
from verdad_core.errors import MeasurementError
from verdad_core.measure.response import ENTRIES, lower_cutoff, passband_gain, upper_cutoff
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import HERTZ, NONE

FREQUENCY = np.geomspace(1, 1e6, 301)


def test_cutoffs_of_a_band_pass_lie_where_the_closed_form_says() -> None:
    """H = j(f/Q f0) / (1 - (f/f0)² + j f/(Q f0)): half-power points f0 (sqrt(1 + 1/4Q²) ± 1/2Q)."""
    f0, q = 3e3, 0.5
    x = 1j * FREQUENCY / f0
    response: Complexes = 7 * (x / q) / (1 + x * x + x / q)
    half = np.sqrt(1 + 1 / (4 * q * q))
    # Interpolation between 50 points per decade: cubic for the crossing, parabola for the peak.
    assert passband_gain(FREQUENCY, response) == pytest.approx(7, rel=1e-7)
    assert upper_cutoff(FREQUENCY, response) == pytest.approx(f0 * (half + 1 / (2 * q)), rel=1e-6)
    assert lower_cutoff(FREQUENCY, response) == pytest.approx(f0 * (half - 1 / (2 * q)), rel=1e-6)


def test_a_peaking_response_is_measured_from_its_peak() -> None:
    """Butterworth pole pair with Q = 2: the peak is Q / sqrt(1 - 1/4Q²) (any text on filters)."""
    x = 1j * FREQUENCY / 1e3
    response: Complexes = np.asarray(1 / (1 + x / 2 + x * x))
    assert passband_gain(FREQUENCY, response) == pytest.approx(2 / np.sqrt(1 - 1 / 16), rel=1e-4)


@pytest.mark.parametrize("measure", [upper_cutoff, lower_cutoff])
def test_a_response_that_does_not_fall_has_no_cutoff(measure) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(MeasurementError, match="does not fall by 3 dB") as caught:
        measure(FREQUENCY, np.ones_like(FREQUENCY, dtype=complex))
    assert "frequency range" in caught.value.remedy


def test_every_entry_measures_a_low_pass_or_says_why_not() -> None:
    response: Complexes = np.asarray(1 / (1 + 1j * FREQUENCY / 1e3))
    trace = Trace(response, NONE, Axis("frequency", HERTZ, FREQUENCY))
    for entry in ENTRIES:
        try:
            assert np.isfinite(taken(entry.key, trace))
        except MeasurementError:
            assert entry.key == "lower_cutoff"
