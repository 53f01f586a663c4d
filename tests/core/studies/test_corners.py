"""Three ways to put effects together, beside sums that are written out."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from tests.core.boards import board, r, run_study, spread, supply
from verdad_core.document.board import Board
from verdad_core.studies.corners import corners
from verdad_core.studies.keys import column_key
from verdad_core.studies.kinds.worst_case import WorstCase

FACTORS = ("a", "b", "c")


def rows() -> np.ndarray:
    single = [np.sign(value) * np.eye(3)[k] for k in range(3) for value in (-1, 1)]
    return np.array([np.zeros(3), *single, *itertools.product((-1.0, 1.0), repeat=3)])


def test_effects_extremes_and_the_root_of_the_sum_of_squares() -> None:
    """Y = 10 + 3a - 4b: extremes 3 and 17, and 10 ± 5 by JCGM 100:2008, 5.1.2."""
    signs = rows()
    found = corners(10 + signs @ [3.0, -4.0, 0.0], signs, FACTORS)
    assert found.nominal == 10.0
    assert [(each.factor, each.low, each.high, each.turns) for each in found.effects] == [
        ("b", 14.0, 6.0, False), ("a", 7.0, 13.0, False), ("c", 10.0, 10.0, False)
    ]  # fmt: skip
    assert (found.square_low, found.square_high) == pytest.approx((5.0, 15.0))
    assert found.least is not None
    assert found.greatest is not None
    assert (found.least.value, set(found.least.high) & {"a", "b"}) == (3.0, {"b"})
    assert (found.greatest.value, set(found.greatest.low) & {"a", "b"}) == (17.0, {"b"})


def test_what_has_an_extreme_in_between_is_told() -> None:
    signs = rows()
    found = corners(1.0 - signs[:, 0] ** 2 + 0.1 * signs[:, 1], signs, FACTORS)
    assert {each.factor for each in found.effects if each.turns} == {"a"}


def test_without_a_number_there_is_no_sum() -> None:
    signs = rows()
    values = 10 + signs @ [3.0, -4.0, 0.0]
    values[3] = np.nan
    found = corners(values, signs, FACTORS)
    assert (found.square_low, found.square_high) == (None, None)
    assert found.least is not None
    assert corners(np.full(len(signs), np.nan), signs, FACTORS).least is None


def test_a_divider_by_all_three() -> None:
    """5.1 V ±2 %, 10.2 kΩ over 18.7 kΩ, ±1 %: 3.3 V, extremes 3.3897 V and 3.2111 V (common practice, no source)."""
    parts = [r("R1", "10.2k", "in", "out"), r("R2", "18.7k", "out", "gnd")]
    measured = {"id": "volts", "key": "value", "of": "v(out)"}
    drawn = board(parts, [supply("in", "5.1")], "operating point", measurements=[measured])
    spreads = [spread("sin", 2), spread("R1", 1), spread("R2", 1)]
    drawn = Board.model_validate({**drawn.model_dump(mode="json"), "spreads": spreads})
    study = WorstCase(id="w", title="w", checks=("k",))
    [which] = [("k", column_key(each)) for each in drawn.check("k")[1].measurements]
    found = study.corners(drawn, run_study(drawn, study, {}), which)
    assert found.nominal == pytest.approx(3.3, abs=5e-6)
    assert found.least is not None
    assert found.greatest is not None
    assert (found.least.value, found.greatest.value) == pytest.approx((3.2111, 3.3897), abs=5e-5)
    assert (found.greatest.high, found.greatest.low) == (("R2", "sin"), ("R1",))
    # Of 2 %, and twice 1 % of R1/(R1 + R2) = 0.353.
    share = np.hypot(0.02, np.sqrt(2) * 0.01 * 10.2 / 28.9)
    assert found.square_high == pytest.approx(3.3 * (1 + share), rel=2e-4)
    assert found.square_low == pytest.approx(3.3 * (1 - share), rel=2e-4)
