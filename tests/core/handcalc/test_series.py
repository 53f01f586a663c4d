"""Preferred values against the table of IEC 60063:2015 (from memory), and letters of IEC 60062:2016 (from memory)."""

import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.errors import ValueTextError
from verdad_core.handcalc.series import SERIES, nearest
from verdad_core.spreads.grades import GRADES, LETTERS
from verdad_core.units import parse_value


@pytest.mark.parametrize(
    ("series", "count"), [("E3", 3), ("E6", 6), ("E12", 12), ("E24", 24), ("E48", 48), ("E96", 96), ("E192", 192)]
)
def test_a_series_has_as_many_values_as_its_name_says(series: str, count: int) -> None:
    values = SERIES[series]
    assert len(values) == count == len(set(values))
    assert values == tuple(sorted(values))
    assert all(1 <= value < 10 for value in values)


def test_values_of_the_standards_table() -> None:
    assert SERIES["E3"] == (1.0, 2.2, 4.7)
    assert SERIES["E6"] == (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)
    assert SERIES["E12"] == (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
    assert SERIES["E48"][:8] == (1.0, 1.05, 1.1, 1.15, 1.21, 1.27, 1.33, 1.4)
    assert SERIES["E96"][-6:] == (8.66, 8.87, 9.09, 9.31, 9.53, 9.76)
    assert {4.99, 3.01, 2.49, 1.02} <= set(SERIES["E96"])
    # The one value that does not follow the rule.
    assert 9.2 in SERIES["E192"]
    assert 9.19 not in SERIES["E192"]


def test_each_series_of_three_digits_holds_every_other_value_of_the_next() -> None:
    assert SERIES["E96"] == SERIES["E192"][::2]
    assert SERIES["E48"] == SERIES["E96"][::2]


@pytest.mark.parametrize(
    ("wanted", "series", "value"),
    [
        ("4k9", "E24", 5100),
        ("4k9", "E96", 4870),
        ("95", "E12", 100),
        ("1.01", "E24", 1.0),
        ("33n", "E6", 33e-9),
        ("9.7", "E3", 10),
    ],
)
def test_the_nearest_value(wanted: str, series: str, value: float) -> None:
    assert nearest(parse_value(wanted), series).value == value


@given(st.floats(1e-12, 1e9), st.sampled_from(sorted(SERIES)))
def test_no_value_of_the_series_is_nearer(wanted: float, series: str) -> None:
    found = nearest(wanted, series)
    mantissa = found.value / 10 ** math.floor(math.log10(found.value) + 1e-12)
    assert min(abs(mantissa - value) for value in SERIES[series]) < 1e-9
    # Half a step of the coarsest gap in the series, in logarithm.
    values = [*SERIES[series], 10.0]
    gap = max(math.log(b / a) for a, b in pairwise(values))
    assert abs(math.log(found.value / wanted)) <= gap / 2 + 1e-12


@pytest.mark.parametrize(("wanted", "series"), [(0.0, "E24"), (-1.0, "E24"), (math.inf, "E24"), (1.0, "E7")])
def test_what_has_no_preferred_value(wanted: float, series: str) -> None:
    with pytest.raises(ValueTextError):
        nearest(wanted, series)


def test_grades_have_letters_and_a_series() -> None:
    assert (LETTERS["F"], LETTERS["J"], LETTERS["K"], LETTERS["M"], LETTERS["B"]) == (1, 5, 10, 20, 0.1)
    assert all(grade.letter and grade.series in SERIES for grade in GRADES)
    assert len({grade.key for grade in GRADES}) == len(GRADES)
    assert {grade.kind for grade in GRADES} == {"resistor", "capacitor", "inductor"}
