"""Measurements of waveforms against the closed forms of first- and second-order steps."""

import math

import numpy as np
import pytest
from pydantic import ValidationError
from scipy import signal

from tests.core.measure.taking import taken
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import unit_of
from verdad_core.measure.registry import MEASUREMENTS
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import HERTZ, SECONDS, VOLTS

T = np.linspace(0.0, 20.0, 20_001)
FIRST = 1 - np.exp(-T)


def number(key: str, y: np.ndarray, at: float = math.nan) -> float:
    return taken(key, Trace(y, VOLTS, Axis("time", SECONDS, T)), at)


def test_the_step_of_a_pole() -> None:
    """1 - e^(-t): 10 to 90 % in ln 9 = 2.197, within 1 % of its end after ln 100 (common practice, no source)."""
    assert number("rise_time", FIRST) == pytest.approx(math.log(9), rel=1e-6)
    assert number("settling_time", FIRST, 1.0) == pytest.approx(math.log(100), rel=1e-5)
    assert number("crossing", FIRST, 0.5) == pytest.approx(math.log(2), rel=1e-6)
    assert number("value", FIRST, 1.0) == pytest.approx(1 - 1 / math.e, rel=1e-9)
    assert number("overshoot", FIRST) == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize("damping", [0.2, 0.5, 0.7])
def test_the_overshoot_of_a_pole_pair(damping: float) -> None:
    """e^(-πζ/√(1-ζ²)) (Ogata, Modern Control Engineering, section 5-3), on SciPy's step response."""
    _, y = signal.step(([1.0], [1.0, 2 * damping, 1.0]), T=np.linspace(0, 60, 60_001))
    axis = Axis("time", SECONDS, np.linspace(0, 60, 60_001))
    found = taken("overshoot", Trace(y, VOLTS, axis))
    assert found == pytest.approx(100 * math.exp(-math.pi * damping / math.sqrt(1 - damping**2)), rel=1e-4)


def test_means_of_a_sine_with_uneven_steps() -> None:
    t = np.sort(np.concatenate([np.linspace(0, 1, 1500), np.random.default_rng(1).uniform(0, 1, 1500)]))
    trace = Trace(2 + np.sin(2 * np.pi * t), VOLTS, Axis("time", SECONDS, t))
    assert taken("mean", trace) == pytest.approx(2.0, abs=1e-5)
    assert taken("rms", trace) == pytest.approx(math.sqrt(4.5), rel=1e-5)
    assert taken("peak_to_peak", trace) == pytest.approx(2.0, rel=1e-4)
    assert taken("maximum_place", trace) == pytest.approx(0.25, abs=2e-3)


def test_of_a_sweep_there_and_back_the_way_there_counts() -> None:
    """A switching threshold at 1.5 on the way up and 0.5 on the way down."""
    x, y = np.array([0.0, 1.0, 2.0, 1.0, 0.0]), np.array([0.0, 0.0, 5.0, 5.0, 0.0])
    trace = Trace(y, VOLTS, Axis("vin", VOLTS, x))
    assert taken("value", trace, 1.5) == 2.5
    assert taken("value", trace, 0.0) == 0.0
    assert taken("crossing", trace, 2.5) == 1.5
    falling = Trace(np.array([3.0, 1.0]), VOLTS, Axis("vin", VOLTS, np.array([2.0, 0.0])))
    assert taken("value", falling, 1.0) == 2.0


def test_units_follow_the_trace_or_its_axis() -> None:
    trace = Trace(FIRST, VOLTS, Axis("time", SECONDS, T))
    found = {
        key: unit_of(MEASUREMENTS[key], trace) for key in ("maximum", "rise_time", "overshoot", "passband_gain_db")
    }
    assert found == {"maximum": "V", "rise_time": "s", "overshoot": "%", "passband_gain_db": "dB"}


def test_what_a_trace_does_not_hold_is_refused() -> None:
    with pytest.raises(MeasurementError, match="does not cross 2"):
        number("crossing", FIRST, 2.0)
    with pytest.raises(MeasurementError, match="outside"):
        number("value", FIRST, 50.0)
    with pytest.raises(ValidationError, match="level"):
        number("crossing", FIRST)
    with pytest.raises(MeasurementError, match="over frequency"):
        number("upper_cutoff", FIRST)
    with pytest.raises(MeasurementError, match="along an axis"):
        taken("mean", Trace(np.asarray(1.0), VOLTS))
    assert taken("value", Trace(np.asarray(1.5), VOLTS)) == 1.5


def test_a_level_is_crossed_on_the_edge_and_for_the_time_that_is_asked_for() -> None:
    trace = Trace(np.sin(2 * np.pi * T), VOLTS, Axis("time", SECONDS, T))
    assert taken("crossing", trace, 0.5) == pytest.approx(1 / 12, rel=1e-5)
    assert taken("crossing", trace, 0.5, edge="falling") == pytest.approx(5 / 12, rel=1e-5)
    assert taken("crossing", trace, 0.5, edge="rising", which=3) == pytest.approx(2 + 1 / 12, rel=1e-5)
    with pytest.raises(MeasurementError, match="30 times"):
        taken("crossing", trace, 0.5, edge="rising", which=30)


def test_a_window_is_measured_alone() -> None:
    """e^(-t) between two instants: its ends, its mean (1/e - 1/e^3)/2, and what lies outside of the trace."""
    decay = Trace(np.exp(-T), VOLTS, Axis("time", SECONDS, T))
    assert taken("maximum", decay, since="1", until="3") == pytest.approx(math.exp(-1), rel=1e-6)
    assert taken("final", decay, until="2.0005") == pytest.approx(math.exp(-2.0005), rel=1e-6)
    assert taken("mean", decay, since="1", until="3") == pytest.approx((math.exp(-1) - math.exp(-3)) / 2, rel=1e-6)
    with pytest.raises(MeasurementError, match="no stretch of the trace"):
        taken("maximum", decay, since="3", until="1")
    with pytest.raises(MeasurementError, match="no stretch of the trace"):
        taken("maximum", decay, until="30")


def test_a_band_of_white_and_of_flicker_noise() -> None:
    """White noise e over a band is e √(high - low); 1/f noise k/√f is k √ln(high/low): integrals written out."""
    frequency = np.geomspace(1.0, 1e5, 251)
    axis = Axis("frequency", HERTZ, frequency)
    white = Trace(np.full(251, 5e-9), VOLTS / HERTZ**0.5, axis)
    assert taken("band_rms", white, low="100", high="10k") == pytest.approx(5e-9 * math.sqrt(9_900), rel=1e-9)
    flicker = Trace(1e-6 / np.sqrt(frequency), VOLTS / HERTZ**0.5, axis)
    assert taken("band_rms", flicker, low="10", high="1k") == pytest.approx(1e-6 * math.sqrt(math.log(100)), rel=1e-9)
    assert unit_of(MEASUREMENTS["band_rms"], white) == "V"
    with pytest.raises(MeasurementError, match="does not hold the band"):
        taken("band_rms", white, high="1M")
    with pytest.raises(MeasurementError, match="no density"):
        taken("band_rms", Trace(np.ones(251), VOLTS, axis))
