import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.errors import ValueTextError
from verdad_core.units import PER_DEGREE, PREFIXES, format_value, parse_netlist_number, parse_value


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("4k7", 4700.0),  # letter code: IEC 60062
        ("2R2", 2.2),
        ("100n", 1e-7),
        ("1meg", 1e6),
        ("1M", 1e6),
        ("1m", 1e-3),
        ("33 nF", 33e-9),
        ("4.7µF", 4.7e-6),
        ("10 kOhm", 1e4),
        ("0", 0.0),
        ("-5", -5.0),
        ("1e-3", 1e-3),
        ("2.5e3k", 2.5e6),
        (".5u", 5e-7),
    ],
)
def test_quantities_are_read(text: str, value: float) -> None:
    assert parse_value(text) == pytest.approx(value, rel=1e-15)


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("10kk", "two prefixes"),
        ("", "empty"),
        ("abc", "does not start with a number"),
        ("4,7k", "does not start with a number|comma"),
        ("1.2k3", "two decimal points"),
        ("5 lightyears", "neither a prefix nor a unit"),
        ("1e999", "too large"),
        ("__import__('os')", "does not start with a number"),
    ],
)
def test_what_is_no_quantity_is_refused_with_its_reason(text: str, reason: str) -> None:
    with pytest.raises(ValueTextError, match=reason):
        parse_value(text)


def test_a_wrong_unit_is_refused() -> None:
    with pytest.raises(ValueTextError, match="is in F, but Ω is expected"):
        parse_value("100nF", "Ω")
    assert parse_value("10ohm", "Ω") == 10


@given(st.floats(min_value=1e-14, max_value=9.99e13), st.sampled_from(["", "F", "Ω", "V"]), st.integers(2, 12))
def test_formatting_and_reading_is_a_round_trip(value: float, unit: str, digits: int) -> None:
    text = format_value(value, unit, digits)
    # The format rounds to `digits` significant digits: half a unit of the last one.
    assert parse_value(text, unit) == pytest.approx(value, rel=0.5 * 10.0 ** (1 - digits) + 1e-15)


@given(st.integers(1, 999), st.integers(1, 9), st.sampled_from(sorted(set(PREFIXES.values()) - {"", "µ"})))
def test_the_prefix_may_stand_for_the_point(whole: int, decimal: int, prefix: str) -> None:
    assert parse_value(f"{whole}{prefix}{decimal}") == parse_value(f"{whole}.{decimal}{prefix}")


@given(st.text(max_size=30))
def test_any_text_is_read_or_refused(text: str) -> None:
    try:
        assert math.isfinite(parse_value(text))
    except ValueTextError as error:
        assert error.message


@pytest.mark.parametrize(
    # SPICE 2G6/3F5 user's manuals: scale factors, letters after them are ignored.
    ("text", "value"),
    [("10kOhm", 1e4), ("5uF", 5e-6), ("1MEG", 1e6), ("1M", 1e-3), ("1mil", 25.4e-6), ("3.498E-12", 3.498e-12),
     ("10V", 10.0), ("1.5d3", 1500.0), ("7.0P", 7e-12)],
)  # fmt: skip
def test_netlist_numbers(text: str, value: float) -> None:
    assert parse_netlist_number(text) == pytest.approx(value, rel=1e-15)


def test_netlist_rubbish_is_refused() -> None:
    with pytest.raises(ValueTextError):
        parse_netlist_number("{2*x}")


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [("3V3", "V", 3.3), ("R47", "Ω", 0.47), ("4R7", "Ω", 4.7), ("1h", "H", 1.0), ("10mh", "H", 0.01), ("−5", "V", -5.0),
     ("−2m", "", -0.002), ("10ppm", "", 10.0), ("0R22", "Ω", 0.22)],
)  # fmt: skip
def test_values_as_they_stand_on_parts_and_in_texts(text: str, unit: str, value: float) -> None:
    """The letter code of IEC 60062 with a unit for the point; a small h; a minus of typesetters."""
    assert parse_value(text, unit) == pytest.approx(value, rel=1e-15)


def test_a_letter_for_the_point_is_the_unit_that_is_expected() -> None:
    with pytest.raises(ValueTextError, match="is in V, but A is expected"):
        parse_value("3V3", "A")


@pytest.mark.parametrize(
    ("text", "value"), [("100ppm", 1e-4), ("-300 ppm/°C", -3e-4), ("0.01", 0.01), ("0.012 /K", 0.012), ("5m", 5e-3)]
)
def test_temperature_coefficients_are_read_per_degree_and_in_millionths(text: str, value: float) -> None:
    assert parse_value(text, PER_DEGREE) == value


@pytest.mark.parametrize("text", ["10 Ω", "3V", "ppm", "1ppm/V", "5 %/°C"])
def test_what_is_no_temperature_coefficient_is_refused(text: str) -> None:
    with pytest.raises(ValueTextError):
        parse_value(text, PER_DEGREE)
