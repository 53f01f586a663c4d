"""Slopes over temperature, beside curves whose slopes are known."""

from __future__ import annotations

import numpy as np
import pytest
from pydantic import ValidationError

from tests.core.boards import board, r, run_rows, supply
from verdad_core.document.board import Board
from verdad_core.studies.drift import drift
from verdad_core.studies.kinds.monte_carlo import MonteCarlo
from verdad_core.studies.kinds.sweep import Sweep
from verdad_core.studies.kinds.temperature import Temperature


def test_slope_and_box_of_a_parabola() -> None:
    """V = 2.5 (1 + 20e-6 Δ - 0.3e-6 Δ²), Δ from 27 °C: 20 ppm/°C there."""
    t = np.linspace(-40.0, 85.0, 26)
    delta = t - 27.0
    values = 2.5 * (1 + 20e-6 * delta - 0.3e-6 * delta**2)
    found = drift(t, values, 27.0)
    assert found is not None
    assert found.slope == pytest.approx(50e-6, rel=1e-9)
    assert found.ppm == pytest.approx(20.0, rel=1e-9)
    assert found.box == pytest.approx(1e6 * np.ptp(values) / (2.5 * 125.0), rel=1e-9)


def test_what_has_no_slope_or_no_value_says_so() -> None:
    t = np.array([0.0, 27.0, 50.0])
    assert drift(t, np.array([np.nan, 1.0, np.nan]), 27.0) is None
    offset = drift(t, 1e-6 * (t - 27.0), 27.0)
    assert offset is not None
    assert offset.slope == pytest.approx(1e-6)
    assert (offset.ppm, offset.box) == (None, None)
    two = drift(t[1:], np.array([1.0, 1.1]), 27.0)
    assert two is not None
    assert two.slope == pytest.approx(0.1 / 23.0)


def divider(**more: str) -> Board:
    """12 V over 10 kΩ (+0.010/°C) and 20 kΩ (+0.012/°C)."""
    first = r("R1", "10k", "in", "out") | {"tempco": "0.010", **more}
    parts = [first, r("R2", "20k", "out", "gnd") | {"tempco": "0.012/°C"}]
    measured = {"id": "volts", "key": "value", "of": "v(out)"}
    return board(parts, [supply("in", "12")], "operating point", measurements=[measured])


def volts(drawn: Board, study: Temperature) -> dict[float, float]:
    table = run_rows(drawn, study, {}, 0, study.size_on(drawn))
    return dict(zip(study.places(drawn)[0].values.tolist(), table.values[:, 0].tolist(), strict=True))


def test_a_divider_over_temperature_with_its_nominal_among_the_rows() -> None:
    """Common practice, no source: 8.00 V at 27 °C, 7.79 V at 0 °C, 8.21 V at 100 °C."""
    study = Temperature(id="t", title="t", checks=("k",), coldest="0", hottest="100", points=11)
    found = volts(divider(), study)
    assert list(found) == sorted({*np.linspace(0.0, 100.0, 11).tolist(), 27.0})
    assert found[27.0] == pytest.approx(8.0, rel=1e-12)
    for celsius, expected in ((0.0, 7.79), (100.0, 8.21)):
        assert found[celsius] == pytest.approx(expected, abs=0.005)
        low, high = 1e4 * (1 + 0.010 * (celsius - 27)), 2e4 * (1 + 0.012 * (celsius - 27))
        assert found[celsius] == pytest.approx(12 * high / (low + high), rel=1e-9)


def test_a_coefficient_is_swept_in_millionths_and_drawn_around_none() -> None:
    """R2 at 127 °C, its coefficient from -100 to 100 ppm/°C: 1 % less and more of it."""
    hot = divider().model_dump(mode="json")
    hot["circuits"][0]["checks"][0]["temperature"] = "127"
    hot["circuits"][0]["parts"][0]["tempco"] = hot["circuits"][0]["parts"][1]["tempco"] = None
    drawn = Board.model_validate(hot)
    study = Sweep(id="s", title="s", checks=("k",), over="R2.tempco", start="-100ppm", stop="100ppm", points=3)
    found = run_rows(drawn, study, {}, 0, 3).values[:, 0]
    expected = [12 * 20e3 * share / (10e3 + 20e3 * share) for share in (0.99, 1.0, 1.01)]
    assert found.tolist() == pytest.approx(expected, rel=1e-9)
    spread = {"of": "R2.tempco", "contributions": [{"amount": "±100ppm"}]}
    varied = Board.model_validate({**drawn.model_dump(mode="json"), "spreads": [spread]})
    units = run_rows(varied, MonteCarlo(id="m", title="m", checks=("k",), rows=400), {}, 0, 400).values[:, 0]
    assert (units.min(), units.max()) == pytest.approx((expected[0], expected[2]), rel=1e-4)


def test_a_range_that_does_not_rise_is_refused_at_its_field() -> None:
    with pytest.raises(ValidationError, match="not hotter"):
        Temperature(id="t", title="t", checks=("k",), coldest="85", hottest="-40")


def test_a_part_sits_warmer_than_what_is_around_it() -> None:
    """R1 60 °C above its surroundings has what it would have at 87 °C."""
    study = Temperature(id="t", title="t", checks=("k",), coldest="20", hottest="30", points=2)
    found = volts(divider(rise="60"), study)
    assert found[27.0] == pytest.approx(12 * 2e4 / (2e4 + 1e4 * 1.6), rel=1e-9)
