"""The worst that can be built, against closed forms and every corner by brute force."""

from __future__ import annotations

from itertools import pairwise, product
from typing import Any

import numpy as np
import pytest

from tests.core.boards import board, low_pass, r, run_rows, source, spread
from verdad_core.document.board import Board
from verdad_core.errors import BoardError
from verdad_core.studies.fresh import fresh_study
from verdad_core.studies.kind import kind_of
from verdad_core.studies.kinds.worst_case import ALL_CORNERS, WorstCase


def worst(drawn: Board, **settings: Any) -> tuple[WorstCase, np.ndarray[Any, Any]]:
    """All rows of a worst case of check k [rows, measurements]."""
    study = WorstCase(id="w", title="W", checks=("k",), **settings)
    drawn = drawn.model_copy(update={"studies": (study,)})
    return study, run_rows(drawn, study, {}, 0, study.size_on(drawn)).values


def test_the_corner_of_an_rc_has_its_extremes() -> None:
    """159.15 Hz by 1.02 · 1.10 and by 0.98 · 0.90; R by itself moves it by 2 %."""
    study, rows = worst(low_pass())
    assert [factor.title for factor in study.factors(low_pass())] == ["C1", "R1"]
    corner = rows[:, 0]
    assert corner[0] == pytest.approx(159.155, rel=1e-4)
    assert corner[1:5] == pytest.approx(159.155 / np.array([0.9, 1.1, 0.98, 1.02]), rel=1e-4)
    assert (np.min(corner), np.max(corner)) == pytest.approx(
        (159.155 / (1.02 * 1.1), 159.155 / (0.98 * 0.9)), rel=1e-4
    )  # fmt: skip
    assert len(rows) == 1 + 4 + 4


def ladder(count: int) -> Board:
    """Resistors in a chain from 1 V to ground; what is measured is the volts above the last one."""
    nets = ["in", *(f"n{k}" for k in range(count - 2)), "out", "gnd"]
    parts = [r(f"R{k}", f"{k + 1}k", *pair) for k, pair in enumerate(pairwise(nets), 1)]
    drawn = board(parts, [source("in", dc="1", resistance="0")], "operating point",
                  measurements=[{"id": "v", "key": "value", "of": "v(out)"}])  # fmt: skip
    spreads = [spread(f"R{k}", 1.0 + k) for k in range(1, count + 1)]
    return Board.model_validate({**drawn.model_dump(mode="json"), "spreads": spreads})


def test_with_many_factors_the_corners_are_those_that_effects_point_to() -> None:
    """Ten resistors: the two extremes of all 1,024 corners, worked out by brute force."""
    count = 10
    assert count > ALL_CORNERS
    _, rows = worst(ladder(count))
    ohms, tolerance = 1e3 * np.arange(2, count + 2), np.arange(2, count + 2) / 100.0
    corners = [ohms * (1 + np.array(signs) * tolerance) for signs in product((-1, 1), repeat=count)]
    volts = [float(each[-1] / each.sum()) for each in corners]
    assert (np.min(rows), np.max(rows)) == pytest.approx((min(volts), max(volts)), rel=1e-6)
    assert len(rows) == 1 + 2 * count + 2


def test_a_group_goes_together_and_its_members_apart() -> None:
    """Two resistors of a network, 5 % together and 0.1 % apart: a divider sees only the latter."""
    parts = [r("R1", "10k", "in", "out"), r("R2", "10k", "out", "gnd")]
    drawn = board(parts, [source("in", dc="1")], "operating point",
                  measurements=[{"id": "v", "key": "value", "of": "v(out)"}])  # fmt: skip
    spreads = [spread(name, 5, matching=0.1, group="N") for name in ("R1", "R2")]
    _, rows = worst(Board.model_validate({**drawn.model_dump(mode="json"), "spreads": spreads}))
    assert len(rows) == 1 + 2 * 3 + 2**3
    assert np.max(rows) == pytest.approx(0.5 * (1.001 / 1.0), rel=1e-4)
    assert np.min(rows) == pytest.approx(0.5 * (0.999 / 1.0), rel=1e-4)


def test_temperature_has_its_ends_too() -> None:
    study, rows = worst(low_pass(), coldest="-40", hottest="85")
    assert [factor.title for factor in study.factors(low_pass())] == ["C1", "R1", "temperature"]
    # Ideal parts do not care.
    assert rows[5:7, 0] == pytest.approx(rows[0, 0], rel=1e-9)


def test_it_cannot_be_asked_where_nothing_varies_or_the_ends_are_none() -> None:
    bare = low_pass().model_copy(update={"spreads": ()})
    with pytest.raises(BoardError, match="spread yet"):
        fresh_study(bare, "worst case", "k")
    assert kind_of(fresh_study(low_pass(), "worst case", "k")).size_on(low_pass()) == 9
    for ends in ({"coldest": "0"}, {"coldest": "85", "hottest": "-40"}):
        with pytest.raises(ValueError, match=r"two ends|not hotter"):
            WorstCase(id="w", title="W", checks=("k",), **ends)
