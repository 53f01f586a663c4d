"""Measurements on steps, periodic waveforms, transfer curves, responses and densities, by closed forms.

Where there is no answer, it is said to be none.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy.constants import k

from tests.core.measure.taking import taken
from tests.core.measure.test_contract import F, T, on, pole
from verdad_core.arrays import Values
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import unit_of
from verdad_core.measure.registry import MEASUREMENTS
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, NONE, SECONDS, VOLTS, Unit

STEP = 1 - np.exp(-T)
#: Ten periods of a sine of 0.5 Hz, of one with a tenth of the third harmonic, and of a pulse.
SINE = np.sin(math.pi * T)
BENT = SINE + 0.1 * np.sin(3 * math.pi * T)
FINE = np.linspace(0.0, 20.0, 40_001)
PULSE = np.where(FINE % 2.0 < 0.5, 5.0, 0.0)


@pytest.mark.parametrize(
    ("key", "trace", "expected", "tolerance"),
    [
        ("half_way", on(T, STEP), math.log(2), 1e-4),
        ("undershoot", on(T, 1 - (1 + 2 * T) * np.exp(-T) * 1.0 - 0.0 * T), 100 * 0.2131, 1e-2),
        ("undershoot", on(T, STEP), 0.0, 1e-9),
        ("slew_rate", on(T, np.clip(3 * (T - 5), 0.0, 6.0)), 3.0, 1e-3),
        # Up at 3 V/s, down at 5 V/s: the steeper side counts.
        ("slew_rate", on(FINE, np.clip(np.minimum(3 * (FINE - 2), 46 - 5 * FINE), 0, 6)), 5.0, 1e-3),
        ("integral", on(T, STEP), 20 - (1 - math.exp(-20)), 1e-5),
        ("period", on(T, SINE), 2.0, 1e-4),
        ("duty", on(FINE, PULSE), 25.0, 5e-3),
        ("duty", on(T, SINE), 50.0, 1e-3),
        ("ripple", on(T, 3 + 0.5 * SINE), 1.0, 1e-3),
        ("crest_factor", on(T, SINE), math.sqrt(2), 1e-3),
        ("crest_factor", on(T, np.where(T < 30, -3.0, 0.0)), 1.0, 1e-9),
        ("distortion", on(T, BENT), 10.0, 1e-3),
        # A pulse of a quarter: harmonics sin(kπ/4)/k, from the second to the ninth by the first (Fourier, 1822).
        ("distortion", on(FINE, PULSE),
         100 * math.hypot(*(math.sin(n * math.pi / 4) / n for n in range(2, 10))) / math.sin(math.pi / 4), 1e-2),
        ("sinad", on(T, BENT), 20.0, 1e-3),
        ("slope", on(FINE, FINE**2, along=VOLTS), 6.0, 1e-6),
        # A parabola on 0..1 lies farthest from its line of least squares at the ends: 1/6 of its swing.
        ("linearity_error", on(np.linspace(0, 1, 4001), np.linspace(0, 1, 4001) ** 2, along=VOLTS), 100 / 6, 1e-3),
        ("linearity_error", on(FINE, 3 - 2 * FINE, along=VOLTS), 0.0, 1e-9),
    ],
)  # fmt: skip
def test_numbers(key: str, trace: Trace, expected: float, tolerance: float) -> None:
    place: Any = {"place": "3"} if key == "slope" else {}
    assert taken(key, trace, **place) == pytest.approx(expected, rel=tolerance, abs=1e-9)


def test_hysteresis_of_a_switch_that_remembers() -> None:
    """Up at 2.2 V, down at 1.9 V."""
    up, down = np.linspace(0, 5, 5001), np.linspace(5, 0, 5001)[1:]
    y = np.concatenate([np.where(up > 2.2, 5.0, 0.0), np.where(down > 1.9, 5.0, 0.0)])
    both = on(np.concatenate([up, down]), y, along=VOLTS)
    assert taken("hysteresis", both) == pytest.approx(0.3, abs=2e-3)
    assert unit_of(MEASUREMENTS["hysteresis"], both) == "V"
    with pytest.raises(MeasurementError, match="does not come back"):
        taken("hysteresis", on(up, y[: len(up)], along=VOLTS))


@pytest.mark.parametrize(
    ("key", "trace", "words"),
    [
        ("half_way", on(T, SINE), ""),
        ("slew_rate", on(T, np.zeros(len(T))), "does not move"),
        ("period", on(T, STEP), "does not repeat"),
        ("duty", on(T, np.sin(T / 7)), "does not repeat"),
        ("distortion", on(T[T < 3], SINE[T < 3]), "does not repeat"),
        ("distortion", on(T, SINE, thinned=True), "more points"),
        ("crest_factor", on(T, np.zeros(len(T))), "no crest"),
        ("linearity_error", on(T, np.ones(len(T)), along=VOLTS), "does not move"),
        ("slope", on(T, T, along=VOLTS), "outside the curve"),
        ("integral", on(T[:1], T[:1] * np.nan), ""),
    ],
)
def test_an_absent_answer_is_said_to_be_absent(key: str, trace: Trace, words: str) -> None:
    place: Any = {"place": "30"} if key == "slope" else {}
    with pytest.raises(MeasurementError, match=words):
        taken(key, trace, **place)


def response(values: Values) -> Trace:
    return Trace(values, NONE, Axis("frequency", HERTZ, F))


def second(corner: float, q: float) -> Values:
    s = 1j * F / corner
    return np.asarray(1 / (1 + s / q + s**2))


@pytest.mark.parametrize(
    ("key", "values", "place", "expected", "tolerance"),
    [
        ("gain_at", pole(1e3), "1k", -10 * math.log10(2), 1e-3),
        ("phase_at", pole(1e3), "1k", -45.0, 1e-3),
        ("phase_at", second(1e3, 1.0), "1meg", -180.0, 1e-3),
        ("roll_off", pole(1e3), "200k", -20.0, 1e-3),
        ("roll_off", second(1e3, 1.0), "200k", -40.0, 1e-3),
        # Q = 2: Q / √(1 - 1/4Q²) (second-order low-pass; any text on filters).
        ("peaking", second(1e3, 2.0), "", 20 * math.log10(2 / math.sqrt(1 - 1 / 16)), 1e-3),
        ("peaking", pole(1e3), "", 0.0, 1e-9),
        # π/2 of a corner; of two poles alike π/4; of a Butterworth pair π/(2√2) (any text on noise).
        ("noise_bandwidth", 7 * pole(1e3), "", 1e3 * math.pi / 2, 1e-3),
        ("noise_bandwidth", pole(1e3) ** 2, "", 1e3 * math.pi / 4, 1e-3),
        ("noise_bandwidth", second(1e3, math.sqrt(0.5)), "", 1e3 * math.pi / (2 * math.sqrt(2)), 1e-3),
    ],
)
def test_of_responses(key: str, values: Values, place: str, expected: float, tolerance: float) -> None:
    given: Any = {"place": place} if place else {}
    assert taken(key, response(values), **given) == pytest.approx(expected, rel=tolerance, abs=1e-9)


@pytest.mark.parametrize(
    ("key", "values", "words"),
    [("noise_bandwidth", 1 - pole(1e3), "not fallen"), ("peaking", 1 - pole(1e3), "not level"),
     ("roll_off", pole(1e3), "within the sweep"), ("gain_at", pole(1e3), "outside")],
)  # fmt: skip
def test_responses_without_an_answer(key: str, values: Values, words: str) -> None:
    given: Any = {"place": "100meg"} if key in ("roll_off", "gain_at") else {}
    with pytest.raises(MeasurementError, match=words):
        taken(key, response(values), **given)


def test_a_magnitude_has_no_phase() -> None:
    with pytest.raises(MeasurementError, match="has no phase"):
        taken("phase_at", response(np.abs(pole(1e3))))


def white(density: float, unit: Unit = VOLTS) -> Trace:
    return Trace(np.full(len(F), density), unit * HERTZ**-0.5, Axis("frequency", HERTZ, F))


@pytest.mark.parametrize(
    ("key", "settings", "expected"),
    [
        # 10 nV/√Hz over 10 kHz is 1 µV; 6.6 µV peak to peak; against 10 mV that is 80 dB.
        ("band_rms", {}, 1e-6),
        ("noise_peak_to_peak", {}, 6.6e-6),
        ("signal_to_noise", {"signal": "10m"}, 80.0),
        # So little noise that the steps are all of it: an ideal converter has all of its bits (IEEE 1241).
        ("effective_bits", {"full_scale": "2.5", "bits": 12}, 12.0),
        # As much noise as its own steps make: half a bit less.
        ("effective_bits", {"full_scale": 1e-6 * math.sqrt(12) * 2**16, "bits": 16}, 15.5),
        # What is added to a source of 50 Ω at 27 °C, against 50 Ω at 290 K (Friis 1944, from memory).
        ("noise_figure", {"resistance": "50"}, 10 * math.log10(1 + (1e-16 - 4 * k * 300.15 * 50) / (4 * k * 290 * 50))),
    ],
)
def test_of_densities(key: str, settings: dict[str, Any], expected: float) -> None:
    band: Any = {} if key == "noise_figure" else {"low": "1", "high": "10001"}
    asked: Any = {name: repr(value) if isinstance(value, float) else value for name, value in settings.items()}
    assert taken(key, white(10e-9), **band, **asked) == pytest.approx(expected, rel=1e-5)


def test_densities_without_an_answer() -> None:
    with pytest.raises(MeasurementError, match="density of volts"):
        taken("noise_figure", white(1e-12, AMPERES))
    with pytest.raises(MeasurementError, match="less noise than"):
        taken("noise_figure", white(0.1e-9))
    with pytest.raises(MeasurementError, match="no noise"):
        taken("signal_to_noise", white(0.0))
    with pytest.raises(MeasurementError, match="no density"):
        taken("noise_peak_to_peak", on(T, STEP, along=SECONDS))
