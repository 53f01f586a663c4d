"""How far a quantity may lie from nominal, as it is written."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.errors import ValueTextError
from verdad_core.spreads.amount import Amount, Deviations, parse_amount, told


@pytest.mark.parametrize(
    ("text", "unit", "expected"),
    [
        ("1", "Ω", Amount(-0.01, 0.01)),
        ("5 %", "Ω", Amount(-0.05, 0.05)),
        ("±0.1%", "F", Amount(-0.001, 0.001)),
        ("-20 +80", "F", Amount(-0.2, 0.8)),
        ("+80 -20 %", "F", Amount(-0.2, 0.8)),
        ("+10", "F", Amount(0.0, 0.1)),
        ("\u221230 %", "F", Amount(-0.3, 0.0)),
        ("100ppm", "Ω", Amount(-1e-4, 1e-4)),
        ("50 ppm/°C", "1/°C", Amount(-5e-5, 5e-5, absolute=True)),
        ("±0.5p", "F", Amount(-0.5e-12, 0.5e-12, absolute=True)),
        ("0.5 pF", "F", Amount(-0.5e-12, 0.5e-12, absolute=True)),
        ("-1mV +2.5mV", "V", Amount(-1e-3, 2.5e-3, absolute=True)),
        ("-1e-3V +2e-3V", "V", Amount(-1e-3, 2e-3, absolute=True)),
        ("1e-1", "", Amount(-1e-3, 1e-3)),
    ],
)
def test_amounts_are_read_as_data_sheets_write_them(text: str, unit: str, expected: Amount) -> None:
    found = parse_amount(text, unit)
    assert (found.low, found.high) == pytest.approx((expected.low, expected.high), rel=1e-15)
    assert found.absolute == expected.absolute


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "empty"), ("five", "number"), ("0", "no room"), ("100", "zero or below"), ("-150 +10", "zero or below"),
        ("+1 +2 +3", "no tolerance"), ("5 6", "neither a prefix"), ("-5% +1m", "per cent"), ("-5 +1m", "half"),
        ("0.5pF", "Ω is expected"), ("+", "empty"),
    ],
)  # fmt: skip
def test_what_is_none_says_why(text: str, why: str) -> None:
    with pytest.raises(ValueTextError, match=why):
        parse_amount(text, "Ω")


#: How amounts are read aloud, on the page as in the parts list: the interface's tests run the same cases.
TOLD: list[list[str]] = json.loads((Path(__file__).parent / "told.json").read_text())


@pytest.mark.parametrize(("text", "words"), TOLD)
def test_an_amount_is_told_as_it_was_meant(text: str, words: str) -> None:
    assert told(text) == words


@given(st.text("0123456789.eE+-%± pmkµunFVppm/°C", max_size=40), st.sampled_from(["", "Ω", "V", "1/°C"]))
def test_anything_is_read_or_refused(text: str, unit: str) -> None:
    try:
        found = parse_amount(text, unit)
    except ValueTextError:
        return
    assert found.low < found.high
    assert parse_amount(told(text), unit) == found


@given(st.floats(0.001, 99.0))
def test_per_cent_both_ways_are_what_they_always_were(per_cent: float) -> None:
    """To the last digit: numbers that are kept stay evidence."""
    draws = np.linspace(-1.0, 1.0, 11)
    amount = parse_amount(repr(per_cent))
    deviations = Deviations(11)
    deviations.add(amount, amount.deviation(draws))
    assert np.array_equal(deviations.of(4700.0), 4700.0 * (1.0 + per_cent / 100.0 * draws))
