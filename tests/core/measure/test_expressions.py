"""The expression language over traces: values against NumPy, units, and errors at their letter."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.errors import MeasurementError
from verdad_core.measure.expressions import LONGEST, Probe, read_expression
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, SECONDS, VOLTS

TIME = Axis("time", SECONDS, np.linspace(0.0, 1.0, 2001))
FREQUENCY = Axis("frequency", HERTZ, np.geomspace(1.0, 1e5, 501), logarithmic=True)


def lookup(probe: Probe) -> Trace:
    """v(a) is sin 2π 5 t, v(b) 2 V, i(R1.2) a ramp of 3 A/s; v(rc) a pole at 1 kHz, v(in) 1 V at every frequency."""
    t, s = TIME.values, 2j * np.pi * FREQUENCY.values
    values = {
        "a": Trace(np.sin(2 * np.pi * 5 * t), VOLTS, TIME), "b": Trace(np.full(len(t), 2.0), VOLTS, TIME),
        "R1.2": Trace(3 * t, AMPERES, TIME), "rc": Trace(1 / (1 + s / (2 * np.pi * 1e3)), VOLTS, FREQUENCY),
        "in": Trace(np.ones(len(s), complex), VOLTS, FREQUENCY), "+5V": Trace(np.asarray(5.0), VOLTS),
    }  # fmt: skip
    if probe.name not in values:
        raise MeasurementError(f"there is no net {probe.name}")
    return values[probe.name]


def value(text: str) -> Trace:
    return read_expression(text).evaluate(lookup)


@pytest.mark.parametrize(
    ("text", "expected", "unit"),
    [
        ("max(v(a))", 1.0, "V"), ("pp(v(a))", 2.0, "V"), ("rms(v(a))", np.sqrt(0.5), "V"), ("avg(v(a))", 0.0, "V"),
        ("max(v(b)*i(R1.2))", 6.0, "W"), ("max(v(b)/i(R1.2)*i(R1.2))", np.nan, "V"), ("avg(i(R1.2))", 1.5, "A"),
        ("max(integ(i(R1.2)))", 1.5, "C"), ("max(deriv(i(R1.2)))", 3.0, "A/s"), ("v(+5V)", 5.0, "V"),
        ("-2^2", -4.0, ""), ("2*3+4/2-1", 7.0, ""), ("4k7", 4700.0, ""), ("v(+5V)-5", 0.0, "V"), ("2**3**1", 8.0, ""),
        ("min(-v(a))", -1.0, "V"), ("sqrt(v(+5V)^2)", 5.0, "V"), ("max(atan(v(b)))", np.arctan(2), ""),
    ],
)  # fmt: skip
def test_numbers_and_units(text: str, expected: float, unit: str) -> None:
    found = value(text)
    assert found.unit.name == unit
    if np.isfinite(expected):
        assert float(found.values) == pytest.approx(expected, abs=1e-6)


def test_a_pole_in_decibels_degrees_and_seconds() -> None:
    """At its corner a pole is 3.0103 dB down and 45° behind; its group delay at low frequency is 1/ωc."""
    corner = int(np.argmin(np.abs(FREQUENCY.values - 1e3)))
    assert value("db(v(rc)/v(in))").values[corner] == pytest.approx(-10 * np.log10(2), abs=0.03)
    assert value("phase(v(rc))").values[corner] == pytest.approx(-45, abs=0.5)
    assert value("delay(v(rc))").values[5] == pytest.approx(1 / (2 * np.pi * 1e3), rel=1e-3)
    assert np.allclose(value("mag(v(rc))").values ** 2, value("re(v(rc))^2+im(v(rc))^2").values)
    assert value("db(v(rc)/v(in))").unit.name == "dB"


def test_phase_has_no_jumps() -> None:
    assert value("phase(v(rc)^8)").values[-1] == pytest.approx(-8 * np.degrees(np.arctan(100)), rel=1e-6)


def test_the_spectrum_of_a_sine_is_a_line_of_its_amplitude() -> None:
    found = value("fft(v(a))")
    assert found.axis is not None
    peak = int(np.argmax(found.values))
    # 5 whole periods with a Hann window: the line keeps its height; resampling adds less than 1e-4.
    assert (found.axis.values[peak], found.values[peak]) == pytest.approx((5.0, 1.0), rel=1e-3)


@pytest.mark.parametrize(
    ("text", "column", "words"),
    [
        ("v(out", 6, "parenthesis"), ("v(a)/", 6, "missing"), ("foo(v(a))", 1, "no function"),
        ("db(3 3)", 6, "not expected"), ("v(a)+i(R1.2)", 1, "added"), ("1+10kk", 3, "prefix"),
        ("2*v(nothing)", 3, "no net"), ("v(a)*v(rc)", 1, "along"), ("2^v(a)", 1, "exponent"),
        ("$", 1, "not understood"), ("", 1, "empty"), ("delay(v(a))", 1, "frequency"),
        ("avg(3)", 1, "single number"), ("1" * (LONGEST + 1), LONGEST, "at most"),
    ],
)  # fmt: skip
def test_errors_stand_at_their_letter(text: str, column: int, words: str) -> None:
    with pytest.raises(MeasurementError, match=words) as caught:
        value(text)
    assert caught.value.place.column == column


def test_a_near_name_is_offered() -> None:
    with pytest.raises(MeasurementError) as caught:
        value("phas(v(a))")
    assert "phase" in caught.value.remedy


@given(st.text(alphabet="v(ab)+-*/^1k. ,rms$é", max_size=40))
def test_any_text_is_read_or_refused_in_words(text: str) -> None:
    try:
        value(text)
    except MeasurementError as error:
        assert error.message
        assert 1 <= (error.place.column or 1) <= len(text) + 1


@given(st.lists(st.sampled_from("+-"), min_size=0, max_size=200))
def test_deep_nesting_ends(signs: list[str]) -> None:
    text = "".join(signs) + "1"
    assert abs(float(value(text).values)) == 1.0
