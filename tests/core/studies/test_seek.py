"""Where a limit is reached, beside curves that are inverted by hand."""

from __future__ import annotations

import numpy as np
import pytest

from verdad_core.studies.kind import Places
from verdad_core.studies.seek import reached


def along(values: np.ndarray, unit: str = "Ω", logarithmic: bool = False) -> Places:
    return Places("R1", unit, values, logarithmic)


def test_the_corner_of_a_low_pass_reaches_its_limit_at_the_resistance_of_the_closed_form() -> None:
    """1/(2π R 1 µF) of at least 100 Hz: 1591.5 Ω, and 1.5 kΩ of E24 keeps it."""
    ohms = np.geomspace(500.0, 5000.0, 200)
    [found] = reached(along(ohms, logarithmic=True), 1 / (2 * np.pi * ohms * 1e-6), 100.0, None)
    # A straight line between points 1.2 % apart.
    assert found.at == pytest.approx(1591.549, rel=1e-4)
    assert (found.holds, found.preferred) == ("below", 1.5e3)


def test_both_bounds_and_every_crossing_are_told() -> None:
    x = np.linspace(-2.0, 2.0, 401)
    found = reached(along(x, "V"), x**2, 0.25, 1.0)
    assert [(round(each.at, 3), each.holds) for each in found] == [
        (-0.5, "below"), (0.5, "above"), (-1.0, "above"), (1.0, "below")
    ]  # fmt: skip
    assert all(each.preferred is None for each in found)


def test_a_value_of_the_series_is_itself_and_falling_places_are_put_in_order() -> None:
    ohms = np.array([9e3, 5.3e3, 4.7e3, 4.1e3])
    [found] = reached(along(ohms), ohms, None, 4.7e3)
    assert found.at == pytest.approx(4.7e3)
    assert found.preferred == 4.7e3
    [other] = reached(along(ohms), ohms, 4.8e3, None)
    assert other.preferred == 5.1e3


def test_what_never_reaches_it_or_has_no_number_there_has_no_place() -> None:
    x = np.linspace(1.0, 3.0, 3)
    assert reached(along(x), x, 0.5, 9.0) == []
    assert reached(along(x), np.array([1.0, np.nan, 3.0]), 2.0, None) == []
