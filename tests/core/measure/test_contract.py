"""One contract for all measurements and functions: the right number, with its unit, or no answer with the reason.

Closed forms of the traces; numpy and scipy where none is written out.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from scipy.integrate import quad

from tests.core.measure.taking import taken
from verdad_core.arrays import Floats, Values
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import unit_of
from verdad_core.measure.expressions import Probe, read_expression
from verdad_core.measure.registry import MEASUREMENTS
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, CELSIUS, HERTZ, SECONDS, VOLTS, Unit


def on(x: Floats, y: Values, unit: Unit = VOLTS, along: Unit = SECONDS, thinned: bool = False) -> Trace:
    title = {"s": "time", "Hz": "frequency"}.get(along.name, "swept")
    return Trace.of_lines(y, unit, Axis(title, along, x, thinned=thinned))


def number(key: str, trace: Trace, at: float = math.nan) -> float:
    return taken(key, trace, at)


def expression(text: str, **traces: Trace) -> Trace:
    return read_expression(text).evaluate(lambda probe: traces[probe.name])


def uneven(stop: float, count: int, seed: int = 1) -> Floats:
    """Instants with steps that differ by up to ten."""
    steps = np.random.default_rng(seed).uniform(0.1, 1.0, count)
    return np.concatenate([[0.0], np.cumsum(steps)]) * stop / steps.sum()


LONG = uneven(1.0, 60_000)
T = uneven(20.0, 4000)
STEP = 1 - np.exp(-T)


def test_every_measurement_has_a_case_here() -> None:
    assert set(MEASUREMENTS) == {
        "passband_gain", "passband_gain_db", "upper_cutoff", "lower_cutoff", "value", "crossing", "maximum", "minimum",
        "maximum_place", "minimum_place", "peak_to_peak", "mean", "rms", "initial", "final", "rise_time", "overshoot",
        "settling_time", "band_rms", "frequency", "phase_margin", "crossover", "gain_margin", "rate_of_closure",
        # In test_more.py.
        "half_way", "undershoot", "slew_rate", "integral", "period", "duty", "ripple", "crest_factor", "distortion",
        "sinad", "slope", "linearity_error", "hysteresis", "gain_at", "phase_at", "roll_off", "peaking",
        "noise_bandwidth", "noise_peak_to_peak", "signal_to_noise", "effective_bits", "noise_figure",
    }  # fmt: skip


@pytest.mark.parametrize(
    ("key", "trace", "expected", "tolerance"),
    [
        # Straight lines: a triangle of three points, exactly.
        ("rms", on(np.array([0.0, 1.0, 2.0]), np.array([0.0, 1.0, 0.0])), 1 / math.sqrt(3), 1e-12),
        ("mean", on(np.array([0.0, 1.0, 4.0]), np.array([0.0, 2.0, 0.0])), 1.0, 1e-12),
        # More than 20,000 uneven points; whole periods of a sine, and ten and a half of them.
        ("rms", on(LONG, np.sin(2e3 * np.pi * LONG)), math.sqrt(0.5), 3e-3),
        ("rms", on(T, 3 + np.sin(2 * np.pi * 10.5 / 20 * T)), math.sqrt(9.5), 1e-3),
        ("mean", on(T, 3 + np.sin(2 * np.pi * 10.5 / 20 * T)), 3.0, 1e-3),
        ("mean", on(T, 5.0 * ((T % 2.0) < 0.18)), 0.45, 5e-2),
        # What does not repeat itself is averaged over all of it.
        ("mean", on(T, STEP), 1 - (1 - math.exp(-20)) / 20, 1e-4),
        # Doubled times: an edge.
        ("mean", on(np.array([0.0, 1.0, 1.0, 2.0]), np.array([0.0, 0.0, 4.0, 4.0])), 2.0, 1e-12),
        # There and back: both ways count as long as they are.
        ("mean", on(np.array([0.0, 1.0, 3.0, 1.0, 0.0]), np.ones(5), along=VOLTS), 1.0, 1e-12),
        ("rise_time", on(T, 5 - 2 * STEP), math.log(9), 1e-4),
        ("rise_time", on(T, STEP), math.log(9), 1e-4),
        ("overshoot", on(T, 1 - np.exp(-T) * (np.cos(9 * T) + np.sin(9 * T) / 9)), 100 * math.exp(-math.pi / 9), 2e-2),
        ("initial", on(T, STEP), 0.0, 1e-8),
        ("final", on(T, STEP), 1.0, 1e-8),
        ("frequency", on(T, 3 + np.sin(2 * np.pi * 10.5 / 20 * T)), 10.5 / 20, 1e-4),
        ("maximum", on(T, np.minimum(np.sin(T), 0.5)), 0.5, 1e-12),
        ("minimum", on(T, np.sin(T)), -1.0, 1e-4),
        ("peak_to_peak", on(T, 7 + np.sin(T)), 2.0, 1e-4),
        ("minimum_place", on(T, np.where(T < 7, np.cos(T), 0)), math.pi, 2e-2),
        ("maximum_place", on(T, np.exp(-((T - 5) ** 2)) + 0.5 * np.exp(-((T - 9) ** 2))), 5.0, 1e-2),
    ],
)  # fmt: skip
def test_numbers(key: str, trace: Trace, expected: float, tolerance: float) -> None:
    assert number(key, trace) == pytest.approx(expected, rel=tolerance)


@pytest.mark.parametrize(
    ("key", "at", "trace", "expected"),
    [
        ("value", -40.0, on(np.array([-40.0, 0.0, 85.0]), np.array([1.0, 2.0, 3.0]), along=CELSIUS), 1.0),
        ("value", 85.0, on(np.array([-40.0, 0.0, 85.0]), np.array([1.0, 2.0, 3.0]), along=CELSIUS), 3.0),
        ("value", 0.5, on(np.array([0.0]), np.array([7.0])), None),
        ("value", 0.0, on(np.array([0.0]), np.array([7.0])), 7.0),
        ("crossing", 0.5, on(T, STEP), math.log(2)),
        ("crossing", 2.0, on(T, STEP), None),
        ("settling_time", 1.0, on(T, STEP), math.log(100)),
        ("settling_time", 0.1, on(T, STEP), math.log(1000)),
        ("settling_time", 1.0, on(T, -3 * STEP), math.log(100)),
        # A sine never settles, a pulse that returns has no step, and ringing that goes on has no final value.
        ("settling_time", 1.0, on(T, np.sin(T)), None),
        ("overshoot", math.nan, on(T, np.where((T > 5) & (T < 6), 1.0, 0.0)), None),
        ("overshoot", math.nan, on(T, 1 - np.cos(3 * T) * np.exp(-0.01 * T)), None),
        ("rise_time", math.nan, on(T, T), None),
        ("settling_time", 0.1, on(T[T < 5], STEP[T < 5]), None),
        # What is not a number somewhere has no mean, but a value where it is one.
        ("mean", math.nan, on(T, np.where(T < 1, np.nan, T)), None),
        ("value", 2.0, on(T, np.where(T < 1, np.nan, T)), 2.0),
        # Points that were left out.
        ("rms", math.nan, on(T, np.sin(T), thinned=True), None),
        ("maximum", math.nan, on(T, np.minimum(T, 3.0), thinned=True), 3.0),
    ],
)  # fmt: skip
def test_at_a_place_or_with_no_answer(key: str, at: float, trace: Trace, expected: float | None) -> None:
    if expected is None:
        with pytest.raises(MeasurementError):
            number(key, trace, at)
    else:
        assert number(key, trace, at) == pytest.approx(expected, rel=2e-4)


def test_noise_moves_a_mean_and_a_settling_time_by_no_more_than_it_is() -> None:
    noisy = STEP + np.random.default_rng(3).normal(0, 1e-4, len(T))
    assert number("mean", on(T, noisy)) == pytest.approx(number("mean", on(T, STEP)), abs=1e-5)
    assert number("settling_time", on(T, noisy), 5.0) == pytest.approx(math.log(20), rel=1e-2)


F = np.geomspace(1.0, 1e6, 601)


def pole(corner: float) -> Values:
    return np.asarray(1 / (1 + 1j * F / corner))


@pytest.mark.parametrize(
    ("key", "values", "expected"),
    [
        ("upper_cutoff", pole(1e3), 1e3), ("lower_cutoff", 1 - pole(1e3), 1e3),
        ("passband_gain", 100 * pole(1e3), 100.0), ("passband_gain_db", 100 * pole(1e3), 40.0),
        ("upper_cutoff", np.abs(pole(1e3)), 1e3),
        ("upper_cutoff", -pole(1e3) * 1j, 1e3),
    ],
)  # fmt: skip
def test_of_responses(key: str, values: Values, expected: float) -> None:
    assert number(key, Trace(values, VOLTS / VOLTS, Axis("frequency", HERTZ, F))) == pytest.approx(expected, rel=1e-3)


def test_decibels_are_turned_back_and_angles_refused() -> None:
    out = Trace(100 * pole(1e3), VOLTS, Axis("frequency", HERTZ, F))
    given = Trace(np.ones(len(F), complex), VOLTS, out.axis)
    level = expression("db(v(out)/v(given))", out=out, given=given)
    assert number("upper_cutoff", level) == pytest.approx(1e3, rel=1e-3)
    assert number("passband_gain", level) == pytest.approx(100.0, rel=1e-4)
    assert number("passband_gain_db", level) == pytest.approx(40.0, rel=1e-4)
    for text in ("phase(v(out))", "ln(mag(v(out)))", "re(v(out)*(0-1))", "delay(v(out))"):
        with pytest.raises(MeasurementError):
            number(
                "upper_cutoff", expression(text, out=out) if "delay" not in text else expression("arg(v(out))", out=out)
            )


def test_a_pass_band_beyond_the_edge_is_no_answer() -> None:
    """A high-pass whose sweep ends at its corner: 577 Hz would be wrong."""
    low = np.geomspace(1.0, 1e3, 151)
    high_pass = Trace(1 - 1 / (1 + 1j * low / 1e3), Unit(), Axis("frequency", HERTZ, low))
    with pytest.raises(MeasurementError, match="edge of the sweep"):
        number("lower_cutoff", high_pass)


def test_units() -> None:
    seconds, volts = Axis("time", SECONDS, T), on(T, STEP)
    assert unit_of(MEASUREMENTS["rms"], volts) == "V"
    assert unit_of(MEASUREMENTS["settling_time"], volts) == "s"
    warm = Trace.of_lines(T, VOLTS, Axis("temperature", CELSIUS, T))
    assert expression("deriv(v(a))", a=warm).unit.name == "V/°C"
    amperes = Trace.of_lines(STEP, AMPERES, seconds)
    assert expression("v(a)*i(b)", a=volts, b=amperes).unit.name == "W"


@pytest.mark.parametrize(
    ("text", "value", "unit"),
    [
        ("2*10%", 0.2, ""), ("2V*10%", 0.2, "V"), ("3V/1kΩ", 3e-3, "A"), ("5 V + 1V", 6.0, "V"), ("4k7Ω*1mA", 4.7, "V"),
        ("pi", math.pi, ""), ("log(pi)", math.log(math.pi), ""), ("tan(pi/4)", 1.0, ""), ("min(2,1)", 1.0, ""),
        ("max(3V,4V)", 4.0, "V"), ("1kohm*2A", 2000.0, "V"), ("10m", 0.01, ""), ("100 Hz", 100.0, "Hz"),
    ],
)  # fmt: skip
def test_numbers_with_units_and_names(text: str, value: float, unit: str) -> None:
    found = read_expression(text).evaluate(lambda probe: pytest.fail(str(probe)))
    assert float(found.values) == pytest.approx(value, rel=1e-12)
    assert found.unit.name == unit


@pytest.mark.parametrize(
    "text", ["v(a)+1A", "min(v(a),1A)", "min(1,2,3)", "v(a)^2V", "max()", "conj()", "fft(v(a),2)", "deriv(2)"]
)
def test_what_cannot_be_computed_is_refused(text: str) -> None:
    with pytest.raises(MeasurementError):
        expression(text, a=on(T, STEP))


def test_functions_outside_their_domain_have_no_value_there() -> None:
    ramp = on(T, T - 10.0)
    for text, inside in (
        ("log10(v(a))", math.log10(5.0)),
        ("sqrt(v(a))", math.sqrt(5.0)),
        ("v(a)^0.5", math.sqrt(5.0)),
    ):
        found = expression(text, a=ramp)
        assert number("value", found, 15.0) == pytest.approx(inside, rel=1e-3)
        with pytest.raises(MeasurementError):
            number("value", found, 5.0)
        with pytest.raises(MeasurementError):
            number("mean", found)
    with pytest.raises(MeasurementError):
        number("value", expression("sqrt(0-4)"))


def test_decibels_of_powers_count_ten_to_a_decade() -> None:
    """IEC 60027-3: of a hundredfold power 20 dB, of a hundredfold voltage 40 dB, and of its square again 40 dB."""
    v, i = Trace(np.asarray(100.0), VOLTS), Trace(np.asarray(1.0), AMPERES)
    one = Trace(np.asarray(1.0), VOLTS)
    ratios = {
        "db(v(v)*i(i)/(v(one)*i(i)))": 20.0, "db(v(v)/v(one))": 40.0, "db(v(v)^2/v(one)^2)": 40.0,
        "db(2*v(v)*i(i)/(2*v(one)*i(i)))": 20.0,
    }  # fmt: skip
    for text, decibels in ratios.items():
        assert float(expression(text, v=v, i=i, one=one).values) == pytest.approx(decibels)


def test_mean_power_of_straight_lines_is_exact() -> None:
    """Of v = t and i = 1 - t over 0..1: 1/6, where trapezoids say nothing or a quarter."""
    axis = Axis("time", SECONDS, np.array([0.0, 1.0]))
    v, i = Trace.of_lines(np.array([0.0, 1.0]), VOLTS, axis), Trace.of_lines(np.array([1.0, 0.0]), AMPERES, axis)
    power = expression("v(v)*i(i)", v=v, i=i)
    assert number("mean", power) == pytest.approx(1 / 6, rel=1e-12)
    assert float(expression("max(integ(v(v)*i(i)))", v=v, i=i).values) == pytest.approx(1 / 6, rel=1e-12)


@pytest.mark.parametrize("periods", [10.0, 10.25, 10.5, 37.8])
def test_a_spectrum_between_its_bins(periods: float) -> None:
    """Amplitude and frequency of a sine of which the run holds a broken number of periods."""
    t = uneven(0.01, 20_000)
    spectrum = expression("fft(v(a))", a=on(t, 0.7 * np.sin(2 * np.pi * periods / 0.01 * t)))
    assert number("maximum", spectrum) == pytest.approx(0.7, rel=2e-3)
    assert number("maximum_place", spectrum) == pytest.approx(periods / 0.01, rel=1e-3)


def test_a_slope_where_a_sweep_turns_back() -> None:
    """Y = x² there, and 2x on the way back."""
    x = np.concatenate([np.linspace(0, 2, 201), np.linspace(2, 0, 201)[1:]])
    y = np.concatenate([np.linspace(0, 2, 201) ** 2, 2 * np.linspace(2, 0, 201)[1:]])
    slope = expression("deriv(v(a))", a=on(x, y, along=VOLTS)).values
    assert slope[100] == pytest.approx(2.0, rel=1e-3)
    assert slope[300] == pytest.approx(2.0, rel=1e-3)
    assert np.max(np.abs(slope)) < 4.1


def test_group_delay_of_a_line() -> None:
    f = np.linspace(1e3, 5e6, 4000)
    found = expression("delay(v(a))", a=Trace(np.exp(-2j * np.pi * f * 1e-6), VOLTS, Axis("frequency", HERTZ, f)))
    assert found.values == pytest.approx(1e-6, rel=1e-6)


@pytest.mark.parametrize("function", [np.sin, np.cosh, lambda x: x**3])
def test_integrals_against_quadrature(function: Callable[[Any], Any]) -> None:
    x = uneven(2.0, 5000)
    found = expression("integ(v(a))", a=on(x, function(x))).values[-1]
    assert found == pytest.approx(quad(function, 0, 2)[0], rel=1e-6)


def test_probes_of_pi_are_none() -> None:
    assert read_expression("v(a)*pi").probes == (Probe("v", "a"),)
