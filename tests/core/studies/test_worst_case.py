"""The worst that can be built, against closed forms and every corner by brute force."""

from __future__ import annotations

from itertools import pairwise, product
from typing import Any

import numpy as np
import pytest

from tests.core.boards import board, c, low_pass, r, run_study, source, spread, two
from verdad_core.document.board import Board
from verdad_core.errors import BoardError
from verdad_core.spreads.amount import between
from verdad_core.studies.fresh import fresh_study
from verdad_core.studies.keys import column_key
from verdad_core.studies.kinds.worst_case import ALL_CORNERS, WorstCase


def worst(drawn: Board, **settings: Any) -> tuple[WorstCase, np.ndarray[Any, Any]]:
    """All rows of a worst case of check k [rows, measurements]."""
    study = WorstCase(id="w", title="W", checks=("k",), **settings)
    drawn = drawn.model_copy(update={"studies": (study,)})
    found = run_study(drawn, study, {})
    return study, np.transpose([found["k", column_key(each)].values for each in drawn.check("k")[1].measurements])


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
    # As drawn, each at its ends, all corners, and three rows on the way to the least and the greatest of both.
    assert len(rows) == 1 + 4 + 4 + 2 * 2 * 3


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
    assert len(rows) == 1 + 2 * count + 2 + 2 * 3


def test_sixty_parts_take_fewer_than_two_hundred_rows_the_look_within_included() -> None:
    study, rows = worst(ladder(60))
    assert len(rows) < 200
    assert study.size_on(ladder(60)) >= len(rows)


def resonance() -> Board:
    """10 mH and 100 nF, each ±20 %, resonate about 5 kHz with 50 Ω, Q 6.3; the gain at 5.033 kHz is measured."""
    parts = [r("R1", "50", "in", "a"), two("inductor", "L1", "10m", "a", "out"), c("C1", "100n", "out", "gnd")]
    asked = [{"id": "gain", "key": "gain_at", "settings": {"place": "5.0329k"}}]
    drawn = board(parts, [source("in")], "frequency response", source="vin", output="out", measurements=asked)
    spreads = [spread("L1", 20), spread("C1", 20), spread("R1", 1)]
    return Board.model_validate({**drawn.model_dump(mode="json"), "spreads": spreads})


def test_a_resonance_between_the_corners_is_found() -> None:
    """Corners alone fall decibels short; the gain is greatest where LC resonates: by a dense grid over the box."""
    study, rows = worst(resonance())
    drawn = resonance()
    omega = 2 * np.pi * 5032.9
    r1, l1, c1 = np.meshgrid([49.5, 50.5], np.linspace(8e-3, 12e-3, 801), np.linspace(80e-9, 120e-9, 801))
    gain = -20 * np.log10(np.abs(1 - omega**2 * l1 * c1 + 1j * omega * r1 * c1))
    # As drawn, three factors at their ends, and all corners.
    corners = rows[: 1 + 2 * 3 + 2**3, 0]
    assert np.max(corners) < np.max(gain) - 0.1
    # Five rounds in boxes that shrink to a hundredth of the whole.
    assert np.max(rows) == pytest.approx(np.max(gain), abs=0.01)
    assert np.min(rows) == pytest.approx(np.min(gain), abs=0.01)
    found = study.corners(drawn, run_study(drawn, study, {}), ("k", column_key(drawn.check("k")[1].measurements[0])))
    assert found.passed
    assert found.greatest is not None
    assert {each.factor for each in found.greatest.between} <= {"L1", "C1"}


def test_a_group_goes_together_and_its_members_apart() -> None:
    """Two resistors of a network, 5 % together and 0.1 % apart: a divider sees only the latter."""
    parts = [r("R1", "10k", "in", "out"), r("R2", "10k", "out", "gnd")]
    drawn = board(parts, [source("in", dc="1")], "operating point",
                  measurements=[{"id": "v", "key": "value", "of": "v(out)"}])  # fmt: skip
    spreads = [spread(name, 5, matching=0.1, group="N") for name in ("R1", "R2")]
    _, rows = worst(Board.model_validate({**drawn.model_dump(mode="json"), "spreads": spreads}))
    assert len(rows) == 1 + 2 * 3 + 2**3 + 2 * 3
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
    for ends in ({"coldest": "0"}, {"coldest": "85", "hottest": "-40"}):
        with pytest.raises(ValueError, match=r"two ends|not hotter"):
            WorstCase(id="w", title="W", checks=("k",), **ends)


def test_what_lies_unevenly_is_looked_at_in_proportion_on_both_sides() -> None:
    """-20 % to +80 % of 1 kΩ against 1 kΩ: on the way to its low end the divider only falls, and nothing turns."""
    parts = [r("R1", "1k", "in", "out"), r("R2", "1k", "out", "gnd")]
    drawn = board(parts, [source("in", dc="1")], "operating point",
                  measurements=[{"id": "v", "key": "value", "of": "v(out)"}])  # fmt: skip
    spreads = [{"of": "R2", "contributions": [{"amount": "-20 +80"}]}]
    _, rows = worst(Board.model_validate({**drawn.model_dump(mode="json"), "spreads": spreads}))
    ohms = 1e3 * (1 + np.array([0, -0.2, 0.8, -0.2, 0.8, -0.05, -0.1, -0.15, 0.2, 0.4, 0.6]))
    assert rows[:, 0] == pytest.approx(ohms / (ohms + 1e3), rel=1e-9)


def test_between_two_ends_that_leave_out_what_is_drawn_nothing_lies_outside_of_them() -> None:
    assert between(np.array([-1.0, -0.5, 0.0, 1.0]), 10.0, 0.0, 20.0).tolist() == [10.0, 12.5, 0.0, 20.0]
